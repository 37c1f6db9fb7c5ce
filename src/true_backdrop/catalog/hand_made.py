"""Mattes and pictures that came back from a retoucher."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.errors import Conflict
from true_backdrop.catalog.models import Frame, Shot
from true_backdrop.catalog.shoots import shots_of
from true_backdrop.core.errors import RuleError
from true_backdrop.core.exchange import Returned
from true_backdrop.core.naming import match_shot, stem


def shot_for(session: Session, shoot_id: int, name: str, came: Returned) -> Shot:
    """The shot that a file belongs to: by the identity in it, else by its name.

    Raises
    ------
    RuleError
        With a sentence, when neither says so, or when the shot has another take chosen by now.
    """
    shots = shots_of(session, shoot_id)
    if came.identity is not None:
        for shot in shots:
            if shot.id == came.identity.shot_id:
                if shot.frame is None or shot.frame.sha256 != came.identity.frame_sha256:
                    raise RuleError(
                        f"{name}: made for another take of {shot.product.code} {shot.angle.name}; choose that take first"
                    )
                return shot
    plain = stem(name).removesuffix("_matte").removesuffix("-matte")
    found = match_shot(f"{plain}.png", {s.product.code for s in shots}, {s.angle.name for s in shots})
    if found is None:
        raise RuleError(
            f"{name}: nothing in it says which shot it belongs to; name it like HT-204_front.ora, or bring it in at its shot"
        )
    return next(s for s in shots if (s.product.code, s.angle.name) == (found.code, found.angle))


def bring_back(session: Session, blobs: BlobStore, shot: Shot, name: str, data: bytes, came: Returned, preview: bytes) -> Frame:
    """Store what came back as the cut of a shot; it is held against the size of the shot's frame.

    Raises
    ------
    RuleError
        When it is of another size.
    """
    if shot.frame is None:
        raise Conflict(f"{shot.product.code} {shot.angle.name} has no frame, so nothing can come back for it")
    height, width = came.made.opacity.shape
    if (height, width) != (shot.frame.height, shot.frame.width):
        raise RuleError(
            f"{name}: {width} x {height} px, but the frame of {shot.product.code} {shot.angle.name} is "
            f"{shot.frame.width} x {shot.frame.height} px; save it at the frame's own size"
        )
    digest = blobs.put(data)
    frame = session.scalar(select(Frame).where(Frame.shoot_id == shot.shoot_id, Frame.sha256 == digest))
    if frame is not None and frame.kind not in ("matte", "retouched"):
        raise RuleError(f"{name}: this is the file {frame.file_name} of the shoot itself, not a matte of it")
    frame = frame or Frame(shoot_id=shot.shoot_id, sha256=digest)
    frame.kind = "matte" if came.made.retouched is None else "retouched"
    frame.file_name, frame.format, frame.bytes = name[:255], "ORA" if data[:2] == b"PK" else "PNG", len(data)
    frame.height, frame.width, frame.preview_sha256 = int(height), int(width), blobs.put(preview)
    frame.shot_id, frame.made_with = shot.id, {"of": shot.frame.sha256}
    session.add(frame)
    session.flush()
    return frame


def give_up(session: Session, shot: Shot) -> int:
    """Go back to the program's own cut; the files stay in the store. Returns how many were put aside."""
    rows = session.scalars(select(Frame).where(Frame.shot_id == shot.id, Frame.kind.in_(("matte", "retouched")))).all()
    for row in rows:
        row.shot_id = None
    session.flush()
    return len(rows)
