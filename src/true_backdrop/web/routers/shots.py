"""One shot: its settings, looks at its cut, its finished square."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request, Response

from true_backdrop.catalog import shoots, treatments
from true_backdrop.catalog.cut_source import source_of
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.models import Frame
from true_backdrop.catalog.results import get_spec
from true_backdrop.core import codec, marks
from true_backdrop.core.errors import TrueBackdropError
from true_backdrop.core.picture import Region
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Material, Treatment, hands_of
from true_backdrop.core.views import ViewName
from true_backdrop.web import models, present
from true_backdrop.web.dependencies import Db
from true_backdrop.web.preview import Asked, PreviewDesk

router = APIRouter(prefix="/api/shots", tags=["shots"])
NO_STORE = {"Cache-Control": "no-store"}


@router.get("/{shot_id}")
def read_shot(shot_id: int, db: Db) -> models.ShotDetail:
    shot = shoots.get_shot(db, shot_id)
    view = present.ShootView(db, shot.shoot_id)
    takes = db.query(Frame).filter(Frame.shot_id == shot_id, Frame.kind == "product").order_by(Frame.id).all()
    return models.ShotDetail(
        shot=present.shot_public(view, shot),
        treatment=view.treatments[shot.id][0],
        takes=[present.frame_public(frame) for frame in takes],
        can_undo=treatments.can_undo(db, shot.shoot_id, shot.id),
    )


def asked_of(db: Db, shot_id: int, match: int | None, material: Material | None) -> tuple[Asked, Treatment]:
    """The files and the treatment in force, with the control's value of the moment in it."""
    shot = shoots.get_shot(db, shot_id)
    source = source_of(db, shot)
    if source is None:
        raise TrueBackdropError(f"{shot.product.code} {shot.angle.name} has no frame yet; bring one in")
    treatment = treatments.treatment_of(db, shot)
    wanted_match = treatment.cut.match if match is None else (None if match < 0 else match)
    cut = treatment.cut.model_copy(update={"match": wanted_match, "material": material or treatment.cut.material})
    db.commit()  # nothing is held in the database while pixels are computed
    return Asked(source, cut, hands_of(treatment)), treatment.model_copy(update={"cut": cut})


Match = Annotated[int | None, Query(ge=-1, le=100, description="Backdrop match to look at; -1 for the proposed one.")]
MaterialChoice = Annotated[Material | None, Query()]


def _desk(request: Request) -> PreviewDesk:
    desk: PreviewDesk = request.app.state.desk
    return desk


@router.get("/{shot_id}/cut")
def read_cut(shot_id: int, request: Request, db: Db, match: Match = None, material: MaterialChoice = None) -> models.CutAnswer:
    """What the program thinks at a backdrop match, before anything is stored."""
    asked, _ = asked_of(db, shot_id, match, material)
    decision = _desk(request).decision(asked)
    found, work, asked_for_clear = decision.found, decision.outline.by_hand, asked.cut.material == "clear"
    lines = [] if work is None else [outline.points.round(5).tolist() for outline in work.outlines]
    return models.CutAnswer(
        outlines=lines,
        match=decision.match,
        proposed=decision.proposal.match,
        verdict=decision.judgement.verdict.value,
        reasons=list(decision.judgement.reasons),
        places=[models.PlacePublic.model_validate(asdict(place)) for place in decision.judgement.places],
        trials=[models.TrialPublic(match=t.match, leftover=t.leftover, lost=t.lost) for t in decision.proposal.trials],
        found=None if found is None else models.BoxPublic(left=found[0], top=found[1], right=found[2], bottom=found[3]),
        seems=_desk(request).seems(asked),
        glass=asked_for_clear or (work is not None and work.clear is not None),
    )


