"""Set-ups: camera and lamp settings under a name."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import SetUp


def list_setups(session: Session) -> Sequence[SetUp]:
    return session.scalars(select(SetUp).order_by(SetUp.name)).all()


def get_setup(session: Session, setup_id: int) -> SetUp:
    setup = session.get(SetUp, setup_id)
    if setup is None:
        raise Missing("set-up", setup_id)
    return setup


def save_setup(
    session: Session, name: str, camera: dict[str, Any], lamps: dict[str, Any], framing: dict[str, Any] | None = None
) -> SetUp:
    """Save settings under a new name."""
    if session.scalar(select(SetUp).where(SetUp.name == name)) is not None:
        raise Conflict(f"there is a set-up {name!r} already; choose another name, or renew that one")
    setup = SetUp(name=name, camera=camera, lamps=lamps, framing=framing)
    session.add(setup)
    session.flush()
    return setup


def renew_setup(
    session: Session, setup: SetUp, camera: dict[str, Any], lamps: dict[str, Any], framing: dict[str, Any] | None = None
) -> None:
    """Put other settings under its name, unless it is locked."""
    _unlocked(setup)
    setup.camera, setup.lamps, setup.framing = camera, lamps, framing or setup.framing
    session.flush()


def remove_setup(session: Session, setup: SetUp) -> None:
    _unlocked(setup)
    session.delete(setup)
    session.flush()


def _unlocked(setup: SetUp) -> None:
    if setup.locked:
        raise Conflict(f"the set-up {setup.name!r} is locked; unlock it first")
