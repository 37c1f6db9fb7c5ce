"""What happens around one press of the shutter. A picture is off the card only when it is in the catalog."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Iterator

from sqlalchemy.orm import Session

from true_backdrop.catalog import series as focus_series
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.frames import add_frame, check_frame
from true_backdrop.catalog.models import FocusSeries, Frame, Shot
from true_backdrop.catalog.shoots import get_shot
from true_backdrop.catalog.taking import Kind, made_with, record_take
from true_backdrop.catalog.treatments import treatment_of
from true_backdrop.core.errors import PictureError, TrueBackdropError
from true_backdrop.jobs.queue import defer_looks, defer_merge
from true_backdrop.studio.errors import StudioError
from true_backdrop.studio.protocols import Studio, Taken
from true_backdrop.web.studio_desk import Pressed, StudioDesk

log = logging.getLogger("true_backdrop.studio")


def take(desk: StudioDesk, db: Session, blobs: BlobStore, shot: Shot, kind: Kind) -> Frame:
    """Press the shutter for a shot; what lies on the card from before comes in first. Commits."""
    collect(desk, db, blobs, shot.shoot_id)
    studio = desk.studio
    if shot.angle.degrees is not None and kind not in ("backdrop", "backlit") and studio.status().turntable is not None:
        studio.turn_to(shot.angle.degrees)
    with _set_for(studio, kind):
        name = studio.release()
    desk.pressed[name] = Pressed(shot.id, kind)
    return _bring_in(desk, db, blobs, name)


@contextlib.contextmanager
def _set_for(studio: Studio, kind: Kind) -> Iterator[None]:
    """A silhouette, and its empty set, without front light, which is put back; an empty set without automatic focus."""
    status = studio.status()
    if kind in ("backdrop", "backlit") and status.camera.autofocus:
        studio.set_camera(status.camera.model_copy(update={"autofocus": False}))
    if kind not in ("silhouette", "backlit"):
        yield
        return
    studio.set_lamps(status.lamps.model_copy(update={"front": 0.0}))
    try:
        yield
    finally:
        studio.set_lamps(status.lamps)


def collect(desk: StudioDesk, db: Session, blobs: BlobStore, shoot_id: int) -> list[Frame]:
    """Bring in what lies on the card: to the shot it was taken for where that is known, else to be matched by hand.

    A cable that was pulled after the press, a shutter pressed at the camera itself: nothing of it is lost. Commits each.
    """
    return [_bring_in(desk, db, blobs, name, shoot_id) for name in desk.studio.waiting()]


def _bring_in(desk: StudioDesk, db: Session, blobs: BlobStore, name: str, shoot_id: int | None = None) -> Frame:
    pressed = desk.pressed.get(name)
    taken = desk.studio.fetch(name)
    blobs.put(taken.data)  # whatever is wrong with it, it is not lost
    try:
        if pressed is not None:
            frame = _recorded(db, blobs, taken, pressed)
        elif shoot_id is not None:
            frame, _ = add_frame(
                db, blobs, shoot_id, check_frame(name, taken.data), kind="product", made_with=_told(taken), match=False
            )
            announce(db, shoot_id, "frames")
        else:
            raise StudioError(f"{name} was not taken from here")
    except PictureError:
        desk.studio.forget(name)  # it is in the store and would fail again
        raise
    db.commit()
    desk.pressed.pop(name, None)
    desk.studio.forget(name)
    return frame


def _recorded(db: Session, blobs: BlobStore, taken: Taken, pressed: Pressed) -> Frame:
    shot = get_shot(db, pressed.shot_id)
    about = made_with(taken.data, _told(taken), treatment_of(db, shot).cut.framing)
    checked = check_frame(taken.file_name, taken.data)
    if pressed.series_id is not None:
        frame, _ = add_frame(db, blobs, shot.shoot_id, checked, kind="slice", made_with=about, match=False)
        frame.shot_id, frame.series_id = shot.id, pressed.series_id
        db.flush()
        announce(db, shot.shoot_id, "series")
        return frame
    frame, looks = record_take(db, blobs, shot, pressed.kind, checked, about)
    defer_looks(db, looks)
    announce(db, shot.shoot_id, "frames")
    return frame


def _told(taken: Taken) -> dict[str, object]:
    parts = {"camera": taken.camera, "lamps": taken.lamps}
    return {name: part.model_dump() for name, part in parts.items() if part is not None}


def shoot_series(desk: StudioDesk, db: Session, blobs: BlobStore, series: FocusSeries) -> None:
    """Shoot the slices that are missing and ask for the merge; the focus stays where the merged take's lies. Commits each.

    It ends early when somebody asks for it.

    When the camera goes away in the middle, the slices so far are kept, and the same call goes on with the next.
    """
    collect(desk, db, blobs, series.shoot_id)
    studio, shot = desk.studio, get_shot(db, series.shot_id)
    done = len(focus_series.slices_of(db, series.id))
    desk.halt.clear()
    try:
        for step in series.steps[done:]:
            if desk.halt.is_set():
                series.problem = f"stopped by hand; {done} of {len(series.steps)} slices are there"
                announce(db, series.shoot_id, "series")
                db.commit()
                return
            studio.set_camera(studio.status().camera.model_copy(update={"focus_mm": float(step), "autofocus": False}))
            name = studio.release()
            desk.pressed[name] = Pressed(shot.id, "product", series.id)
            _bring_in(desk, db, blobs, name)
            done += 1
        at_rest = studio.status().camera.model_copy(
            update={"focus_mm": float(series.steps[series.reference]), "autofocus": False}
        )
        studio.set_camera(at_rest)
    except StudioError as fault:
        series.problem = f"{done} of {len(series.steps)} slices are there; {fault}"
        announce(db, series.shoot_id, "series")
        db.commit()
        raise type(fault)(f"{series.problem}. Go on when you like: the series continues with slice {done + 1}") from fault
    series.state, series.problem = "merging", None
    defer_merge(db, series.id)
    announce(db, series.shoot_id, "series")
    db.commit()


def shoot_spin(desk: StudioDesk, db: Session, blobs: BlobStore, shots: list[Shot]) -> int:
    """Take every position that has no take yet, in order, until somebody asks for an end; returns how many. Commits each."""
    count = 0
    desk.halt.clear()
    for shot in shots:
        if shot.frame_id is not None:
            continue
        if desk.halt.is_set():
            break
        try:
            take(desk, db, blobs, shot, "product")
        except TrueBackdropError as fault:
            left = sum(1 for each in shots if each.frame_id is None)
            raise type(fault)(
                f"{len(shots) - left} of {len(shots)} positions are there; {fault}. Shoot the spin again for the rest"
            ) from fault
        count += 1
    return count
