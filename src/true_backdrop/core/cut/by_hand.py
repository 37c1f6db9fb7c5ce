"""What a person did to a cut, in the form that the pixels of a view need."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, LinearRGB, Mask, Plane
from true_backdrop.core.cut.adjust import EdgeWork
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.clear import clear_parts
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.hand_made import HandMade
from true_backdrop.core.cut.shapes import Drawn, drawn, kept
from true_backdrop.core.cut.touches import draw, shadow_by_hand
from true_backdrop.core.cut.transmission import opacity_by_grain
from true_backdrop.core.picture import Box
from true_backdrop.core.treatment import Hands, Material, Touch

#: Finer grid for the coverage of pixels that a brush's edge crosses.
_FINER = 4


@dataclass(frozen=True, slots=True)
class ByHand:
    """For the pixels of any view.

    exact      strokes whose every pixel is as said, hard-edged
    outlines   what is dropped
    edge       shift_px, smooth and harden, in frame pixels
    clear      (H, W) of the proxy: how far the product is clear there; None where nothing is
    opacity    of what is clear
    stopped    (H, W) of the proxy: how much of the backdrop's light is stopped there, as far as its grain tells; None where it
               does not
    shadow     (H, W) of the proxy: 1 where it was painted back, -1 where away; None where nobody did
    made       a whole matte that came back from a retoucher; it takes the place of the program's own
    """

    exact: tuple[Touch, ...]
    outlines: tuple[Drawn, ...]
    edge: tuple[float, float, float]
    clear: Plane | None
    opacity: float
    shadow: Plane | None
    made: HandMade | None = None
    stopped: Plane | None = None

    def edge_work(self, scale: float) -> EdgeWork | None:
        """For a view with `scale` pixels for each pixel of the frame."""
        return EdgeWork.of(*self.edge, scale)

    def reach_px(self) -> float:
        """Frame pixels by which the edge's settings reach farther than the edge itself."""
        shift, smooth, _ = self.edge
        return abs(shift) + 9 * smooth

    def overlaid(
        self, part: Box, size: tuple[int, int], alpha: Alpha, colour: LinearRGB, shot: LinearRGB
    ) -> tuple[Alpha, LinearRGB]:
        """Alpha (h, w) and colour (h, w, 3) of a part of the frame (frame pixels) with exact strokes and outlines on it."""
        shape = (int(shot.shape[0]), int(shot.shape[1]))
        for stroke in self.exact:
            covered = _coverage(stroke, part, shape, size)
            if covered is None:
                continue
            alpha, colour = np.broadcast_to(alpha, shape), np.broadcast_to(colour, shot.shape)
            if stroke.kind == "product":
                weight = covered[..., None]
                colour = np.asarray(np.where(alpha[..., None] < 1, colour + weight * (shot - colour), colour), np.float32)
                alpha = np.maximum(alpha, covered)
            else:
                alpha = np.minimum(alpha, 1 - covered)
        keep = kept(self.outlines, part, shape, size) if self.outlines else None
        if keep is not None:
            alpha = np.broadcast_to(alpha, shape) * keep
        return np.ascontiguousarray(alpha, np.float32), np.ascontiguousarray(colour, np.float32)

    def where(self, size: tuple[int, int]) -> list[Box]:
        """Where in a frame (height, width) there is anything of them, in its pixels."""
        if self.outlines:
            return [(0, 0, *size)]
        return [_box(*_points(stroke, size)) for stroke in self.exact]


