"""Watched folders of shoots, and the ledger of what was taken from them."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Conflict
from true_backdrop.catalog.models import Frame, Shoot, TakenFile


def watching_shoots(session: Session) -> Sequence[Shoot]:
    return session.scalars(select(Shoot).where(Shoot.watched_folder.is_not(None)).order_by(Shoot.id)).all()


def watch_folder(session: Session, shoot: Shoot, folder: str | None) -> None:
    """Watch a folder for a shoot, or no longer. Each folder serves one shoot."""
    if folder is None:
        shoot.watched_folder = None
        session.flush()
        return
    path = Path(folder).expanduser()
    if not path.is_absolute():
        raise Conflict(f"{folder!r} is no full path; give one that begins at the root of the drive")
    if not path.is_dir():
        raise Conflict(f"the folder {path} is not there; make it, or connect its drive, then watch it")
    other = session.scalar(select(Shoot).where(Shoot.watched_folder == str(path), Shoot.id != shoot.id))
    if other is not None:
        raise Conflict(f"the shoot {other.name!r} watches the folder {path} already; stop it there first")
    shoot.watched_folder = str(path)
    session.flush()


def is_taken(session: Session, shoot_id: int, name: str, size: int, mtime_ns: int) -> bool:
    found = select(TakenFile.id).where(
        TakenFile.shoot_id == shoot_id, TakenFile.name == name, TakenFile.size == size, TakenFile.mtime_ns == mtime_ns
    )
    return session.scalar(found) is not None


def note_taken(
    session: Session, shoot_id: int, name: str, size: int, mtime_ns: int, frame: Frame | None, problem: str | None
) -> None:
    """Enter a state of a file in the ledger; twice is once."""
    if not is_taken(session, shoot_id, name, size, mtime_ns):
        row = TakenFile(shoot_id=shoot_id, name=name, size=size, mtime_ns=mtime_ns, problem=problem)
        row.frame_id = frame.id if frame else None
        session.add(row)
        session.flush()


def taken_files(session: Session, shoot_id: int, limit: int = 20) -> Sequence[TakenFile]:
    """The newest entries of the ledger first."""
    return session.scalars(
        select(TakenFile).where(TakenFile.shoot_id == shoot_id).order_by(TakenFile.id.desc()).limit(limit)
    ).all()


def count_taken(session: Session, shoot_id: int) -> int:
    return session.scalar(select(func.count(TakenFile.id)).where(TakenFile.shoot_id == shoot_id)) or 0
