"""Bringing frames in: checked, stored unchanged, and matched to shots by name."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.errors import Missing
from true_backdrop.catalog.models import Frame, Shot
from true_backdrop.catalog.shoots import get_shoot, give_frame, shots_of
from true_backdrop.core import codec
from true_backdrop.core.naming import is_backdrop_name, match_shot, silhouette_of

#: Long side of the small picture on boards and walls.
PREVIEW_LONG_SIDE = 560


@dataclass(frozen=True, slots=True)
class CheckedFrame:
    """An uploaded file that turned out to be a usable picture."""

    file_name: str
    data: bytes
    about: codec.Glance
    preview: bytes


def check_frame(file_name: str, data: bytes) -> CheckedFrame:
    """Read a file to its end and make its small picture; raises PictureError with a sentence when it is no use."""
    about = codec.glance(data, file_name, PREVIEW_LONG_SIDE)
    return CheckedFrame(file_name, data, about, codec.encode_preview(about.small))


def add_frame(
    session: Session,
    blobs: BlobStore,
    shoot_id: int,
    checked: CheckedFrame,
    *,
    kind: str | None = None,
    made_with: dict[str, Any] | None = None,
    match: bool = True,
) -> tuple[Frame, bool]:
    """Store a frame. The bytes go to the blob store first, so a row never points at nothing.

    `kind` is product, backdrop or silhouette; None goes by the name. With `match` the shot of a product or a silhouette
    does, too.
    Returns the frame and whether it is new; the very same bytes are stored once.
    """
    shoot = get_shoot(session, shoot_id)
    digest, preview = blobs.put(checked.data), blobs.put(checked.preview)
    kind = kind or _kind_named(checked.file_name)
    frame = session.scalar(select(Frame).where(Frame.shoot_id == shoot_id, Frame.sha256 == digest))
    fresh = frame is None
    if frame is None:
        about = checked.about
        frame = Frame(
            shoot_id=shoot_id,
            kind=kind,
            file_name=checked.file_name[-255:],
            sha256=digest,
            format=about.format,
            width=about.width,
            height=about.height,
            bytes=len(checked.data),
            source_profile=about.source_profile,
            preview_sha256=preview,
            made_with=made_with,
        )
        session.add(frame)
        session.flush()
    if kind == "backdrop":
        make_backdrop(session, frame)
    elif fresh and match and kind == "product":
        _match(session, frame, shoot.id)
    elif fresh and match and kind == "silhouette":
        named = _named(session, shoot.id, f"{silhouette_of(frame.file_name) or frame.file_name}.png")
        frame.shot_id = named.id if named else None
    session.flush()
    return frame, fresh


def make_backdrop(session: Session, frame: Frame, angle_id: int | None = None) -> None:
    """Use a frame as the backdrop frame of its shoot, or of one of its angles."""
    give_frame(session, frame, None)
    frame.kind, frame.angle_id = "backdrop", angle_id
    shoot = get_shoot(session, frame.shoot_id)
    if angle_id is None or shoot.backdrop_id is None:
        shoot.backdrop_id = frame.id


def _kind_named(file_name: str) -> str:
    of = silhouette_of(file_name)
    if of is not None:
        return "backlit" if is_backdrop_name(of) else "silhouette"
    return "backdrop" if is_backdrop_name(file_name) else "product"


def _named(session: Session, shoot_id: int, file_name: str) -> Shot | None:
    shots: dict[tuple[str, str], Shot] = {(s.product.code, s.angle.name): s for s in shots_of(session, shoot_id)}
    named = match_shot(file_name, {code for code, _ in shots}, {angle for _, angle in shots})
    return shots[named.code, named.angle] if named else None


def _match(session: Session, frame: Frame, shoot_id: int) -> None:
    shot = _named(session, shoot_id, frame.file_name)
    if shot:
        give_frame(session, frame, shot)


def get_frame(session: Session, frame_id: int) -> Frame:
    frame = session.get(Frame, frame_id)
    if frame is None:
        raise Missing("frame", frame_id)
    return frame


def waiting_frames(session: Session, shoot_id: int) -> list[Frame]:
    """Product frames that belong to no shot yet."""
    rows = session.scalars(
        select(Frame).where(Frame.shoot_id == shoot_id, Frame.kind == "product", Frame.shot_id.is_(None)).order_by(Frame.id)
    )
    return list(rows)


def takes_of(session: Session, shoot_id: int) -> dict[int, int]:
    """How many takes each shot has."""
    rows = session.execute(
        select(Frame.shot_id, func.count())
        .where(Frame.shoot_id == shoot_id, Frame.kind == "product", Frame.shot_id.is_not(None))
        .group_by(Frame.shot_id)
    )
    return {shot_id: count for shot_id, count in rows if shot_id is not None}


def backdrops_of(session: Session, shoot_id: int) -> list[Frame]:
    """All backdrop frames of a shoot, the newest last."""
    return list(session.scalars(select(Frame).where(Frame.shoot_id == shoot_id, Frame.kind == "backdrop").order_by(Frame.id)))


def takes_of_shot(session: Session, shot_id: int) -> list[Frame]:
    """The takes of one shot in the order in which they came."""
    return list(session.scalars(select(Frame).where(Frame.shot_id == shot_id, Frame.kind == "product").order_by(Frame.id)))


def latest_taken_shot(session: Session, shoot_id: int) -> int | None:
    """The shot that the newest take belongs to."""
    return session.scalar(
        select(Frame.shot_id)
        .where(Frame.shoot_id == shoot_id, Frame.kind == "product", Frame.shot_id.is_not(None))
        .order_by(Frame.id.desc())
        .limit(1)
    )
