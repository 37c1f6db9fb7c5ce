"""Results: cuts, renditions, outlets and deliveries."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import Cut, Delivery, Outlet, Rendition, now
from true_backdrop.core.spec import SHIPPED, Spec


def record_cut(session: Session, values: dict[str, Any]) -> None:
    """Store a cut; making the same one again leaves the same row, as the newest of its shot."""
    old = session.scalar(select(Cut).where(Cut.shot_id == values["shot_id"], Cut.key == values["key"]))
    if old is not None:
        session.delete(old)
        session.flush()
    session.add(Cut(**values))
    session.flush()


def find_cut(session: Session, shot_id: int, key: str) -> Cut | None:
    return session.scalar(select(Cut).where(Cut.shot_id == shot_id, Cut.key == key))


def renew_cut(session: Session, shot_id: int, key: str) -> None:
    """Make a cut that was made before the newest of its shot again: an earlier take was chosen."""
    cut = find_cut(session, shot_id, key)
    if cut is not None:
        cut.created_at = now()
        session.flush()


def show_square(session: Session, shot_id: int, key: str, square_sha256: str | None) -> None:
    """Give a cut the small square of its newest finish; the cut itself stays as it is."""
    cut = find_cut(session, shot_id, key)
    if cut is not None:
        cut.square_sha256 = square_sha256
        session.flush()


def record_rendition(session: Session, values: dict[str, Any]) -> None:
    """Store a rendition; making the same one again leaves one row, as the newest for its outlet."""
    old = find_rendition(session, values["shot_id"], values["outlet"], values["key"])
    if old is not None:
        session.delete(old)
        session.flush()
    session.add(Rendition(**values))
    session.flush()


def find_rendition(session: Session, shot_id: int, outlet: str, key: str) -> Rendition | None:
    return session.scalar(select(Rendition).where(Rendition.shot_id == shot_id, Rendition.outlet == outlet, Rendition.key == key))


def seed_outlets(session: Session) -> None:
    """Put the shipped outlets in, or bring them up to date; outlets made by hand stay."""
    for spec in SHIPPED.values():
        values = {"name": spec.name, "title": spec.title, "spec": spec.model_dump(), "shipped": True}
        session.execute(insert(Outlet).values(values).on_conflict_do_update(index_elements=["name"], set_=values))


def list_outlets(session: Session) -> list[Outlet]:
    """All outlets, the shipped ones first."""
    rows: Sequence[Outlet] = session.scalars(select(Outlet).order_by(Outlet.shipped.desc(), Outlet.title)).all()
    order = list(SHIPPED)
    return sorted(rows, key=lambda row: order.index(row.name) if row.name in SHIPPED else len(order))


def get_spec(session: Session, name: str) -> Spec:
    row = session.get(Outlet, name)
    if row is None:
        raise Missing("outlet", name)
    return Spec.model_validate(row.spec)


def add_outlet(session: Session, spec: Spec) -> None:
    """Add an outlet; one that is there is never written over."""
    there = session.get(Outlet, spec.name)
    if there is not None:
        raise Conflict(f"there is an outlet {spec.name} already ({there.title}); give yours another short name")
    session.add(Outlet(name=spec.name, title=spec.title, spec=spec.model_dump()))
    session.flush()


def _made_by_hand(session: Session, name: str) -> Outlet:
    row = session.get(Outlet, name)
    if row is None:
        raise Missing("outlet", name)
    if row.shipped:
        raise Conflict(f"{row.title} ships with the program and stays as it is; make a copy under another short name")
    return row


def change_outlet(session: Session, name: str, spec: Spec) -> None:
    """Give an outlet made by hand other rules; what was finished by the old ones counts as outdated."""
    row = _made_by_hand(session, name)
    if spec.name != name:
        raise Conflict(f"the short name of {row.title} stays {name}; folders and reports go by it")
    row.title, row.spec = spec.title, spec.model_dump()
    session.flush()


def remove_outlet(session: Session, name: str) -> None:
    """Remove an outlet made by hand, with what was finished for it; files that were sent stay where they are."""
    session.delete(_made_by_hand(session, name))
    session.flush()


def record_delivery(session: Session, shoot_id: int, outlet: str, folder: str, files: list[dict[str, Any]]) -> Delivery:
    row = Delivery(shoot_id=shoot_id, outlet=outlet, folder=folder, files=files)
    session.add(row)
    session.flush()
    return row


def list_deliveries(session: Session, shoot_id: int) -> Sequence[Delivery]:
    """Deliveries of a shoot, the newest first."""
    return session.scalars(select(Delivery).where(Delivery.shoot_id == shoot_id).order_by(Delivery.id.desc())).all()
