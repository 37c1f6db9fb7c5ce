"""A fresh file becomes a take: which shot it fills, and what follows from it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.cut_source import CutSources
from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.frames import CheckedFrame, add_frame, check_frame, make_backdrop
from true_backdrop.catalog.models import Frame, Shoot, Shot
from true_backdrop.catalog.shoots import get_shoot, get_shot, give_frame, shots_of
from true_backdrop.core.exif import exposure_told
from true_backdrop.core.naming import is_backdrop_name, match_shot
from true_backdrop.core.treatment import FramingBox

Kind = Literal["product", "backdrop", "silhouette", "backlit"]


def made_with(data: bytes, told: dict[str, Any], framing: FramingBox | None) -> dict[str, Any]:
    """The set-up of a take: what its source told, else what the file says of itself; and the framing box."""
    about = dict(told) or {"camera": exposure_told(data)}
    return about | ({"framing": framing.model_dump()} if framing else {})


def record_take(
    session: Session, blobs: BlobStore, shot: Shot, kind: Kind, checked: CheckedFrame, about: dict[str, Any]
) -> tuple[Frame, list[int]]:
    """Store a file as a take, a backdrop frame of the shot's angle, a silhouette frame, or the empty set in its light.

    Returns the frame and the shots that have to be looked at (again).
    """
    frame, _ = add_frame(session, blobs, shot.shoot_id, checked, kind=kind, made_with=about, match=False)
    return frame, place_take(session, frame, shot, kind)


def place_take(session: Session, frame: Frame, shot: Shot, kind: Kind) -> list[int]:
    """Give a stored frame its place; returns the shots that have to be looked at."""
    if kind == "product":
        give_frame(session, frame, shot)
        shot.skipped = False
        session.flush()
        return [shot.id]
    if kind == "silhouette":
        frame.shot_id = shot.id
        session.flush()
        return [shot.id] if shot.frame_id else []
    if kind == "backlit":
        frame.angle_id = shot.angle_id
        session.flush()
        sources = CutSources(session, get_shoot(session, shot.shoot_id))
        seeing = set(shots_that_see(session, shot))
        return [s.id for s in shots_of(session, shot.shoot_id) if s.id in seeing and sources.has_silhouette(s)]
    make_backdrop(session, frame, shot.angle_id)
    session.flush()
    session.expire_all()
    return shots_that_see(session, shot)


def shots_that_see(session: Session, shot: Shot) -> list[int]:
    """The shots with a take that see the same empty set as this one: what a backdrop frame of its angle changes."""
    return [s.id for s in shots_of(session, shot.shoot_id) if s.frame_id and s.angle.view == shot.angle.view]


def stand_as(session: Session, shot: Shot, other_id: int | None) -> list[int]:
    """Say that the camera stands for this shot's angle as it does for another one, or no longer.

    Of a spin, for all its positions. Returns the shots that have to be looked at again.
    """
    angles = get_shoot(session, shot.shoot_id).angles
    other = next((angle for angle in angles if angle.id == other_id), None)
    if other_id is not None and other is None:
        raise Missing("angle", other_id)
    spin = shot.angle.spin
    same = [angle for angle in angles if angle.id == shot.angle_id or (spin and angle.spin == spin)]
    if other in same:
        raise Conflict("the camera stands for an angle as it does for itself; choose another one")
    for angle in same:
        angle.stands_as_id = (other.stands_as_id or other.id) if other else None
    # Those that stood as this one did go along.
    for angle in angles:
        if other and angle.stands_as_id in {each.id for each in same}:
            angle.stands_as_id = other.stands_as_id or other.id
    session.flush()
    session.expire_all()
    return shots_that_see(session, shot)


def next_shot(shots: Sequence[Shot], order: Literal["product", "angle"] = "product", after: int | None = None) -> Shot | None:
    """The first shot of the list that has no take and is not skipped, from the one after `after` on, then from the top.

    `shots` are in the order of the plan, product by product.
    """
    listed = list(shots) if order == "product" else sorted(shots, key=lambda shot: shot.angle.position)
    begin = next((i + 1 for i, shot in enumerate(listed) if shot.id == after), 0)
    return next((shot for shot in listed[begin:] + listed[:begin] if shot.frame_id is None and not shot.skipped), None)


def expect(session: Session, shoot: Shoot, shot_id: int | None, kind: Kind) -> None:
    """Say what the next file of a watched folder will be; None leaves the shot to the list."""
    shoot.expected_shot_id = get_shot(session, shot_id).id if shot_id else None
    shoot.expected_kind = kind
    session.flush()


def expected_shot(shoot: Shoot, shots: Sequence[Shot]) -> Shot | None:
    """The shot that the next file fills: the one that was asked for, else the next of the list."""
    return next((shot for shot in shots if shot.id == shoot.expected_shot_id), None) or next_shot(shots)


def take_from_outside(
    session: Session, blobs: BlobStore, shoot_id: int, file_name: str, data: bytes, framing: FramingBox | None
) -> tuple[Frame, list[int]]:
    """A file that came by itself: by its name, else to the shot that is expected, else to the next of the list.

    The very same bytes under another name are no new take. Returns the frame and the shots to look at.
    Raises PictureError when the file is no use.
    """
    shoot = get_shoot(session, shoot_id)
    digest = blobs.put(data)  # whatever is wrong with it, it is not lost
    known = session.scalar(select(Frame).where(Frame.shoot_id == shoot_id, Frame.sha256 == digest))
    if known is not None:
        return known, []
    checked = check_frame(file_name, data)
    about = made_with(data, {}, framing)
    shots = shots_of(session, shoot_id)
    named = match_shot(file_name, {s.product.code for s in shots}, {s.angle.name for s in shots})
    if named:
        shot = next(s for s in shots if (s.product.code, s.angle.name) == (named.code, named.angle))
        return record_take(session, blobs, shot, "product", checked, about)
    expected = expected_shot(shoot, shots)
    kind: Kind = "backdrop" if is_backdrop_name(file_name) else shoot.expected_kind  # type: ignore[assignment]
    if expected is None:
        frame, _ = add_frame(session, blobs, shoot_id, checked, kind=kind, made_with=about, match=False)
        return frame, []
    frame, looks = record_take(session, blobs, expected, kind, checked, about)
    shoot.expected_kind = "product"
    if kind == "product":
        shoot.expected_shot_id = None
    session.flush()
    return frame, looks
