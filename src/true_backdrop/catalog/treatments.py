"""Treatments over time: every change appends a revision, and any earlier one can be taken back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Missing
from true_backdrop.catalog.models import Shot, TreatmentRevision
from true_backdrop.core.treatment import SECTIONS, Treatment


def _scope(shoot_id: int, shot_id: int | None) -> tuple[Any, ...]:
    of_shot = TreatmentRevision.shot_id.is_(None) if shot_id is None else TreatmentRevision.shot_id == shot_id
    return TreatmentRevision.shoot_id == shoot_id, of_shot


def current_sections(session: Session, shoot_id: int, shot_id: int | None = None) -> dict[str, Any]:
    """The sections set at one level, as stored; empty when nothing was set there."""
    row = session.scalar(
        select(TreatmentRevision).where(*_scope(shoot_id, shot_id)).order_by(TreatmentRevision.id.desc()).limit(1)
    )
    return dict(row.sections) if row else {}


def treatment_of(session: Session, shot: Shot) -> Treatment:
    """The treatment in force for a shot: its own sections over those of the shoot, its product's material in the cut."""
    return _merged(
        current_sections(session, shot.shoot_id), current_sections(session, shot.shoot_id, shot.id), shot.product.material
    )


def treatments_of(session: Session, shoot_id: int, shots: Iterable[Shot]) -> dict[int, tuple[Treatment, dict[str, Any]]]:
    """For each shot the treatment in force and its own sections, read in two queries."""
    newest = (
        select(func.max(TreatmentRevision.id)).where(TreatmentRevision.shoot_id == shoot_id).group_by(TreatmentRevision.shot_id)
    )
    rows = {
        row.shot_id: row.sections for row in session.scalars(select(TreatmentRevision).where(TreatmentRevision.id.in_(newest)))
    }
    shared = rows.get(None, {})
    return {
        shot.id: (_merged(shared, rows.get(shot.id, {}), shot.product.material), dict(rows.get(shot.id, {}))) for shot in shots
    }


def shoot_treatment(session: Session, shoot_id: int) -> Treatment:
    """The treatment that shots of a shoot start from."""
    return _merged(current_sections(session, shoot_id), {}, "auto")


def _merged(shared: dict[str, Any], own: dict[str, Any], material: str) -> Treatment:
    sections = {name: own.get(name, shared.get(name, {})) for name in SECTIONS}
    if sections["cut"].get("material", "auto") == "auto":
        sections["cut"] = {**sections["cut"], "material": material}
    return Treatment.model_validate(sections)


def set_sections(
    session: Session, shoot_id: int, shot_id: int | None, sections: dict[str, Any], said: str = ""
) -> TreatmentRevision:
    """Append a revision in which these sections replace the former ones; a section of None is inherited again."""
    merged = {**current_sections(session, shoot_id, shot_id), **sections}
    kept = {name: value for name, value in merged.items() if value is not None}
    Treatment.model_validate(kept)
    return _append(session, shoot_id, shot_id, kept, said)


def _append(session: Session, shoot_id: int, shot_id: int | None, sections: dict[str, Any], said: str) -> TreatmentRevision:
    row = TreatmentRevision(shoot_id=shoot_id, shot_id=shot_id, sections=sections, said=said[:200])
    session.add(row)
    session.flush()
    return row


def revisions(session: Session, shoot_id: int, shot_id: int | None = None, limit: int = 50) -> Sequence[TreatmentRevision]:
    """The revisions of one level, the newest first."""
    return session.scalars(
        select(TreatmentRevision).where(*_scope(shoot_id, shot_id)).order_by(TreatmentRevision.id.desc()).limit(limit)
    ).all()


def take_back(session: Session, shoot_id: int, shot_id: int | None, revision_id: int) -> TreatmentRevision:
    """Choose an earlier revision: a new revision with its sections. Revision 0 means the defaults."""
    if revision_id == 0:
        return _append(session, shoot_id, shot_id, {}, "back to the defaults")
    row = session.get(TreatmentRevision, revision_id)
    if row is None or row.shoot_id != shoot_id or row.shot_id != shot_id:
        raise Missing("revision", revision_id)
    return _append(session, shoot_id, shot_id, dict(row.sections), f"back to revision {revision_id}")


def carry(session: Session, source: Shot, targets: Iterable[int], sections: Sequence[str]) -> int:
    """Carry chosen sections of a shot's treatment to other shots; returns how many shots got them."""
    treatment = treatment_of(session, source).model_dump()
    chosen = {name: treatment[name] for name in sections}
    if "cut" in chosen:
        # The material belongs to the product, not to the picture it was tuned on.
        chosen["cut"] = {
            **chosen["cut"],
            "material": current_sections(session, source.shoot_id, source.id).get("cut", {}).get("material", "auto"),
        }
    count = 0
    for shot_id in targets:
        target = session.get(Shot, shot_id)
        if target is None or target.shoot_id != source.shoot_id:
            raise Missing("shot", shot_id)
        if target.id != source.id:
            set_sections(session, target.shoot_id, target.id, chosen, f"carried from {source.product.code} {source.angle.name}")
            count += 1
    return count
