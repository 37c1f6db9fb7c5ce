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
from true_backdrop.catalog.cut_source import CutSource, cut_key, source_of
from true_backdrop.catalog.database import announce, transaction
from true_backdrop.catalog.models import Frame, Run, RunItem
from true_backdrop.catalog.results import find_cut, find_rendition, get_spec, record_cut, record_rendition, renew_cut, show_square
from true_backdrop.catalog.runs import finish_item
from true_backdrop.catalog.shoots import get_shot
from true_backdrop.catalog.treatments import treatment_of
from true_backdrop.core import codec, exchange, pipeline
from true_backdrop.core.arrays import EncodedRGB, LinearRGB
from true_backdrop.core.audit import audit
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.edge import View, as_seen, cut_view, held
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.errors import BackdropDoesNotFit, TrueBackdropError
from true_backdrop.core.freshness import freshness
from true_backdrop.core.picture import Picture, proxy_size
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Treatment, hands_of
from true_backdrop.jobs.whole_frames import for_whole_frames
from true_backdrop.settings import settings

log = logging.getLogger("true_backdrop.worker")

#: Long side of the matte and of the square on walls and boards.
MATTE_LONG_SIDE = 560
#: For a first look a take keeps this many pixels: twice the proxy, so that its own averaging still counts.
FIRST_LOOK_PX = 2 * pipeline.PROXY_LONG_SIDE
SQUARE_PREVIEW_PX = 480


@dataclass(frozen=True, slots=True)
class ShotTask:
    """All that is needed to work on a shot, read in one transaction."""

    shot_id: int
    shoot_id: int
    source: CutSource
    focus_mm: tuple[float, float] | None
    treatment: Treatment
    specs: tuple[Spec, ...]

    @property
    def cut_key(self) -> str:
        return cut_key(self.source, self.treatment)

    @property
    def frame_name(self) -> str:
        return self.source.frame.name

    def finish_key(self, spec: Spec) -> str:
        return pipeline.finish_key(self.cut_key, self.treatment, spec)


def work_on_item(item_id: int) -> None:
    """Do one item of a run, unless the run was stopped or the item is done."""
    for_whole_frames()
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
    for_whole_frames()
    url = settings().database_url.get_secret_value()
    with transaction(url) as session:
        task = read_task(session, shot_id, [], estimate=True)
    do_task(url, task, first_look=True)
    with transaction(url) as session:
        renew_cut(session, task.shot_id, task.cut_key)
        announce(session, task.shoot_id, "shot")


def read_task(session: Session, shot_id: int, outlets: list[str], *, estimate: bool = False) -> ShotTask:
    """What is to be done for a shot; raises with a sentence when something is missing.

    With `estimate`, a missing backdrop frame is none: it is guessed.
    """
    shot = get_shot(session, shot_id)
    source = source_of(session, shot)
    if shot.frame is None or source is None:
        raise TrueBackdropError(f"{shot.product.code} {shot.angle.name}: no frame yet; bring one in")
    if source.backdrop is None and not estimate:
        raise TrueBackdropError(
            f"{shot.product.code} {shot.angle.name}: the empty set has not been shot from there; "
            "shoot it, or bring in a frame of it"
        )
    return ShotTask(
        shot.id,
        shot.shoot_id,
        source,
        _focus(shot.frame, backdrop_of(session, shot)),
        treatment_of(session, shot),
        tuple(get_spec(session, name) for name in outlets),
    )


def do_task(url: str, task: ShotTask, *, first_look: bool = False) -> None:
    """Cut, finish and store whatever is not there yet.

    For a first look a JPEG is read at half its size or less, if that is plenty for the screen; nothing is sent out from that.
    """
    blobs = BlobStore(settings().blob_url)
    with transaction(url) as session:
        cut = find_cut(session, task.shot_id, task.cut_key)
        settled = None if cut is None else cut.match
        missing = [s for s in task.specs if find_rendition(session, task.shot_id, s.name, task.finish_key(s)) is None]
    if settled is not None and not missing:
        return
    at_least = FIRST_LOOK_PX if first_look and not missing and task.source.hand_made is None else None
    try:
        made = _made(blobs, task, at_least)
    except BackdropDoesNotFit as fault:
        with transaction(url) as session:
            record_cut(session, _refused(task, str(fault)))
        return
    cut_row = None
    treatment, hands = task.treatment, hands_of(task.treatment)
    if settled is None:
        proposal = pipeline.propose_match(made.prepared, treatment.cut)
        decision = pipeline.decide_cut(made.prepared, treatment.cut, proposal, hands)
        outline = decision.outline
        cut_row = _cut_row(blobs, task, made, decision)
    else:
        outline = pipeline.outline_at(made.prepared, settled, treatment.cut.material, hands)
    square = _small_square(blobs, task, made, outline)
    rows = [row for spec in missing if (row := _rendered(blobs, task, spec, made, outline))]
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


@dataclass(frozen=True, slots=True)
class _Made:
    """A decoded take, compared with what was shot beside it; and the silhouette that its outline was found with."""

    frame: Picture
    prepared: pipeline.Prepared
    silhouette: tuple[Picture, LinearRGB] | None


