"""Which backdrop frame serves which take."""

from __future__ import annotations

from sqlalchemy.orm import Session

from true_backdrop.catalog.frames import backdrops_of
from true_backdrop.catalog.models import Frame, Shoot, Shot
from true_backdrop.catalog.shoots import get_shoot

#: What has to be alike for a backdrop frame to be of the same set-up as a take.
_OF_SETUP = ("shutter_s", "f_number", "iso", "kelvin")


class Backdrops:
    """The backdrop frames of a shoot, read once for all its shots."""

    def __init__(self, session: Session, shoot: Shoot) -> None:
        self._frames = backdrops_of(session, shoot.id)
        self._views = {angle.id: angle.view for angle in shoot.angles}
        chosen = next((frame for frame in self._frames if frame.id == shoot.backdrop_id), None)
        # One that was shot for an angle says nothing of what the camera sees from another.
        self._chosen = chosen if chosen and chosen.angle_id is None else None

    def of(self, shot: Shot) -> Frame | None:
        """The backdrop frame for a shot's chosen take, None when there is none.

        Of its own view of the set (see `Angle.view`), of the same set-up before another, then the nearest in time. Without
        one of its view, the shoot's chosen backdrop frame, if that is of no angle in particular.
        """
        view = self._views.get(shot.angle_id)
        own = [frame for frame in self._frames if frame.angle_id and self._views.get(frame.angle_id) == view]
        take = shot.frame
        if not own or take is None:
            return own[-1] if own else self._chosen
        return min(own, key=lambda frame: (not _same_setup(frame, take), abs(frame.created_at - take.created_at)))


def backdrop_of(session: Session, shot: Shot) -> Frame | None:
    """The same for one shot."""
    return Backdrops(session, get_shoot(session, shot.shoot_id)).of(shot)


def _same_setup(frame: Frame, take: Frame) -> bool:
    one, other = ((f.made_with or {}).get("camera", {}) for f in (frame, take))
    return all(one.get(name) == other.get(name) for name in _OF_SETUP)
