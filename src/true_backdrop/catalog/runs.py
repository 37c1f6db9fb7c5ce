"""Runs: one pass over the shots of a shoot, shot by shot, that can be stopped and resumed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import Run, RunItem, Shot, now


@dataclass(frozen=True, slots=True)
class RunProgress:
    """How far a run has come; the rate counts what was finished since it was last started."""

    total: int
    done: int
    failed: int
    rate_per_minute: float | None
    left_s: float | None


def start_run(session: Session, shoot_id: int, shot_ids: Sequence[int], outlets: Sequence[str]) -> Run:
    """A run over shots that have a frame. One run at a time for a shoot."""
    if active_run(session, shoot_id) is not None:
        raise Conflict("a run is under way in this shoot; stop it or wait until it is done")
    if not shot_ids:
        raise Conflict("there is nothing to run on: no shot has a frame yet")
    run = Run(shoot_id=shoot_id, outlets=list(outlets), items=[RunItem(shot_id=shot_id) for shot_id in shot_ids])
    session.add(run)
    session.flush()
    return run


def get_run(session: Session, run_id: int) -> Run:
    run = session.get(Run, run_id)
    if run is None:
        raise Missing("run", run_id)
    return run


def active_run(session: Session, shoot_id: int) -> Run | None:
    return session.scalar(select(Run).where(Run.shoot_id == shoot_id, Run.state == "running").limit(1))


def latest_run(session: Session, shoot_id: int) -> Run | None:
    return session.scalar(select(Run).where(Run.shoot_id == shoot_id).order_by(Run.id.desc()).limit(1))


def stop_run(session: Session, run: Run) -> None:
    """Leave what waits undone. Shots that are being worked on finish."""
    if run.state == "running":
        run.state = "stopped"
        session.flush()


def resume_run(session: Session, run: Run) -> list[int]:
    """Set a stopped run going again; returns the items that still wait."""
    if run.state != "stopped":
        raise Conflict(f"this run is {run.state}; only a stopped one can be resumed")
    other = active_run(session, run.shoot_id)
    if other is not None:
        raise Conflict("another run is under way in this shoot")
    run.state, run.resumed_at = "running", now()
    session.flush()
    return waiting_items(session, run.id)


def waiting_items(session: Session, run_id: int) -> list[int]:
    return list(
        session.scalars(select(RunItem.id).where(RunItem.run_id == run_id, RunItem.state == "waiting").order_by(RunItem.id))
    )


def finish_item(session: Session, item_id: int, problem: str | None = None) -> None:
    """Mark an item done or failed, and its run done when it was the last."""
    item = session.get(RunItem, item_id)
    if item is None:
        return
    # The run's row is locked first, so that of two last items one sees the other.
    run = session.scalars(select(Run).where(Run.id == item.run_id).with_for_update()).one()
    item.state, item.problem, item.finished_at = (
        ("failed" if problem else "done"),
        (problem or None) and str(problem)[:1000],
        now(),
    )
    session.flush()
    if not waiting_items(session, run.id):
        session.execute(update(Run).where(Run.id == run.id).values(state="done"))


def progress_of(session: Session, run: Run) -> RunProgress:
    """Count, rate and time left."""
    rows = session.execute(select(RunItem.state, func.count()).where(RunItem.run_id == run.id).group_by(RunItem.state)).all()
    counts = {state: int(n) for state, n in rows}
    done, failed = counts.get("done", 0), counts.get("failed", 0)
    total = sum(counts.values())
    since = (
        session.scalar(
            select(func.count()).where(
                RunItem.run_id == run.id, RunItem.finished_at.is_not(None), RunItem.finished_at >= run.resumed_at
            )
        )
        or 0
    )
    seconds = (now() - run.resumed_at).total_seconds()
    rate = 60 * since / seconds if since and seconds > 0 else None
    left = 60 * (total - done - failed) / rate if rate and run.state == "running" else None
    return RunProgress(total, done, failed, rate, left)


def problems_of(session: Session, run_id: int) -> dict[int, str]:
    """Shots of a run that failed, with the sentence why."""
    rows = session.execute(select(RunItem.shot_id, RunItem.problem).where(RunItem.run_id == run_id, RunItem.state == "failed"))
    return {shot_id: problem or "" for shot_id, problem in rows}


def runnable_shots(session: Session, shoot_id: int) -> list[int]:
    """Shots that have a frame."""
    return list(session.scalars(select(Shot.id).where(Shot.shoot_id == shoot_id, Shot.frame_id.is_not(None)).order_by(Shot.id)))
