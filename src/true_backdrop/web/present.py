"""From rows to what the interface is told."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

from sqlalchemy.orm import Session

from true_backdrop.catalog import results, runs, shoots, treatments
from true_backdrop.catalog.cut_source import CutSources, cut_key
from true_backdrop.catalog.frames import get_frame, takes_of, waiting_frames
from true_backdrop.catalog.models import Cut, Frame, Rendition, Run, Shoot, Shot
from true_backdrop.core import pipeline
from true_backdrop.core.naming import NamePattern
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Treatment
from true_backdrop.web import models


def blob_path(digest: str) -> str:
    return f"/api/pictures/{digest}"


def frame_public(frame: Frame) -> models.FramePublic:
    return models.FramePublic(
        id=frame.id,
        shot_id=frame.shot_id,
        kind=cast(Any, frame.kind),
        file_name=frame.file_name,
        format=frame.format,
        width=frame.width,
        height=frame.height,
        bytes=frame.bytes,
        source_profile=frame.source_profile,
        preview=blob_path(frame.preview_sha256),
    )


class ShootView:
    """A shoot as it stands now: shots, their settings, and which results still hold. Read in a handful of queries."""

    def __init__(self, session: Session, shoot_id: int) -> None:
        self.shoot: Shoot = shoots.get_shoot(session, shoot_id)
        self.shots: Sequence[Shot] = shoots.shots_of(session, shoot_id)
        self.backdrop = get_frame(session, self.shoot.backdrop_id) if self.shoot.backdrop_id else None
        self.sources = CutSources(session, self.shoot)
        self.backdrops = self.sources.backdrops
        self.takes = takes_of(session, shoot_id)
        self.cuts = shoots.latest_cuts(session, shoot_id)
        self.renditions = shoots.latest_renditions(session, shoot_id)
        self.treatments: dict[int, tuple[Treatment, dict[str, Any]]] = treatments.treatments_of(session, shoot_id, self.shots)
        self.run: Run | None = runs.latest_run(session, shoot_id)
        self.problems = runs.problems_of(session, self.run.id) if self.run else {}

    def cut_key(self, shot: Shot) -> str | None:
        source = self.sources.of(shot)
        return None if source is None or source.backdrop is None else cut_key(source, self.treatments[shot.id][0])

    def cut_holds(self, shot: Shot) -> bool:
        """Whether the newest cut was made from the present frame, backdrop frame and settings."""
        cut = self.cuts.get(shot.id)
        return cut is not None and cut.key == self.cut_key(shot)

    def rendition_holds(self, shot: Shot, spec: Spec) -> bool:
        rendition, key = self.renditions.get((shot.id, spec.name)), self.cut_key(shot)
        return (
            rendition is not None
            and key is not None
            and rendition.key == pipeline.finish_key(key, self.treatments[shot.id][0], spec)
        )


def cut_public(view: ShootView, shot: Shot, cut: Cut) -> models.CutPublic:
    return models.CutPublic(
        match=cut.match,
        proposed=cut.proposed,
        verdict=cast(Any, cut.verdict),
        reasons=cut.reasons,
        doubt=cut.doubt,
        matte=blob_path(cut.matte_sha256) if cut.matte_sha256 else None,
        square=blob_path(cut.square_sha256) if cut.square_sha256 else None,
        cutout=blob_path(cut.cutout_sha256) if cut.cutout_sha256 else None,
        levels=f"/api/levels/{cut.levels_sha256}" if cut.levels_sha256 else None,
        accepted=shot.accepted_key == cut.key,
        hand_made=cut.hand_made,
        places=[models.PlacePublic.model_validate(place) for place in cut.places],
        concerns=list(dict.fromkeys(place["said"] for place in cut.places)) or (["something else"] if cut.reasons else []),
        current=view.cut_holds(shot),
        estimated=cut.estimated,
        freshness=[models.FreshnessFinding.model_validate(found) for found in cut.freshness],
    )


def shot_public(view: ShootView, shot: Shot) -> models.ShotPublic:
    cut = view.cuts.get(shot.id)
    return models.ShotPublic(
        id=shot.id,
        product_id=shot.product_id,
        code=shot.product.code,
        name=shot.product.name,
        material=shot.product.material,
        angle=shot.angle.name,
        spin=shot.angle.spin,
        frame=frame_public(shot.frame) if shot.frame else None,
        cut=cut_public(view, shot, cut) if cut and shot.frame else None,
        own_sections=sorted(view.treatments[shot.id][1]),
        problem=view.problems.get(shot.id),
        takes=view.takes.get(shot.id, 0),
        skipped=shot.skipped,
    )


def counts(session: Session, view: ShootView) -> models.StationCounts:
    """The numbers on the line of stations. Only results that still hold are counted."""
    verdicts = [view.cuts[shot.id].verdict for shot in view.shots if view.cut_holds(shot)]
    ready = {
        spec.name: sum(1 for shot in view.shots if row_state(view, shot, spec) == "ready")
        for spec in (Spec.model_validate(row.spec) for row in results.list_outlets(session))
    }
    return models.StationCounts(
        shots=len(view.shots),
        with_frame=sum(1 for shot in view.shots if shot.frame_id),
        cut=len(verdicts),
        clean=verdicts.count("clean"),
        look_again=verdicts.count("look_again"),
        redo=verdicts.count("redo"),
        ready=ready,
    )


def run_public(session: Session, run: Run) -> models.RunPublic:
    progress = runs.progress_of(session, run)
    return models.RunPublic(
        id=run.id,
        state=cast(Any, run.state),
        outlets=run.outlets,
        total=progress.total,
        done=progress.done,
        failed=progress.failed,
        rate_per_minute=progress.rate_per_minute,
        left_s=progress.left_s,
        problems=runs.problems_of(session, run.id),
    )


def shoot_public(session: Session, shoot_id: int) -> models.ShootPublic:
    view = ShootView(session, shoot_id)
    return models.ShootPublic(
        id=view.shoot.id,
        name=view.shoot.name,
        angles=[angle.name for angle in view.shoot.angles],
        counts=counts(session, view),
        backdrop=frame_public(view.backdrop) if view.backdrop else None,
        treatment=treatments.shoot_treatment(session, shoot_id),
        run=run_public(session, view.run) if view.run else None,
        waiting=[frame_public(frame) for frame in waiting_frames(session, shoot_id)],
    )


def summary(session: Session, shoot: Shoot) -> models.ShootSummary:
    view = ShootView(session, shoot.id)
    cover = [
        view.cuts[s.id].square_sha256 or s.frame.preview_sha256 if s.id in view.cuts else s.frame.preview_sha256
        for s in view.shots
        if s.frame
    ][:4]
    return models.ShootSummary(
        id=shoot.id,
        name=shoot.name,
        created_at=shoot.created_at,
        counts=counts(session, view),
        cover=[blob_path(c) for c in cover],
    )


def row_state(view: ShootView, shot: Shot, spec: Spec) -> str:
    """Whether a shot can go to an outlet: ready, fails its audit, redo, outdated, or missing."""
    if view.cut_holds(shot) and view.cuts[shot.id].verdict == "redo":
        return "redo"
    rendition = view.renditions.get((shot.id, spec.name))
    if rendition is None:
        return "missing"
    if not view.rendition_holds(shot, spec):
        return "outdated"
    return "ready" if rendition.passed else "fails"


def sheet(view: ShootView, spec: Spec) -> models.Sheet:
    """Every shot against every rule of a spec, with the name and the bytes that it will have."""
    names = file_names(view, spec)
    rows = [_sheet_row(view, shot, spec, names[shot.id]) for shot in view.shots]
    rules = list(dict.fromkeys(finding.rule for row in rows for finding in row.findings))
    return models.Sheet(spec=spec, rules=rules, rows=rows)


def _sheet_row(view: ShootView, shot: Shot, spec: Spec, name: str) -> models.SheetRow:
    rendition: Rendition | None = view.renditions.get((shot.id, spec.name))
    cut = view.cuts.get(shot.id)
    return models.SheetRow(
        shot_id=shot.id,
        code=shot.product.code,
        name=shot.product.name,
        angle=shot.angle.name,
        file=name,
        verdict=cast(Any, cut.verdict) if cut else None,
        state=cast(Any, row_state(view, shot, spec)),
        bytes=rendition.bytes if rendition else None,
        quality=rendition.quality if rendition else None,
        picture=blob_path(rendition.sha256) if rendition else None,
        findings=[models.FindingPublic.model_validate(f) for f in rendition.findings] if rendition else [],
    )


def file_names(view: ShootView, spec: Spec) -> dict[int, str]:
    """The name of each shot's file for an outlet, by the pattern; names that would collide get a number."""
    pattern, taken, names = NamePattern(spec.name_pattern), set[str](), dict[int, str]()
    for number, shot in enumerate(view.shots, start=1):
        base = pattern.fill(
            {
                "code": shot.product.code,
                "angle": shot.angle.name,
                "name": shot.product.name,
                "outlet": spec.name,
                "number": number,
            }
        )
        name, n = base, 2
        while name.lower() in taken:
            name, n = f"{base}-{n}", n + 1
        taken.add(name.lower())
        names[shot.id] = f"{name}.{spec.extension}"
    return names
