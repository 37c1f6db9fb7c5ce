"""What is read off the live view a few times a second: placement against the guide, exposure."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from sqlalchemy.orm import Session

from true_backdrop.catalog import frames, shoots
from true_backdrop.catalog.backdrops import Backdrops, backdrop_of
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.models import Frame
from true_backdrop.catalog.treatments import treatment_of
from true_backdrop.core import codec, placement
from true_backdrop.core.arrays import LinearRGB
from true_backdrop.core.cut.framed import estimated_within, veiled
from true_backdrop.core.errors import TrueBackdropError
from true_backdrop.core.picture import Picture, proxy_size
from true_backdrop.core.treatment import FramingBox
from true_backdrop.web import studio_models
from true_backdrop.web.preview import Kept

NO_GUIDE = "this angle has no placement guide yet; any take can become it"
BINS = 64


@dataclass(frozen=True, slots=True)
class Bearings:
    """The files that the live view of a shot is held against, by digest and name."""

    guide: tuple[str, str] | None
    guide_backdrop: tuple[str, str] | None
    backdrop: tuple[str, str] | None
    framing: FramingBox | None = None


def bearings_of(session: Session, shot_id: int) -> Bearings:
    """Guide and backdrop frame for a shot."""
    shot = shoots.get_shot(session, shot_id)
    backdrop = Backdrops(session, shoots.get_shoot(session, shot.shoot_id)).of(shot)
    guide = frames.get_frame(session, shot.angle.guide_id) if shot.angle.guide_id else None
    behind = backdrop
    if guide is not None and guide.shot_id is not None:
        behind = backdrop_of(session, shoots.get_shot(session, guide.shot_id)) or backdrop
    return Bearings(_named(guide), _named(behind), _named(backdrop), treatment_of(session, shot).cut.framing)


def _named(frame: Frame | None) -> tuple[str, str] | None:
    return (frame.sha256, frame.file_name) if frame else None


class LiveReader:
    """Reads live frames; the small pictures that they are held against are kept ready."""

    def __init__(self, blobs: BlobStore) -> None:
        self._blobs = blobs
        self._small: Kept[LinearRGB] = Kept(8)
        self._guides: Kept[placement.Seen | placement.CannotTell] = Kept(8)

    def read(self, jpeg: bytes, bearings: Bearings | None) -> studio_models.LiveReading:
        """Histogram and clipping of a live frame, and placement where there is a guide."""
        picture = codec.decode(jpeg, "live view")
        return studio_models.LiveReading(
            exposure=exposure_of(picture), placement=self._placement(picture, bearings) if bearings else None
        )

    def _placement(self, picture: Picture, bearings: Bearings) -> studio_models.PlacementReading:
        if bearings.guide is None:
            return studio_models.PlacementReading(told=None, way=None, reason=NO_GUIDE)
        size = proxy_size(picture.height, picture.width, placement.LONG_SIDE)
        try:
            guide = self._guide(bearings, size)
            live = picture.linear(size=size)
            seen = self._seen(live, bearings.backdrop, bearings.framing, size)
        except TrueBackdropError as fault:
            return studio_models.PlacementReading(told=None, way=None, reason=str(fault))
        for one in (seen, guide):
            if isinstance(one, placement.CannotTell):
                whose = "in the guide " if one is guide else ""
                return studio_models.PlacementReading(told=None, way=None, reason=whose + one.reason)
        assert isinstance(seen, placement.Seen) and isinstance(guide, placement.Seen)
        told = placement.readout(seen, guide)
        return studio_models.PlacementReading(
            told=studio_models.PlacementTold(
                right=told.right, down=told.down, turn=told.turn, size=told.size, by=told.by.value, sure=told.sure
            ),
            way=placement.way_to_move(told),
            reason=None,
        )

    def _guide(self, bearings: Bearings, size: tuple[int, int]) -> placement.Seen | placement.CannotTell:
        assert bearings.guide is not None

        def make() -> placement.Seen | placement.CannotTell:
            assert bearings.guide is not None
            frame = self._sized(bearings.guide, size)
            return self._seen(frame, bearings.guide_backdrop, bearings.framing, size)

        return self._guides.get((bearings.guide, bearings.guide_backdrop, bearings.framing, size), make)

    def _seen(
        self, frame: LinearRGB, backdrop: tuple[str, str] | None, box: FramingBox | None, size: tuple[int, int]
    ) -> placement.Seen | placement.CannotTell:
        behind = estimated_within(frame, box) if backdrop is None else self._sized(backdrop, size)
        return placement.seen(frame if box is None else veiled(frame, behind, box), behind)

    def _sized(self, named: tuple[str, str], size: tuple[int, int]) -> LinearRGB:
        digest, name = named

        def make() -> LinearRGB:
            picture = codec.decode(self._blobs.get(digest), name)
            if abs(picture.width / picture.height - size[1] / size[0]) > 0.02:
                raise TrueBackdropError(f"{name} has another shape than the live view; choose a frame of this camera")
            return picture.linear(size=size)

        return self._small.get((digest, size), make)


def exposure_of(picture: Picture) -> studio_models.ExposureReading:
    """How often each value occurs, and how much of each channel is clipped (254 and 255, in percent)."""
    pixels = cv2.resize(picture.pixels, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_NEAREST)
    channels = [np.histogram(pixels[..., c], BINS, (0, 256))[0] for c in range(3)]
    highest = max(1, *(int(channel[1:-1].max()) for channel in channels))
    clipped = [round(100 * float((picture.pixels[..., c] >= 254).mean()), 2) for c in range(3)]
    return studio_models.ExposureReading(
        red=[min(1.0, float(n) / highest) for n in channels[0]],
        green=[min(1.0, float(n) / highest) for n in channels[1]],
        blue=[min(1.0, float(n) / highest) for n in channels[2]],
        clipped=clipped,
    )
