"""Treatments over time: every change appends a revision, and any earlier one can be taken back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any
from uuid import uuid4

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import Shot, TreatmentRevision
from true_backdrop.core.treatment import SECTIONS, CutSettings, SectionName, Treatment


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
    session: Session, shoot_id: int, shot_id: int | None, sections: dict[str, Any], said: str = "", batch: str | None = None
) -> TreatmentRevision:
    """Append a revision in which these sections replace the former ones; a section of None is inherited again."""
    merged = {**current_sections(session, shoot_id, shot_id), **sections}
    kept = {name: value for name, value in merged.items() if value is not None}
    Treatment.model_validate(kept)
    return _append(session, shoot_id, shot_id, kept, said, batch)


def _append(
    session: Session, shoot_id: int, shot_id: int | None, sections: dict[str, Any], said: str, batch: str | None = None
) -> TreatmentRevision:
    row = TreatmentRevision(shoot_id=shoot_id, shot_id=shot_id, sections=sections, said=said[:200], batch=batch)
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
        return _again(session, shoot_id, shot_id, None, "back to the beginning")
    row = session.get(TreatmentRevision, revision_id)
    if row is None or row.shoot_id != shoot_id or row.shot_id != shot_id:
        raise Missing("revision", revision_id)
    return _again(session, shoot_id, shot_id, row, f"back to: {row.said or 'an earlier change'}")


def undo(session: Session, shoot_id: int, shot_id: int | None = None) -> TreatmentRevision:
    """Take the last change back; done again, the one before it.

    Raises
    ------
    Conflict
        When there is nothing left to take back.
    """
    newest = next(iter(revisions(session, shoot_id, shot_id, 1)), None)
    at = 0 if newest is None else newest.id if newest.stands_for is None else newest.stands_for
    if at == 0:
        raise Conflict("there is nothing to take back")
    before = session.scalar(
        select(TreatmentRevision)
        .where(*_scope(shoot_id, shot_id), TreatmentRevision.id < at)
        .order_by(TreatmentRevision.id.desc())
        .limit(1)
    )
    undone = session.get(TreatmentRevision, at)
    return _again(session, shoot_id, shot_id, before, f"taken back: {undone.said or 'a change' if undone else 'a change'}")


def can_undo(session: Session, shoot_id: int, shot_id: int | None = None) -> bool:
    """Whether `undo` has anything to take back."""
    newest = next(iter(revisions(session, shoot_id, shot_id, 1)), None)
    return newest is not None and newest.stands_for != 0


def _again(session: Session, shoot_id: int, shot_id: int | None, row: TreatmentRevision | None, said: str) -> TreatmentRevision:
    """A new revision with the sections of an earlier one, None for the defaults."""
    made = _append(session, shoot_id, shot_id, dict(row.sections) if row else {}, said)
    made.stands_for = 0 if row is None else row.id if row.stands_for is None else row.stands_for
    session.flush()
    return made


@dataclass(frozen=True, slots=True)
class Carrying:
    """What carrying would do to one shot: the sections that it gets, and those that are kept since a hand made them."""

    shot: Shot
    changes: tuple[SectionName, ...]
    kept: tuple[SectionName, ...]


#: Sections that are work by hand on one picture.
BY_HAND: tuple[SectionName, ...] = ("touches", "outlines")


def carrying(
    session: Session, source: Shot, targets: Iterable[int], sections: Sequence[SectionName], *, replace_by_hand: bool = False
) -> list[Carrying]:
    """What `carry` would change.

    What was touched or outlined by hand there stays, unless it is asked for; a locked outline stays always.
    """
    chosen = _to_carry(session, source, sections)
    found = []
    for shot_id in targets:
        target = session.get(Shot, shot_id)
        if target is None or target.shoot_id != source.shoot_id:
            raise Missing("shot", shot_id)
        if target.id == source.id:
            continue
        own = current_sections(session, target.shoot_id, target.id)
        present = treatment_of(session, target).model_dump()
        changes, kept = [], []
        for name in sections:
            if _locked(own, name) or (name in BY_HAND and _by_hand(own, name) and not replace_by_hand):
                kept.append(name)
            elif _differs(name, present[name], chosen[name], target.product.material):
                changes.append(name)
        found.append(Carrying(target, tuple(changes), tuple(kept)))
    return found


def carry(
    session: Session, source: Shot, targets: Iterable[int], sections: Sequence[SectionName], *, replace_by_hand: bool = False
) -> tuple[int, str]:
    """Carry chosen sections of a shot's treatment to other shots.

    Returns how many shots got any, and the batch by which all of it is taken back.
    """
    chosen = _to_carry(session, source, sections)
    batch, count = uuid4().hex, 0
    for each in carrying(session, source, targets, sections, replace_by_hand=replace_by_hand):
        if each.changes:
            said = f"carried from {source.product.code} {source.angle.name}"
            set_sections(session, each.shot.shoot_id, each.shot.id, {n: chosen[n] for n in each.changes}, said, batch)
            count += 1
    return count, batch


def _to_carry(session: Session, source: Shot, sections: Sequence[SectionName]) -> dict[str, Any]:
    treatment = treatment_of(session, source).model_dump()
    chosen: dict[str, Any] = {name: treatment[name] for name in sections}
    if "cut" in chosen:
        # The material belongs to the product, not to the picture it was tuned on.
        own = current_sections(session, source.shoot_id, source.id).get("cut", {})
        chosen["cut"] = {**chosen["cut"], "material": own.get("material", "auto")}
    return chosen


def _differs(name: str, present: dict[str, Any], wanted: dict[str, Any], material: str) -> bool:
    if name == "cut" and wanted.get("material") == "auto":
        wanted = {**wanted, "material": material}
    return present != wanted


def _by_hand(own: dict[str, Any], name: str) -> bool:
    return any((own.get(name) or {}).get(kind) for kind in ("strokes", "shapes"))


def _locked(own: dict[str, Any], name: str) -> bool:
    return name == "outlines" and any(shape.get("locked") for shape in (own.get(name) or {}).get("shapes", ()))


def give_match(session: Session, shots: Iterable[Shot], match: int | None) -> tuple[int, str]:
    """A backdrop match of their own for several shots, None to follow the set again; as one act, see `carry`."""
    batch, count = uuid4().hex, 0
    for shot in shots:
        own = current_sections(session, shot.shoot_id, shot.id).get("cut") or {}
        if match is None:
            shared = current_sections(session, shot.shoot_id).get("cut") or {}
            rest = {**own, "match": shared.get("match")}
            section = None if _plain(rest) == _plain(shared) else rest
            said = "follows the set again"
        else:
            section = {**current_sections(session, shot.shoot_id).get("cut", {}), **own, "match": match}
            said = f"backdrop match {match}"
        set_sections(session, shot.shoot_id, shot.id, {"cut": section}, said, batch)
        count += 1
    return count, batch


def _plain(cut: dict[str, Any]) -> dict[str, Any]:
    """A section of cut settings with everything that was left out."""
    return CutSettings.model_validate(cut).model_dump()


def take_batch_back(session: Session, shoot_id: int, batch: str) -> tuple[int, int]:
    """Undo one act on several shots; returns how many went back, and how many were changed since and stay."""
    rows = session.scalars(
        select(TreatmentRevision).where(TreatmentRevision.shoot_id == shoot_id, TreatmentRevision.batch == batch)
    ).all()
    if not rows:
        raise Missing("change", batch)
    back = stay = 0
    for row in rows:
        newest = revisions(session, shoot_id, row.shot_id, 1)[0]
        if newest.id != row.id:
            stay += 1
            continue
        before = session.scalar(
            select(TreatmentRevision)
            .where(*_scope(shoot_id, row.shot_id), TreatmentRevision.id < row.id)
            .order_by(TreatmentRevision.id.desc())
            .limit(1)
        )
        _again(session, shoot_id, row.shot_id, before, f"taken back: {row.said}")
        back += 1
    return back, stay
