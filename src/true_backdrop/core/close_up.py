"""A small product is looked at closely: its own part of the frame is compared and decided as if it were the frame.

On the proxy of the whole frame such a product has few pixels, and what is measured in parts of the frame is large against it:
passages that backdrop flows through, specks, the reach of a shadow. All that was set on products that fill their frame.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import cast

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedPixels, LinearRGB, Plane
from true_backdrop.core.compression import Rounding, evened, with_rounding
from true_backdrop.core.cut.align import Aligned, align
from true_backdrop.core.cut.by_hand import ByHand, exact_strokes
from true_backdrop.core.cut.evidence import Evidence, gather
from true_backdrop.core.cut.levels import ALWAYS, LONG_SIDE, Levels
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.places import Place
from true_backdrop.core.cut.region import Busy, busy_part
from true_backdrop.core.cut.shapes import Drawn
from true_backdrop.core.cut.shift import moved
from true_backdrop.core.dead_rim import MOST_LINES, without_dead_rim
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.picture import Picture, Region, proxy_size
from true_backdrop.core.treatment import Hands, Point, Shape, Touch

#: Bare backdrop around the busy part of a frame, in parts of that; and what must be no more than such a part of the whole.
_ROOM, _SMALL = 0.3, 0.45
#: A part of fewer frame pixels than this says no more than the whole.
_LEAST_PX = 160
#: Along the sides of the part the shadow fades out, in parts of its long side: beyond there is none.
_FADE = 0.04


@dataclass(frozen=True, slots=True)
class CloseUp:
    """The part of a frame that holds all that differs from the backdrop, compared at a size of its own.

    `covers` is that part in frame pixels, `frame_size` (height, width) the whole. Planes are of the part.
    """

    covers: Region
    frame_size: tuple[int, int]
    aligned: Aligned
    evidence: Evidence
    busy: Busy
    backlit: None = None

    @property
    def plainly(self) -> Evidence:
        return self.evidence

    def seen_by(self, hands: Hands) -> Hands:
        """What was done by hand, in parts of this part. The brush is as wide in the frame, and reaches as far."""
        larger = max(self.frame_size) / max(self.covers.height, self.covers.width)

        def stroke(each: Touch) -> Touch:
            points = tuple(self._inwards(point) for point in each.points)
            reach = min(1.0, each.reach * float(np.sqrt(larger)))
            return each.model_copy(update={"points": points, "width": each.width * larger, "reach": reach})

        def shape(each: Shape) -> Shape:
            if each.anchor == "product":  # goes by the box around it
                return each
            return each.model_copy(update={"points": tuple(self._inwards(point) for point in each.points)})

        strokes = hands.touches.model_copy(update={"strokes": tuple(stroke(each) for each in hands.touches.strokes)})
        shapes = hands.outlines.model_copy(update={"shapes": tuple(shape(each) for each in hands.outlines.shapes)})
        return hands.model_copy(update={"touches": strokes, "outlines": shapes})

    def holds(self, hands: Hands) -> bool:
        """Whether all product that somebody touched lies in this part."""
        points = [self._inwards(point) for each in hands.touches.strokes if each.kind == "product" for point in each.points]
        return all(0 <= x <= 1 and 0 <= y <= 1 for x, y in points)

    def traced(self, outline: Outline, hands: Hands) -> Outline:
        """An outline of this part as one of the frame; `hands` are as they were done there."""
        work = outline.by_hand
        if work is not None:
            work = self._in_frame(work, hands)
        rim = self._rim((outline.shape[0], outline.shape[1]))
        shadow = np.asarray(1 + rim * (outline.shadow - 1), np.float32)
        return replace(outline, shadow=shadow, by_hand=work, covers=self.covers)

    def box(self, parts: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
        """Left, top, right and bottom in parts of the frame, of a box in parts of this part."""
        (left, top), (right, bottom) = self._outwards(parts[0], parts[1]), self._outwards(parts[2], parts[3])
        return left, top, right, bottom

    def place(self, place: Place) -> Place:
        left, top, right, bottom = self.box((place.left, place.top, place.right, place.bottom))
        return replace(place, left=left, top=top, right=right, bottom=bottom)

    def levels(self, plane: Levels) -> Levels:
        """A plane of levels of this part as one of the frame."""
        scale = LONG_SIDE / max(self.frame_size)
        height, width = (max(1, round(length * scale)) for length in self.frame_size)
        top, left = round(self.covers.top * scale), round(self.covers.left * scale)
        bottom, right = max(top + 1, round(self.covers.bottom * scale)), max(left + 1, round(self.covers.right * scale))
        out = np.full((height, width), ALWAYS, np.uint8)
        part = Region(top, left, min(height, bottom), min(width, right))
        out[part.slices] = cv2.resize(plane, (part.width, part.height), interpolation=cv2.INTER_NEAREST)
        return out

    def _inwards(self, point: Point) -> tuple[float, float]:
        down, across = point[1] * self.frame_size[0], point[0] * self.frame_size[1]
        return (across - self.covers.left) / self.covers.width, (down - self.covers.top) / self.covers.height

    def _outwards(self, x: float, y: float) -> tuple[float, float]:
        height, width = self.frame_size
        return (self.covers.left + x * self.covers.width) / width, (self.covers.top + y * self.covers.height) / height

    def _in_frame(self, work: ByHand, hands: Hands) -> ByHand:
        size = np.array([self.covers.width, self.covers.height]) / self.frame_size[::-1]
        begin = np.array([self.covers.left, self.covers.top]) / self.frame_size[::-1]
        outlines = tuple(Drawn(begin + each.points * size, each.keeps_inside) for each in work.outlines)
        return replace(work, exact=exact_strokes(hands), outlines=outlines)

    def _rim(self, shape: tuple[int, int]) -> Plane:
        """1 inside, 0 along those sides of the part (H, W) that are none of the frame's."""
        over = max(2, round(_FADE * max(shape)))
        part, whole = self.covers, Region(0, 0, *self.frame_size)
        ramps = []
        for length, begins, ends in (
            (shape[0], part.top > whole.top, part.bottom < whole.bottom),
            (shape[1], part.left > whole.left, part.right < whole.right),
        ):
            at = np.arange(length, dtype=np.float32)
            first = at / over if begins else np.ones_like(at)
            last = (length - 1 - at) / over if ends else np.ones_like(at)
            ramp = np.clip(np.minimum(first, last), 0, 1)
            ramps.append(ramp * ramp * (3 - 2 * ramp))
        return np.asarray(np.minimum.outer(*ramps), np.float32)


