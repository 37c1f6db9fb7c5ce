"""Outlines drawn by hand: what they drop, on any grid of pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import make_interp_spline

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.picture import Box
from true_backdrop.core.treatment import Shape

#: Straight pieces that a curve is drawn with, between two of its points.
_PIECES = 12
#: Finer grid for the coverage of pixels that an outline crosses.
_FINER = 4


@dataclass(frozen=True, slots=True)
class Drawn:
    """A closed polygon, (n, 2) points x, y in parts of the frame's width and height; what lies outside, or inside, goes."""

    points: NDArray[np.float64]
    keeps_inside: bool


def drawn(shapes: Sequence[Shape], product: Mask) -> tuple[Drawn, ...]:
    """Outlines in parts of the frame; those that are anchored to the product follow the box around it (H, W)."""
    return tuple(Drawn(_placed(shape, product), shape.keep == "inside") for shape in shapes)


def _placed(shape: Shape, product: Mask) -> NDArray[np.float64]:
    points = _curve(np.array(shape.points)) if shape.curved else np.array(shape.points)
    box = box_in_parts(product) if shape.anchor == "product" else None
    if box is None:
        return points
    left, top, right, bottom = box
    return np.array([left, top]) + points * (right - left, bottom - top)


def box_in_parts(product: Mask) -> tuple[float, float, float, float] | None:
    """Left, top, right and bottom of a product (H, W) in parts of width and height; None when there is none."""
    left, top, width, height = cv2.boundingRect(product.astype(np.uint8))
    if width == 0:
        return None
    down, across = product.shape
    return left / across, top / down, (left + width) / across, (top + height) / down


def _curve(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """A closed cubic spline through the points."""
    closed = np.vstack([points, points[:1]])
    at = np.arange(len(closed))
    fine = np.linspace(0, len(points), _PIECES * len(points), endpoint=False)
    return np.asarray(make_interp_spline(at, closed, k=3, bc_type="periodic")(fine), np.float64)


def kept(outlines: Sequence[Drawn], part: Box, shape: tuple[int, int], size: tuple[float, float]) -> Plane | None:
    """How much of each pixel the outlines keep, (h, w) in 0..1; None when all of it.

    `part` (in frame pixels) is seen as `shape` (h, w); `size` is the frame's height and width.
    """
    keep: Plane | None = None
    for outline in outlines:
        covered = _coverage(outline.points, part, shape, size)
        covered = covered if outline.keeps_inside else 1 - covered
        keep = covered if keep is None else keep * covered
    return None if keep is None or keep.min() == 1 else keep


def _coverage(points: NDArray[np.float64], part: Box, shape: tuple[int, int], size: tuple[float, float]) -> Plane:
    height, width = shape
    top, left, bottom, right = part
    down, across = height / (bottom - top) * _FINER, width / (right - left) * _FINER
    at = (points * (size[1], size[0]) - (left, top)) * (across, down) - 0.5
    fine = np.zeros((height * _FINER, width * _FINER), np.uint8)
    limit = 1 << 24  # far outside nothing changes, and OpenCV's own numbers stay small
    cv2.fillPoly(fine, [np.clip(np.round(at * 16), -limit, limit).astype(np.int32).reshape(-1, 1, 2)], 255, shift=4)
    return np.asarray(cv2.resize(fine, (width, height), interpolation=cv2.INTER_AREA), np.float32) / np.float32(255)
