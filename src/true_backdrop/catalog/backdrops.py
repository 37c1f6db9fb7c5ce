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
        # All positions of a spin are one view of the set.
        self._views = {angle.id: angle.spin or angle.id for angle in shoot.angles}
        self._chosen = next((frame for frame in self._frames if frame.id == shoot.backdrop_id), None)

    def of(self, shot: Shot) -> Frame | None:
        """The backdrop frame for a shot's chosen take, None when there is none.

        Of its own angle (of a spin: of any of its positions) before any other, of the same set-up before another, then
        the nearest in time. Without one of its angle, the shoot's chosen backdrop frame.
        """
        view = self._views.get(shot.angle_id, shot.angle_id)
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