@router.get("/{shot_id}/look", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
def look(
    shot_id: int,
    request: Request,
    db: Db,
    view: ViewName = "frame",
    match: Match = None,
    material: MaterialChoice = None,
    width: Annotated[int, Query(ge=100, le=1280)] = 1000,
) -> Response:
    """The whole frame in one view, at the control's value of the moment."""
    asked, treatment = asked_of(db, shot_id, match, material)
    return Response(
        _desk(request).look(asked, view, width, treatment.ground.shadow),
        media_type="image/jpeg",
        headers=NO_STORE,
    )


@router.get("/{shot_id}/look-close", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
def look_close(
    shot_id: int,
    request: Request,
    db: Db,
    top: Annotated[int, Query(ge=0)],
    left: Annotated[int, Query(ge=0)],
    height: Annotated[int, Query(ge=1, le=2400)],
    width: Annotated[int, Query(ge=1, le=4096)],
    view: ViewName = "frame",
    match: Match = None,
    material: MaterialChoice = None,
) -> Response:
    """A part of the frame at 100 %: one picture pixel for each frame pixel."""
    asked, treatment = asked_of(db, shot_id, match, material)
    region = Region(top, left, top + height, left + width)
    return Response(
        _desk(request).look_close(asked, view, region, treatment.ground.shadow),
        media_type="image/jpeg",
        headers=NO_STORE,
    )


def _square_spec(db: Db, outlet: str, px: int | None) -> Spec:
    spec = get_spec(db, outlet)
    return spec if px is None else spec.model_copy(update={"side_px": min(px, spec.side_px)})


def _square(request: Request, db: Db, shot_id: int, outlet: str, px: int | None) -> tuple[np.ndarray, Spec, Asked, Treatment]:
    spec = _square_spec(db, outlet, px)
    asked, treatment = asked_of(db, shot_id, None, None)
    square = _desk(request).square(asked, treatment, spec)
    if square is None:
        raise TrueBackdropError("no product was found in this frame; look at the cut first")
    return square, spec, asked, treatment


@router.get("/{shot_id}/square", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
def square(
    shot_id: int,
    request: Request,
    db: Db,
    outlet: str,
    px: Annotated[int, Query(ge=100, le=1400)] = 800,
    mark: marks.MarkName = "none",
) -> Response:
    """The finished square, with measuring marks if wanted."""
    pixels, _, _, _ = _square(request, db, shot_id, outlet, px)
    return Response(codec.encode_preview(marks.marked(pixels, mark), 92), media_type="image/jpeg", headers=NO_STORE)


@router.get("/{shot_id}/measure")
def measure(shot_id: int, request: Request, db: Db, outlet: str) -> models.FinishMeasure:
    """Numbers for one finished square: coverage, pixels that are not white, blown-out product, how far its colour moved."""
    pixels, spec, asked, treatment = _square(request, db, shot_id, outlet, 1000)
    unsharpened = _desk(request).square(
        asked, treatment.model_copy(update={"sharpen": treatment.sharpen.model_copy(update={"amount": 0.0})}), spec
    )
    found = marks.measure(pixels)
    desk = _desk(request)
    moved = marks.colour_moved(desk.prepared(asked), desk.decision(asked).outline, treatment, spec, unsharpened)
    return models.FinishMeasure(
        side_px=spec.side_px, coverage=found.coverage, not_white=found.not_white, blown_out=found.blown_out, colour_moved=moved
    )


@router.get("/{shot_id}/point")
def point(
    shot_id: int,
    request: Request,
    db: Db,
    outlet: str,
    x: Annotated[float, Query(ge=0, le=1)],
    y: Annotated[float, Query(ge=0, le=1)],
) -> models.PointReadout:
    """The values of one point of the finished square; x and y as parts of the side."""
    pixels, spec, _, _ = _square(request, db, shot_id, outlet, 1000)
    row, column = min(spec.side_px - 1, int(y * spec.side_px)), min(spec.side_px - 1, int(x * spec.side_px))
    red, green, blue = (int(v) for v in pixels[row, column])
    return models.PointReadout(red=red, green=green, blue=blue, white=red == green == blue == 255)


@router.put("/{shot_id}/treatment")
def change_shot_treatment(shot_id: int, wanted: models.TreatmentChange, db: Db) -> models.ShotDetail:
    shot = shoots.get_shot(db, shot_id)
    treatments.set_sections(db, shot.shoot_id, shot.id, wanted.sections(), wanted.said or "")
    announce(db, shot.shoot_id, "treatment")
    return read_shot(shot_id, db)


@router.get("/{shot_id}/revisions")
def shot_revisions(shot_id: int, db: Db) -> list[models.RevisionPublic]:
    shot = shoots.get_shot(db, shot_id)
    return [
        models.RevisionPublic(id=r.id, created_at=r.created_at, said=r.said, sections=r.sections)
        for r in treatments.revisions(db, shot.shoot_id, shot.id)
    ]


@router.post("/{shot_id}/take-back")
def take_shot_back(shot_id: int, wanted: models.TakeBack, db: Db) -> models.ShotDetail:
    shot = shoots.get_shot(db, shot_id)
    treatments.take_back(db, shot.shoot_id, shot.id, wanted.revision)
    announce(db, shot.shoot_id, "treatment")
    return read_shot(shot_id, db)


@router.post("/{shot_id}/undo")
def undo(shot_id: int, db: Db) -> models.ShotDetail:
    """Take the last change of this shot's own settings back; again, the one before it."""
    shot = shoots.get_shot(db, shot_id)
    treatments.undo(db, shot.shoot_id, shot.id)
    announce(db, shot.shoot_id, "treatment")
    return read_shot(shot_id, db)


of_shoot = APIRouter(prefix="/api/shoots", tags=["treatments"])


@of_shoot.put("/{shoot_id}/treatment")
def change_shoot_treatment(shoot_id: int, wanted: models.TreatmentChange, db: Db) -> models.ShootPublic:
    shoots.get_shoot(db, shoot_id)
    treatments.set_sections(db, shoot_id, None, wanted.sections(), wanted.said or "")
    announce(db, shoot_id, "treatment")
    return present.shoot_public(db, shoot_id)


@of_shoot.get("/{shoot_id}/revisions")
def shoot_revisions(shoot_id: int, db: Db) -> list[models.RevisionPublic]:
    shoots.get_shoot(db, shoot_id)
    return [
        models.RevisionPublic(id=r.id, created_at=r.created_at, said=r.said, sections=r.sections)
        for r in treatments.revisions(db, shoot_id)
    ]


@of_shoot.post("/{shoot_id}/take-back")
def take_shoot_back(shoot_id: int, wanted: models.TakeBack, db: Db) -> models.ShootPublic:
    treatments.take_back(db, shoot_id, None, wanted.revision)
    announce(db, shoot_id, "treatment")
    return present.shoot_public(db, shoot_id)
