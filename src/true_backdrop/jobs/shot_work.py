"""One shot of a run: load, compute, store, report. Made twice it leaves the same rows and files."""

from __future__ import annotations

import logging
from dataclasses import asdict, dataclass
from functools import lru_cache

import cv2
import numpy as np
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.orm import Session

from true_backdrop.catalog.backdrops import backdrop_of
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import announce, transaction
from true_backdrop.catalog.models import Frame, Run, RunItem
from true_backdrop.catalog.results import find_cut, find_rendition, get_spec, record_cut, record_rendition, renew_cut, show_square
from true_backdrop.catalog.runs import finish_item
from true_backdrop.catalog.shoots import get_shot
from true_backdrop.catalog.treatments import treatment_of
from true_backdrop.core import codec, pipeline
from true_backdrop.core.arrays import LinearRGB
from true_backdrop.core.audit import audit
from true_backdrop.core.cut.edge import View, as_seen, cut_view, held
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.errors import BackdropDoesNotFit, TrueBackdropError
from true_backdrop.core.freshness import freshness
from true_backdrop.core.picture import Picture, proxy_size
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Treatment
from true_backdrop.settings import settings

log = logging.getLogger("true_backdrop.worker")

#: Long side of the matte and of the square on walls and boards.
MATTE_LONG_SIDE = 560
SQUARE_PREVIEW_PX = 480


@dataclass(frozen=True, slots=True)
class ShotTask:
    """All that is needed to work on a shot, read in one transaction."""

    shot_id: int
    shoot_id: int
    frame_sha: str
    frame_name: str
    backdrop_sha: str | None
    backdrop_name: str
    focus_mm: tuple[float, float] | None
    treatment: Treatment
    specs: tuple[Spec, ...]

    @property
    def cut_key(self) -> str:
        return pipeline.cut_key(self.frame_sha, self.backdrop_sha or "estimated", self.treatment.cut)

    def finish_key(self, spec: Spec) -> str:
        return pipeline.finish_key(self.cut_key, self.treatment, spec)


def work_on_item(item_id: int) -> None:
    """Do one item of a run, unless the run was stopped or the item is done."""
    cv2.setNumThreads(1)
    url = settings().database_url.get_secret_value()
    with transaction(url) as session:
        item = session.get(RunItem, item_id)
        run = session.get(Run, item.run_id) if item else None
        if item is None or run is None or run.state != "running" or item.state != "waiting":
            return
        shoot_id, shot_id = run.shoot_id, item.shot_id
        try:
            task = read_task(session, shot_id, run.outlets)
        except TrueBackdropError as fault:
            finish_item(session, item_id, str(fault))
            announce(session, shoot_id, "run")
            return
    problem = None
    try:
        do_task(url, task)
    except TrueBackdropError as fault:
        problem = str(fault)
    except (OperationalError, InterfaceError):
        raise  # the database is away: the queue tries again
    except Exception:
        # A fault of ours must not leave the run waiting for ever; the log has what is needed to cure it.
        log.exception("shot %s could not be done", shot_id, extra={"action": "finish_shot", "shot": shot_id})
        problem = f"{task.frame_name}: a fault in the program kept this shot from being done; the worker's log has the details"
    with transaction(url) as session:
        finish_item(session, item_id, problem)
        announce(session, shoot_id, "run")


def look_at_take(shot_id: int) -> None:
    """Cut and finish the chosen take of a shot for the screen, while the product is still on the table."""
    cv2.setNumThreads(1)
    url = settings().database_url.get_secret_value()
    with transaction(url) as session:
        task = read_task(session, shot_id, [], estimate=True)
    do_task(url, task)
    with transaction(url) as session:
        renew_cut(session, task.shot_id, task.cut_key)
        announce(session, task.shoot_id, "shot")


def read_task(session: Session, shot_id: int, outlets: list[str], *, estimate: bool = False) -> ShotTask:
    """What is to be done for a shot; raises with a sentence when something is missing.

    With `estimate`, a missing backdrop frame is none: it is guessed.
    """
    shot = get_shot(session, shot_id)
    if shot.frame is None:
        raise TrueBackdropError(f"{shot.product.code} {shot.angle.name}: no frame yet; bring one in")
    backdrop = backdrop_of(session, shot)
    if backdrop is None and not estimate:
        raise TrueBackdropError(
            f"{shot.product.code} {shot.angle.name}: the empty set has not been shot from there; "
            "shoot it, or bring in a frame of it"
        )
    return ShotTask(
        shot.id,
        shot.shoot_id,
        shot.frame.sha256,
        shot.frame.file_name,
        backdrop.sha256 if backdrop else None,
        backdrop.file_name if backdrop else "the estimated backdrop",
        _focus(shot.frame, backdrop),
        treatment_of(session, shot),
        tuple(get_spec(session, name) for name in outlets),
    )


