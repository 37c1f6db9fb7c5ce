"""Which files a cut is made from."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from true_backdrop.catalog.backdrops import Backdrops
from true_backdrop.catalog.models import Frame, Shoot, Shot
from true_backdrop.catalog.shoots import get_shoot
from true_backdrop.core import pipeline
from true_backdrop.core.treatment import Treatment, hands_of


@dataclass(frozen=True, slots=True)
class File:
    """One original in the store; the size is that of the upright picture."""

    sha256: str
    name: str
    height: int
    width: int


@dataclass(frozen=True, slots=True)
class CutSource:
    """The take, the empty set, the same two in the light of a silhouette, and a matte from a retoucher, where there are such."""

    frame: File
    backdrop: File | None
    silhouette: File | None = None
    backlit: File | None = None
    hand_made: File | None = None

    @property
    def behind(self) -> str:
        """What stands for the backdrop frame in a key."""
        return self.backdrop.sha256 if self.backdrop else "estimated"

    @property
    def dark(self) -> str:
        """What stands for the silhouette and its empty set in a key; empty without."""
        if self.silhouette is None:
            return ""
        return self.silhouette.sha256 + (self.backlit.sha256 if self.backlit else "estimated")


class CutSources:
    """The files of all shots of a shoot, read in a few queries."""

    def __init__(self, session: Session, shoot: Shoot) -> None:
        self.backdrops = Backdrops(session, shoot)
        found = session.scalars(
            select(Frame)
            .where(Frame.shoot_id == shoot.id, Frame.kind.in_(("silhouette", "backlit", "matte", "retouched")))
            .order_by(Frame.id)
        ).all()
        self._of_shot: dict[int, list[Frame]] = {}
        self._empty: dict[str, list[Frame]] = {}
        self._anywhere: list[Frame] = []
        self._by_hand: dict[int, Frame] = {}
        views = {angle.id: angle.view for angle in shoot.angles}
        for frame in found:
            if frame.kind == "silhouette" and frame.shot_id:
                self._of_shot.setdefault(frame.shot_id, []).append(frame)
            elif frame.kind in ("matte", "retouched") and frame.shot_id:
                self._by_hand[frame.shot_id] = frame  # the newest counts
            elif frame.angle_id in views:
                self._empty.setdefault(views[frame.angle_id], []).append(frame)
            elif frame.kind == "backlit":
                self._anywhere.append(frame)

    def has_silhouette(self, shot: Shot) -> bool:
        return shot.id in self._of_shot

    def has_empty_silhouette(self, shot: Shot) -> bool:
        """Whether the empty set was shot in the silhouette's light from where this shot is seen."""
        return shot.angle.view in self._empty or bool(self._anywhere)

    def of(self, shot: Shot) -> CutSource | None:
        """None while the shot has no take. A silhouette counts when it is the nearest in time to the chosen take."""
        if shot.frame is None:
            return None
        backdrop = self.backdrops.of(shot)
        dark = _nearest(self._of_shot.get(shot.id, []), shot.frame)
        empty = _nearest(self._empty.get(shot.angle.view) or self._anywhere, dark) if dark else None
        made = self._by_hand.get(shot.id)
        if made is not None and (made.made_with or {}).get("of") != shot.frame.sha256:
            made = None  # of another take
        return CutSource(file_of(shot.frame), _maybe(backdrop), _maybe(dark), _maybe(empty), _maybe(made))


def file_of(frame: Frame) -> File:
    return File(frame.sha256, frame.file_name, frame.height, frame.width)


def _maybe(frame: Frame | None) -> File | None:
    return file_of(frame) if frame else None


def _nearest(frames: list[Frame], to: Frame) -> Frame | None:
    return min(frames, key=lambda frame: abs(frame.created_at - to.created_at), default=None)


def source_of(session: Session, shot: Shot) -> CutSource | None:
    """The same for one shot."""
    return CutSources(session, get_shoot(session, shot.shoot_id)).of(shot)


def cut_key(source: CutSource, treatment: Treatment) -> str:
    """Key of the cut that these files and settings give."""
    dark = source.dark if treatment.cut.silhouette else ""
    if source.hand_made is not None:
        dark += "by hand" + source.hand_made.sha256
    return pipeline.cut_key(source.frame.sha256, source.behind, treatment.cut, hands_of(treatment), dark)