def by_hand(
    hands: Hands,
    material: Material,
    aligned: Aligned,
    evidence: Evidence,
    shadow: Plane,
    product: Mask,
    *,
    made: HandMade | None = None,
    through: Mask | None = None,
) -> ByHand | None:
    """For a decided product (H, W); None when there is nothing to do. Where the backdrop is seen `through` it (H, W) it is clear.

    A matte that was made by hand is not cut, moved or cleared any further; shadow can still be painted.
    """
    if made is not None:
        shape = (int(product.shape[0]), int(product.shape[1]))
        painted = shadow_by_hand(hands.touches.strokes, shape)
        return ByHand((), (), (0.0, 0.0, 0.0), None, 0.0, painted, made)
    edge = (hands.edge.shift_px or 0.0, hands.edge.smooth, hands.edge.harden)
    clear = stopped = None
    if hands.clear.opacity < 1 and (material == "clear" or through is not None):
        clear = clear_parts(aligned, shadow, product, hands.clear, None if material == "clear" else through)
    if clear is not None and evidence.paper is not None:
        stopped = opacity_by_grain(evidence.tone, evidence.step, evidence.bare, clear, shadow, evidence.paper)
    exact = exact_strokes(hands)
    outlines = drawn(hands.outlines.shapes, product)
    painted = shadow_by_hand(hands.touches.strokes, (int(product.shape[0]), int(product.shape[1])))
    if outlines:
        # What an outline drops goes white, with whatever shadow lies there.
        gone = product_dropped(outlines, (int(product.shape[0]), int(product.shape[1])))
        painted = -gone if painted is None else np.where(gone > 0.5, -1, painted).astype(np.float32)
    if edge == (0.0, 0.0, 0.0) and clear is None and not exact and not outlines and painted is None:
        return None
    return ByHand(exact, outlines, edge, clear, hands.clear.opacity, painted, stopped=stopped)


def exact_strokes(hands: Hands) -> tuple[Touch, ...]:
    """Those that say what is under the brush and nothing more."""
    return tuple(s for s in hands.touches.strokes if s.reach == 0 and s.kind in ("product", "backdrop"))


def product_dropped(outlines: Sequence[Drawn], shape: tuple[int, int]) -> Plane:
    """How much of each pixel of a proxy (H, W) the outlines drop."""
    keep = kept(outlines, (0, 0, *shape), shape, shape)
    return np.zeros(shape, np.float32) if keep is None else 1 - keep


def dropped(outlines: Sequence[Drawn], product: Mask) -> Mask:
    """The product (H, W) without what outlines drop."""
    height, width = product.shape
    keep = kept(outlines, (0, 0, height, width), (height, width), (height, width))
    return product if keep is None else np.asarray(product & (keep > 0))


def _points(stroke: Touch, size: tuple[int, int]) -> tuple[NDArray[np.float64], float]:
    """The stroke's points (n, 2) and its width in pixels of a frame (height, width)."""
    return np.array(stroke.points) * (size[1], size[0]), max(1.0, stroke.width * max(size))


def _box(points: NDArray[np.float64], wide: float) -> Box:
    """All that a stroke comes near."""
    (left, top), (right, bottom) = points.min(axis=0) - wide, points.max(axis=0) + wide
    return float(top), float(left), float(bottom), float(right)


def meet(one: Box, other: Box) -> bool:
    """Whether two parts of a frame have anything in common, or touch."""
    return one[0] <= other[2] and one[1] <= other[3] and one[2] >= other[0] and one[3] >= other[1]


def _coverage(stroke: Touch, part: Box, shape: tuple[int, int], size: tuple[int, int]) -> Plane | None:
    """How much of each pixel (h, w) the brush covers; None when it is elsewhere."""
    points, wide = _points(stroke, size)
    if not meet(_box(points, wide), part):
        return None
    top, left, bottom, right = part
    down, across = shape[0] / (bottom - top) * _FINER, shape[1] / (right - left) * _FINER
    fine = np.zeros((shape[0] * _FINER, shape[1] * _FINER), np.uint8)
    draw(fine, (points - (left, top)) * (across, down), wide * down)
    covered = np.asarray(cv2.resize(fine, shape[::-1], interpolation=cv2.INTER_AREA), np.float32) / np.float32(255)
    return covered if covered.any() else None