def do_task(url: str, task: ShotTask) -> None:
    """Cut, finish and store whatever is not there yet."""
    blobs = BlobStore(settings().blob_url)
    with transaction(url) as session:
        cut = find_cut(session, task.shot_id, task.cut_key)
        settled = None if cut is None else cut.match
        missing = [s for s in task.specs if find_rendition(session, task.shot_id, s.name, task.finish_key(s)) is None]
    if settled is not None and not missing:
        return
    frame = codec.decode(blobs.get(task.frame_sha), task.frame_name)
    try:
        prepared = _prepared(task, frame)
    except BackdropDoesNotFit as fault:
        with transaction(url) as session:
            record_cut(session, _refused(task, str(fault)))
        return
    cut_row = None
    if settled is None:
        decision = pipeline.decide_cut(prepared, task.treatment.cut, pipeline.propose_match(prepared, task.treatment.cut))
        outline = decision.outline
        cut_row = _cut_row(blobs, task, prepared, decision, frame)
    else:
        outline = pipeline.outline_at(prepared, settled, task.treatment.cut.material)
    square = _small_square(blobs, task, frame, prepared.backdrop_proxy, outline)
    rows = [row for spec in missing if (row := _rendered(blobs, task, spec, frame, prepared.backdrop_proxy, outline))]
    with transaction(url) as session:
        if cut_row is not None:
            record_cut(session, cut_row | {"square_sha256": square})
        else:
            show_square(session, task.shot_id, task.cut_key, square)
        for row in rows:
            record_rendition(session, row)


def _focus(take: Frame, backdrop: Frame | None) -> tuple[float, float] | None:
    """What the lens was focused at for both, where the camera told."""
    if backdrop is None:
        return None
    one, other = ((frame.made_with or {}).get("camera", {}).get("focus_mm") for frame in (take, backdrop))
    return None if one is None or other is None else (float(one), float(other))


def _prepared(task: ShotTask, frame: Picture) -> pipeline.Prepared:
    box = task.treatment.cut.framing
    if task.backdrop_sha is None:
        return pipeline.prepare_guessed(frame, box)
    size, proxy = _backdrop(task.backdrop_sha, task.backdrop_name)
    return pipeline.prepare(frame, size, proxy, box)


@lru_cache(4)
def _backdrop(digest: str, name: str) -> tuple[tuple[int, int], LinearRGB]:
    """Size and proxy of a backdrop frame: decoded once for many shots."""
    picture = codec.decode(BlobStore(settings().blob_url).get(digest), name)
    return (picture.height, picture.width), pipeline.backdrop_proxy(picture)


def _refused(task: ShotTask, reason: str) -> dict[str, object]:
    return {
        "shot_id": task.shot_id,
        "key": task.cut_key,
        "match": 50,
        "proposed": 50,
        "verdict": Verdict.REDO.value,
        "reasons": [reason],
        "doubt": 1.0,
        "trials": [],
        "matte_sha256": None,
        "square_sha256": None,
    }


def _cut_row(
    blobs: BlobStore, task: ShotTask, prepared: pipeline.Prepared, decision: pipeline.Decision, frame: Picture
) -> dict[str, object]:
    size = proxy_size(frame.height, frame.width, MATTE_LONG_SIDE)
    shown = np.asarray(cv2.resize(prepared.aligned.frame, size[::-1], interpolation=cv2.INTER_AREA), np.float32)
    behind = np.asarray(cv2.resize(prepared.backdrop_proxy, size[::-1], interpolation=cv2.INTER_AREA), np.float32)
    view = View(frame.whole, size, (frame.height, frame.width))
    matte = cut_view(held(shown), as_seen(held(behind)), decision.outline, view).alpha
    grey = np.repeat(np.round(matte * 255).astype(np.uint8)[..., None], 3, axis=2)
    judgement = decision.judgement
    return {
        "shot_id": task.shot_id,
        "key": task.cut_key,
        "match": decision.match,
        "proposed": decision.proposal.match,
        "verdict": judgement.verdict.value,
        "reasons": list(judgement.reasons),
        "doubt": judgement.doubt,
        "trials": [asdict(trial) for trial in decision.proposal.trials],
        "freshness": _freshness(task, prepared, decision),
        "estimated": task.backdrop_sha is None,
        "matte_sha256": blobs.put(codec.encode_preview(grey)),
    }


def _freshness(task: ShotTask, prepared: pipeline.Prepared, decision: pipeline.Decision) -> list[dict[str, object]]:
    if task.backdrop_sha is None:
        return []
    return [asdict(found) for found in freshness(prepared.aligned, decision.outline.product, task.focus_mm)]


def _small_square(blobs: BlobStore, task: ShotTask, frame: Picture, backdrop: LinearRGB, outline: Outline) -> str | None:
    """The square of walls and boards, in the store; None when there is no product to show."""
    spec = Spec(name="preview", title="Preview", side_px=SQUARE_PREVIEW_PX, quality=88, shadow="own")
    square = pipeline.finish(frame, backdrop, outline, task.treatment, spec)
    return None if square is None else blobs.put(codec.encode_preview(square))


def _rendered(
    blobs: BlobStore, task: ShotTask, spec: Spec, frame: Picture, backdrop: LinearRGB, outline: Outline
) -> dict[str, object] | None:
    square = pipeline.finish(frame, backdrop, outline, task.treatment, spec)
    if square is None:
        return None
    data, quality = pipeline.encode_for(square, spec)
    findings = audit(data, task.frame_name, spec)
    return {
        "shot_id": task.shot_id,
        "outlet": spec.name,
        "key": task.finish_key(spec),
        "sha256": blobs.put(data),
        "bytes": len(data),
        "quality": quality,
        "passed": all(f.passed for f in findings),
        "findings": [asdict(f) for f in findings],
    }
