"""Focus series: their slices, and the take that they are merged to."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from true_backdrop.catalog.errors import Missing
from true_backdrop.catalog.models import FocusSeries, Frame, Shot


def begin_series(session: Session, shot: Shot, steps: Sequence[float]) -> FocusSeries:
    """A series with these focus distances (mm) and no slices; one of this shot that was broken off is given up."""
    for old in unfinished_of(session, shot.id):
        old.state, old.problem = "failed", "given up for a new series"
    series = FocusSeries(shoot_id=shot.shoot_id, shot_id=shot.id, steps=[round(step, 1) for step in steps], state="shooting")
    session.add(series)
    session.flush()
    return series


def get_series(session: Session, series_id: int) -> FocusSeries:
    series = session.get(FocusSeries, series_id)
    if series is None:
        raise Missing("focus series", series_id)
    return series


def unfinished_of(session: Session, shot_id: int) -> Sequence[FocusSeries]:
    """Series of a shot that still lack slices, the newest first."""
    return session.scalars(
        select(FocusSeries).where(FocusSeries.shot_id == shot_id, FocusSeries.state == "shooting").order_by(FocusSeries.id.desc())
    ).all()


def latest_series(session: Session, shot_id: int) -> FocusSeries | None:
    return session.scalar(select(FocusSeries).where(FocusSeries.shot_id == shot_id).order_by(FocusSeries.id.desc()).limit(1))


def slices_of(session: Session, series_id: int) -> Sequence[Frame]:
    """The slices that are there, in the order of shooting: from near to far."""
    return session.scalars(select(Frame).where(Frame.series_id == series_id, Frame.kind == "slice").order_by(Frame.id)).all()