def _made(blobs: BlobStore, task: ShotTask, at_least: int | None) -> _Made:
    source, cut = task.source, task.treatment.cut
    frame = codec.decode(blobs.get(source.frame.sha256), source.frame.name, at_least=at_least)
    backdrop = _backdrop(source.backdrop.sha256, source.backdrop.name) if source.backdrop else None
    if backdrop is not None and backdrop[0] == (source.frame.height, source.frame.width):
        # A take that is read smaller for a first look is as large as its file says.
        backdrop = (frame.height, frame.width), backdrop[1]
    silhouette = None
    if source.silhouette is not None and cut.silhouette and source.hand_made is None:
        dark = codec.decode(blobs.get(source.silhouette.sha256), source.silhouette.name, at_least=at_least)
        empty = _backdrop(source.backlit.sha256, source.backlit.name)[1] if source.backlit else None
        silhouette = source.silhouette.name, dark, empty
    hand_made = None
    if source.hand_made is not None:
        hand_made = exchange.returned(blobs.get(source.hand_made.sha256), source.hand_made.name).made
    behind = source.backdrop
    closer = None if behind is None else lambda: _whole_backdrop(behind.sha256, behind.name)
    prepared = pipeline.prepare_with(frame, pipeline.Beside(backdrop, silhouette, hand_made, closer), cut.framing)
    in_one_light = behind is not None and silhouette is None and cut.framing is None
    if at_least is not None and in_one_light and pipeline.is_small(prepared):
        return _made(blobs, task, None)  # a small product has too few pixels in a frame that was read smaller
    prepared = prepared.seen_for(hands_of(task.treatment))
    used = None if silhouette is None or prepared.backlit_proxy is None else (silhouette[1], prepared.backlit_proxy)
    return _Made(frame, prepared, used)


@lru_cache(6)
def _backdrop(digest: str, name: str) -> tuple[tuple[int, int], LinearRGB]:
    """Size and proxy of a backdrop frame: decoded once for many shots."""
    picture = codec.decode(BlobStore(settings().blob_url).get(digest), name)
    return (picture.height, picture.width), pipeline.backdrop_proxy(picture)


@lru_cache(1)
def _whole_backdrop(digest: str, name: str) -> Picture:
    """The pixels of a backdrop frame, for sets whose products are small."""
    return codec.decode(BlobStore(settings().blob_url).get(digest), name)


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


def _cut_row(blobs: BlobStore, task: ShotTask, made: _Made, decision: pipeline.Decision) -> dict[str, object]:
    frame, prepared = made.frame, made.prepared
    size = proxy_size(frame.height, frame.width, MATTE_LONG_SIDE)
    shown = np.asarray(cv2.resize(prepared.aligned.frame, size[::-1], interpolation=cv2.INTER_AREA), np.float32)
    behind = np.asarray(cv2.resize(prepared.backdrop_proxy, size[::-1], interpolation=cv2.INTER_AREA), np.float32)
    view = View(frame.whole, size, (frame.height, frame.width))
    backlit = None
    if prepared.backlit is not None and prepared.backlit_proxy is not None:
        dark = cv2.resize(prepared.backlit.frame, size[::-1], interpolation=cv2.INTER_AREA)
        empty = cv2.resize(prepared.backlit_proxy, size[::-1], interpolation=cv2.INTER_AREA)
        backlit = held(np.asarray(dark, np.float32)), as_seen(held(np.asarray(empty, np.float32)))
    made_cut = cut_view(held(shown), as_seen(held(behind)), decision.outline, view, backlit)
    matte = made_cut.alpha
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
        "places": [asdict(place) for place in judgement.places],
        "levels_sha256": blobs.put(codec.encode_plane(pipeline.levels_of(prepared, decision, task.treatment.cut.material))),
        "cutout_sha256": blobs.put(codec.encode_cutout(encode_pixels(made_cut.foreground), matte)),
        "trials": [asdict(trial) for trial in decision.proposal.trials],
        "freshness": _freshness(task, prepared, decision),
        "estimated": task.source.backdrop is None,
        "hand_made": task.source.hand_made is not None,
        "matte_sha256": blobs.put(codec.encode_preview(grey)),
    }


def _freshness(task: ShotTask, prepared: pipeline.Prepared, decision: pipeline.Decision) -> list[dict[str, object]]:
    if task.source.backdrop is None:
        return []
    product = pipeline.product_on_proxy(prepared, decision.outline)
    return [asdict(found) for found in freshness(prepared.aligned, product, task.focus_mm)]


def _small_square(blobs: BlobStore, task: ShotTask, made: _Made, outline: Outline) -> str | None:
    """The square of walls and boards, in the store; None when there is no product to show."""
    spec = Spec(name="preview", title="Preview", side_px=SQUARE_PREVIEW_PX, quality=88, shadow="own")
    square = _finished(task, made, outline, spec)
    return None if square is None else blobs.put(codec.encode_preview(square))


def _finished(task: ShotTask, made: _Made, outline: Outline, spec: Spec) -> EncodedRGB | None:
    behind = made.prepared.backdrop_proxy
    return pipeline.finish(made.frame, behind, outline, task.treatment, spec, made.silhouette)


def _rendered(blobs: BlobStore, task: ShotTask, spec: Spec, made: _Made, outline: Outline) -> dict[str, object] | None:
    square = _finished(task, made, outline, spec)
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
