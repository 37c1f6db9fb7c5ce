"""Parts of a product in its own shadow, that pass for shadow in tone and tint, told by the colour that the table beside lacks.

A product throws its colour on the table, so the deeper a shadow the more tint it may have (tolerances.py). That light fades with
the distance; the colour of a part of the product ends at an edge.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median
from true_backdrop.core.picture import Region

#: So far from the product (proxy pixels) parts of it are looked for, and from and to so far what the table's tint is, of which
#: nearly all (percent) is less.
_REACH_PX, _TABLE_PX, _NEARLY_ALL = 64, (24, 96), 90
#: A part has this tint at least (log units), and so many times that of the table; so many levels are tried, each higher by such a
#: factor.
_LEAST, _TIMES, _LEVELS, _HIGHER = 0.05, 2.0, 7, 1.35
#: So many of its pixels are beside the product, and so many farther from it than the lens mixes the two, over a share of which
#: the tint is so much higher still.
_BESIDE, _MIXED_PX, _OWN_PX, _STABLE_TIMES, _STABLE = 8, 4, 60, 1.5, 0.5
#: Along nearly all of its own border, up to so many pixels away, the tint has an edge (log units a pixel), and that border is
#: such a share of all of it; the table close to it, from and to so many pixels away, has so many times less.
_NEAR_PX, _EDGE, _ALONG, _OWN, _CLOSE_PX, _LESS = 2, 0.015, 0.9, 0.25, (2, 4), 2.5
#: With so many times the least that a part may have, and so large (parts of the product), of less of it: light on a rounded edge
#: makes that paler.
_PLAIN, _LARGE, _PLAIN_ALONG = 3.5, 0.02, 0.75
_SIGMA_PX = 1.0
#: It ends where the tint is such a part of the most within so many pixels; but for so near to the product, which has more.
_HALF, _EDGE_PX, _BESIDE_PX = 0.45, 3, 7


@dataclass(frozen=True, slots=True)
class _Around:
    """Planes (h, w) around a product: its mask, tint, how far from the product it is, and where parts are looked for."""

    product: Mask
    tint: Plane
    away: Plane
    within: Mask

    def tinted(self, level: float, found: Mask) -> tuple[Mask, bool]:
        """Where (h, w) there is more tint than that, but for what is `found` already, and whether of more there is enough."""
        tinted = (self.tint > level) & self.within & ~found
        most = tinted & (self.tint > _STABLE_TIMES * level) & (self.away > _MIXED_PX)
        return tinted, bool(np.count_nonzero(most) >= _STABLE * _OWN_PX)

    def edge(self, there: tuple[slice, slice]) -> Plane:
        """The steepest slope of the tint within a few pixels, for a part of the planes."""
        rows, columns = there
        part = Region(rows.start, columns.start, rows.stop, columns.stop)
        wide = part.grown(_NEAR_PX + 1, *self.tint.shape)
        tint = self.tint[wide.slices]
        slope = cv2.magnitude(*(cv2.Sobel(tint, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1))))
        steepest = np.asarray(cv2.dilate(slope, np.ones((2 * _NEAR_PX + 1,) * 2, np.uint8)), np.float32)
        return steepest[part.within(wide)]


def tinted_parts(evidence: Evidence, product: Mask) -> Mask:
    """What (H, W) beside a product is a part of it: of a tint that ends at an edge, as no light on the table does.

    Of 83,000 proxy pixels lost along outlines of 87 composites three quarters had a tint that jumps by 0.05 and more.
    """
    found = np.zeros_like(product)
    left, top, width, height = cv2.boundingRect(product.astype(np.uint8))
    if width == 0:
        return found
    here = Region(top, left, top + height, left + width).grown(_TABLE_PX[1], *product.shape).slices
    seen = _around(evidence.tint[here], product[here])
    table = seen.tint[(seen.away > _TABLE_PX[0]) & (seen.away < _TABLE_PX[1])]
    if table.size == 0:
        return found
    if not seen.tinted(_LEAST, found[here])[1]:
        return found
    least = max(_LEAST, _TIMES * float(np.percentile(table[::5], _NEARLY_ALL)))
    for step in range(_LEVELS):
        level = least * _HIGHER**step
        if not _add_parts(seen, level, least, found[here]):
            break
    return found


def _around(tint: Plane, product: Mask) -> _Around:
    smooth = np.asarray(cv2.GaussianBlur(tint, (0, 0), _SIGMA_PX), np.float32)
    away = np.asarray(cv2.distanceTransform((~product).astype(np.uint8), cv2.DIST_L2, 5), np.float32)
    return _Around(product, smooth, away, ~product & (away < _REACH_PX))


def _add_parts(seen: _Around, level: float, least: float, found: Mask) -> bool:
    """Add the parts that are told at a level, the `least` or more, to those `found` (h, w); whether anything has so much tint."""
    tinted, enough = seen.tinted(level, found)
    if not enough:
        return False
    labels, stats = components(tinted, 4)
    large = stats[:, cv2.CC_STAT_AREA] >= _OWN_PX
    large[0] = False
    for label in np.flatnonzero(large):
        left, top, width, height, _ = (int(value) for value in stats[label])
        box = Region(top, left, top + height, left + width).grown(_CLOSE_PX[1] + 1, *tinted.shape).slices
        part, away = labels[box] == label, seen.away[box]
        own = part & (away > _MIXED_PX)
        # What the lens draws round the whole product hangs together with it.
        part &= cv2.dilate(own.astype(np.uint8), np.ones((2 * _MIXED_PX + 3,) * 2, np.uint8)) > 0
        if np.count_nonzero(own) < _OWN_PX or np.count_nonzero(part & (away < 2)) < _BESIDE:
            continue
        if away[part].max() > _REACH_PX - 2:
            continue
        tint = seen.tint[box]
        if np.mean(tint[own] > _STABLE_TIMES * level) > _STABLE and _ends_at_an_edge(seen, box, part, own, least):
            most = cv2.dilate(tint, np.ones((2 * _EDGE_PX + 1,) * 2, np.uint8))
            found[box] |= part & ((tint > _HALF * most) | (away < _BESIDE_PX))
    return True


def _ends_at_an_edge(seen: _Around, box: tuple[slice, slice], part: Mask, own: Mask, least: float) -> bool:
    """Whether the tint of a part (h, w) of a box, `own` (h, w) of which is not mixed with the product's, ends sharply."""
    mask, product, around = part.astype(np.uint8), seen.product[box], np.ones((3, 3), np.uint8)
    border = (cv2.dilate(mask, around) > 0) & ~part
    free = border & ~product & (seen.away[box] > _MIXED_PX - 1)
    if np.count_nonzero(free) < max(_BESIDE, _OWN * np.count_nonzero(border)):
        return False
    tint = median(seen.tint[box][own])
    plain = tint > _PLAIN * least and np.count_nonzero(own) > _LARGE * np.count_nonzero(seen.product)
    if np.mean(seen.edge(box)[free] > _EDGE) < (_PLAIN_ALONG if plain else _ALONG):
        return False
    nearer, farther = (cv2.dilate(mask, around, iterations=by) > 0 for by in _CLOSE_PX)
    close = farther & ~nearer & ~product
    return bool(close.any()) and tint > _LESS * median(seen.tint[box][close])
