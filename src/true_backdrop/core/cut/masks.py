"""Small work on masks that several steps of a decision share."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import all_of, components

#: Within so many pixels of a place's side the lens and the evidence mix it with what is around.
MIXED_PX = 4


def disc(radius: int) -> np.ndarray:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))


#: Up to this radius OpenCV's erosion is faster than a distance transform, and its dilation up to this reach.
_SMALL_DISC, _SMALL_REACH = 10, 6


def eroded(mask: Mask, radius: int) -> NDArray[np.uint8]:
    """What is farther than `radius` from everything that is not in the mask; the picture's rim does not count."""
    inside = mask.astype(np.uint8)
    if radius <= _SMALL_DISC:
        return np.asarray(cv2.erode(inside, disc(radius)), np.uint8)
    return np.asarray(cv2.distanceTransform(inside, cv2.DIST_L2, 5) > radius, np.uint8)


def shrunk(mask: Mask, radius: int) -> Mask:
    """The same for a mask of a place: what is beyond the array is not in it. The radius is small."""
    return np.asarray(cv2.erode(mask.astype(np.uint8), disc(radius), borderType=cv2.BORDER_CONSTANT, borderValue=0) > 0)


def near(mask: Mask, reach: float) -> Mask:
    """What is at most `reach` pixels away from a mask, itself included."""
    if reach <= _SMALL_REACH:
        return np.asarray(cv2.dilate(mask.astype(np.uint8), _around(reach)) > 0)
    return np.asarray(cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5) <= reach)


@cache
def _around(reach: float) -> NDArray[np.uint8]:
    """What is so near to a pixel by OpenCV's distance transform, (n, n); a mask is dilated with it as by that transform."""
    room = int(reach) + 1
    apart = np.ones((2 * room + 1,) * 2, np.uint8)
    apart[room, room] = 0
    return np.asarray(cv2.distanceTransform(apart, cv2.DIST_L2, 5) <= reach, np.uint8)


def with_margin(mask: Mask, value: int = 0) -> NDArray[np.uint8]:
    """A mask (h, w) of 0 and 1 with one more pixel of such a value all around, (h + 2, w + 2)."""
    return np.asarray(cv2.copyMakeBorder(mask.astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=(value,)), np.uint8)


@cache
def square(px: int) -> NDArray[np.uint8]:
    """All that is so many pixels away each way, to dilate and erode with."""
    return np.ones((2 * px + 1,) * 2, np.uint8)


def half_width(place: Mask) -> float:
    """From the middle of a place (h, w) to what is beside it where it is widest (pixels)."""
    return float(cv2.distanceTransform(with_margin(place), cv2.DIST_L2, 5).max())


def outside_of(product: Mask) -> Mask:
    """What is neither a product (H, W) nor enclosed by it."""
    free = with_margin(~product, 1)
    cv2.floodFill(free, None, (0, 0), (2,))
    return np.asarray(free[1:-1, 1:-1] == 2)


def outline_of(product: Mask) -> Mask:
    """The outermost pixels of a product (H, W)."""
    mask = product.astype(np.uint8)
    return np.asarray(mask > cv2.erode(mask, cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))))


def median(values: np.ndarray) -> float:
    """The upper median; NumPy's own costs more for its checks than for its work on a small hole."""
    middle = values.size // 2
    return float(np.partition(values, middle)[middle])


#: From so many values on NumPy's selection is faster than a sort of all of them.
_MANY = 3000


def percentiles(values: np.ndarray, *percents: float) -> list[float]:
    """Percentiles of n values by linear interpolation, as NumPy's: that costs more for its checks than for its work as well."""
    if values.size > _MANY:
        return [float(value) for value in np.percentile(values, percents)]
    ordered = np.sort(values)
    found = []
    for percent in percents:
        at = percent / 100 * (ordered.size - 1)
        low = int(at)
        high = min(low + 1, ordered.size - 1)
        found.append(float(ordered[low] + (ordered[high] - ordered[low]) * (at - low)))
    return found


def most_alike(ordered: np.ndarray, part: float) -> slice:
    """Where in n sorted values the shortest interval lies that holds such a part of them (the shorth, Andrews et al. 1972, from
    memory)."""
    most = int(part * ordered.size)
    first = int(np.argmin(ordered[most:] - ordered[: ordered.size - most]))
    return slice(first, first + most + 1)


def without_specks(product: Mask) -> Mask:
    """Dust and noise: parts much smaller than the largest one are not product."""
    labels, stats = components(product, 8)
    if len(stats) < 2:
        return product
    areas = stats[1:, cv2.CC_STAT_AREA]
    keep = np.zeros(len(stats), bool)
    keep[1:] = areas >= max(8.0, 0.002 * float(areas.max()))
    return all_of(labels, keep)


def rising(values: NDArray[np.floating], span: tuple[float, float]) -> NDArray[np.float32]:
    """0 up to the first of two values, 1 from the second on, and straight in between; the shape of `values`."""
    return np.asarray(np.clip((values - span[0]) / (span[1] - span[0]), 0, 1), np.float32)