def part_of(busy: Busy, frame_size: tuple[int, int]) -> Region | None:
    """The part of a frame (frame pixels) that a small product is looked at in; None where it is not small."""
    height, width = busy.shape
    region = busy.region
    if region.height == height and region.width == width:
        return None
    part = region.grown(round(_ROOM * max(region.height, region.width)), height, width)
    if max(part.height, part.width) > _SMALL * max(height, width):
        return None
    # Even numbers, so that no pixel of a picture of half the size is cut in two.
    down, across = frame_size[0] / height, frame_size[1] / width
    covers = Region(
        2 * int(part.top * down / 2),
        2 * int(part.left * across / 2),
        min(frame_size[0], 2 * int(np.ceil(part.bottom * down / 2))),
        min(frame_size[1], 2 * int(np.ceil(part.right * across / 2))),
    )
    return covers if max(covers.height, covers.width) >= _LEAST_PX else None


def close_up(
    frame: tuple[Picture, Rounding], backdrop: tuple[Picture, Rounding], whole: Aligned, covers: Region, long_side: int
) -> CloseUp | None:
    """A part of a frame compared with the same part of the backdrop frame; None where they do not fit as the whole does.

    Both come with what a coarse encoder did to them. The part is averaged down to `long_side` at most. Exposure and noise are its
    own; the camera's shift is that of the `whole`, which shows more of the backdrop.
    """
    (taken, rounding), size = frame, proxy_size(covers.height, covers.width, long_side)
    take, empty = (small(_part(picture, covers), size, how) for picture, how in (frame, backdrop))
    finer = size[0] / covers.height * taken.height / whole.frame.shape[0]
    take, empty = without_dead_rim(take, empty, round(MOST_LINES * finer))
    if whole.corrected and whole.shift is not None:
        empty = moved(empty, (whole.shift[0] * finer, whole.shift[1] * finer))
    try:
        aligned = replace(align(take, empty), shift=whole.shift, corrected=whole.corrected, pixel_noise=whole.pixel_noise)
    except BackdropDoesNotFit:
        return None
    evidence = with_rounding(gather(aligned), take, rounding)
    return CloseUp(covers, (taken.height, taken.width), aligned, evidence, busy_part(evidence))


def _part(picture: Picture, region: Region) -> Picture:
    """That part alone: a picture keeps all of itself at half the size for what is asked of it."""
    return replace(picture, pixels=cast(EncodedPixels, np.ascontiguousarray(picture.pixels[region.slices])))


def small(picture: Picture, size: tuple[int, int], rounding: Rounding) -> LinearRGB:
    """A picture in linear light at a size (h, w); what a coarse encoder left of even light is evened out."""
    light = picture.linear(size=size)
    return evened(light, rounding.step) if rounding.step else light
