"""How far the product in the live view is off the placement guide: shift, turn, size."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, LinearRGB, Mask, Plane
from true_backdrop.core.cut.align import align
from true_backdrop.core.cut.evidence import gather
from true_backdrop.core.cut.propose import SMALLEST_PART
from true_backdrop.core.cut.region import busy_part
from true_backdrop.core.cut.verdict import touched_sides
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.registration import Similarity, register

#: Long side that placement is measured at.
LONG_SIDE = 480
#: From this correlation of the two pictures on, it is the same product in the same pose.
SAME_PRODUCT = 0.85
#: From this overlap (intersection over union) of the aligned silhouettes on, another product of that shape.
SAME_SHAPE = 0.88
#: A silhouette whose overlap falls by less than this when it is turned by ten degrees has no turn to speak of.
ROUND = 0.02


class By(StrEnum):
    """What the readout was computed from."""

    FEATURES = "features"
    SILHOUETTE = "silhouette"
    BASE = "base"


@dataclass(frozen=True, slots=True)
class Seen:
    """A product before its backdrop, at the size of placement.

    tone     (H, W) log brightness against the backdrop, 0 where it is bare
    product  (H, W) where the product is
    """

    tone: Plane
    product: Mask


@dataclass(frozen=True, slots=True)
class Readout:
    """How to read it: move the product by the opposite of these.

    right, down  percent of the frame's width and height that the product is off, positive to the right and down
    turn         degrees in the picture, positive clockwise; None when the outline is too round to tell
    size         percent that it is larger (nearer) than the guide; None where shapes cannot be compared
    by           same product: its features; another of that shape: its silhouette; another shape: its middle and its
                 base line, on which products of all shapes stand alike
    sure         correlation, or overlap of the silhouettes, 0 to 1
    """

    right: float
    down: float
    turn: float | None
    size: float | None
    by: By
    sure: float


@dataclass(frozen=True, slots=True)
class CannotTell:
    """Why there is no readout, as a sentence."""

    reason: str


def seen(frame: LinearRGB, backdrop: LinearRGB) -> Seen | CannotTell:
    """Find the product in a small frame (H, W, 3); `backdrop` has the same size."""
    try:
        aligned = align(frame, backdrop)
    except BackdropDoesNotFit as fault:
        return CannotTell(str(fault))
    evidence = gather(aligned)
    busy = busy_part(evidence)
    product = busy.on_proxy(busy.decide(50, "auto"))
    if product.mean() < SMALLEST_PART:
        return CannotTell("no product is on the table")
    sides = touched_sides(product)
    if sides:
        return CannotTell(f"the product reaches the {sides[0]} edge of the view")
    # Shadows move with the product, too; but they are soft and change with its pose, so only the product counts.
    return Seen(np.where(product, np.clip(evidence.tone, -2, 1), 0).astype(np.float32), product)


def readout(live: Seen, guide: Seen) -> Readout:
    """Compare what is on the table with the guide, of the same product or of another; both at the same size."""
    start = _by_moments(live.product, guide.product)
    textured, other = (np.where(one.product, one.tone - 0.5, 0).astype(np.float32) for one in (guide, live))
    found, sure = register(textured, other, start)
    if sure >= SAME_PRODUCT:
        return _told(found, live, guide, By.FEATURES, sure)
    if _overlap(start, guide.product, live.product) < SAME_SHAPE - 0.25:
        return _on_base(live.product, guide.product, _overlap(start, guide.product, live.product))
    found, _ = register(guide.product.astype(np.float32), live.product.astype(np.float32), start)
    overlap = _overlap(found, guide.product, live.product)
    if overlap < SAME_SHAPE:
        return _on_base(live.product, guide.product, overlap)
    y, x = _middle(live.product)
    turnless = overlap - max(_overlap(found.turned(by, (x, y)), guide.product, live.product) for by in (-10.0, 10.0)) < ROUND
    return _told(found, live, guide, By.SILHOUETTE, overlap, turn=not turnless)


def _told(found: Similarity, live: Seen, guide: Seen, by: By, sure: float, *, turn: bool = True) -> Readout:
    height, width = guide.product.shape
    # Where the middle of the guide's product has gone to.
    y, x = _middle(guide.product)
    to_x, to_y = found.moved(x, y)
    return Readout(
        right=float(100 * (to_x - x) / width),
        down=float(100 * (to_y - y) / height),
        turn=found.degrees if turn else None,
        size=100 * (found.scale - 1),
        by=by,
        sure=round(float(sure), 3),
    )


def _on_base(live: Mask, guide: Mask, overlap: float) -> Readout:
    height, width = guide.shape
    right = 100 * (_middle(live)[1] - _middle(guide)[1]) / width
    down = 100 * float(_lowest(live) - _lowest(guide)) / height
    return Readout(right, down, None, None, By.BASE, round(overlap, 3))


def _lowest(mask: Mask) -> int:
    return int(np.flatnonzero(mask.any(axis=1))[-1])


def _middle(mask: Mask) -> tuple[float, float]:
    rows, columns = np.flatnonzero(mask.any(axis=1)), np.flatnonzero(mask.any(axis=0))
    return (rows[0] + rows[-1]) / 2, (columns[0] + columns[-1]) / 2


def _by_moments(live: Mask, guide: Mask) -> Similarity:
    """Centre of gravity and area: good to some percent, and never far off."""
    one, other = (cv2.moments(mask.astype(np.uint8), binaryImage=True) for mask in (guide, live))
    scale = float(np.sqrt(other["m00"] / one["m00"]))
    x, y = one["m10"] / one["m00"], one["m01"] / one["m00"]
    return Similarity.about((x, y), scale=scale, shift=(other["m10"] / other["m00"] - x, other["m01"] / other["m00"] - y))


def _overlap(found: Similarity, guide: Mask, live: Mask) -> float:
    height, width = guide.shape
    moved = cv2.warpAffine(guide.astype(np.float32), found.matrix, (width, height)) > 0.5
    return float(np.count_nonzero(moved & live) / max(1, int(np.count_nonzero(moved | live))))


Way = Literal["left", "right", "up", "down", "turn left", "turn right", "nearer", "farther", "there"]
#: Off by less than this nobody sees (percent of frame, degrees, percent of size).
SHIFT_LIMIT, TURN_LIMIT, SIZE_LIMIT = 0.6, 1.0, 2.0


def way_to_move(told: Readout) -> Way:
    """What the hand does next: the largest fault, in units of what is allowed."""
    faults: list[tuple[float, Way]] = [
        (told.right / SHIFT_LIMIT, "left"),
        (-told.right / SHIFT_LIMIT, "right"),
        (told.down / SHIFT_LIMIT, "up"),
        (-told.down / SHIFT_LIMIT, "down"),
        ((told.turn or 0.0) / TURN_LIMIT, "turn left"),
        (-(told.turn or 0.0) / TURN_LIMIT, "turn right"),
        ((told.size or 0.0) / SIZE_LIMIT, "farther"),
        (-(told.size or 0.0) / SIZE_LIMIT, "nearer"),
    ]
    worst, way = max(faults)
    return way if worst > 1 else "there"


def outline_drawing(product: Mask) -> tuple[EncodedRGB, Plane]:
    """A product's outline as a light line with dark sides, (H, W, 3), and its alpha (H, W): seen on any ground."""
    mask = product.astype(np.uint8)
    edge = cv2.morphologyEx(mask, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).astype(np.float32)
    line = np.asarray(cv2.GaussianBlur(edge, (0, 0), 0.8), np.float32)
    around = np.asarray(cv2.GaussianBlur(edge, (0, 0), 2.0), np.float32)
    light = np.clip(line * 1.6, 0, 1)
    grey = np.round(255 * light).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2), np.asarray(np.clip(np.maximum(line * 1.6, around * 2.2), 0, 1), np.float32)
