"""Product that goes on over the outline: a stricter match has a part more, and no edge is seen between the two.

The pale side of a cloud or a veil has the backdrop's tone and tint in places, and there the outline of a match runs across its
smooth face. Backdrop that a stricter match takes along, light or shadow on the table, has the product's own edge along it.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import components, counted, places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, half_width, median, near, outline_of, outside_of, square

#: Matches that are asked, where along so many pixels of the outline together none lies within so many of an edge that is seen.
_MATCHES, _UNSEEN_PX, _BESIDE_PX = (70, 90), 8, 2
#: So large a part (of the product's area, and pixels) counts, and what of it lies so near to what is at least this wide.
_PART, _LEAST_PX, _BROAD_PX = 0.001, 30, 1
#: It has the product along so much of its border, and there an edge along less than so much: of 27 such parts on 432 composites
#: 24 were product for four fifths and more. Three with the product along 0.04 to 0.12 were shadow; with more of an edge (0.7 and
#: more) two more were.
_ALONG, _EDGE = 0.35, 0.6
#: So broad it is at least (pixels from its middle to its side), and no longer than so many times that beside the product, unless
#: nearly all around lies product: of an edge out of focus a stricter match has a long and narrow strip more, and in that none is
#: seen either.
_HALF_PX, _LONG, _ALL_AROUND = 3.0, 20.0, 0.9
#: It has so much tint and, in the noise, so much more, unless product lies all around it: between grey hair there is no edge
#: either, and the backdrop itself. A deep shadow (log units) may hide the edge, as it did in the other three parts: what lies in
#: one needs such a tint for each unit of its depth.
_TINT, _TINT_NOISE, _DEEP, _TINT_IN_DEPTH = 0.01, 2.0, -0.4, 0.25
#: A match is decided only where beside such an outline, up to so many pixels away, so much (in parts of the least area) has that
#: tint, or where so much of an opening's outline is such.
_LOOKED_AT_PX, _SOME, _BLIND = 12, 0.5, 0.2


def parts_going_on(evidence: Evidence, product: Mask, seen: Mask, at_match: Callable[[int], Mask]) -> Mask:
    """What (H, W) a stricter match has more of a product (H, W), parted from it by no edge that is `seen` (H, W).

    `at_match` decides the product (H, W) at a backdrop match; it is asked only where the outline runs where no edge is seen.
    """
    found = np.zeros_like(product)
    edges = near(seen, _BESIDE_PX)
    unseen = outline_of(product) & ~edges
    least = max(_LEAST_PX, round(_PART * np.count_nonzero(product)))
    _, stats = components(unseen, 8)
    if stats[:, cv2.CC_STAT_AREA].max() < _UNSEEN_PX or not _may_go_on(evidence, product, unseen, least):
        return found
    for match in _MATCHES:
        more = at_match(match) & ~product
        broad = cv2.morphologyEx(more.astype(np.uint8), cv2.MORPH_OPEN, disc(_BROAD_PX)) > 0
        for here, place in places_of(broad, 4, least):
            box, part = _with_its_rim(here, place, more)
            if _goes_on(evidence.view(box), part, product[box], edges[box]) and not _at_rim(box, part, product.shape):
                found[box] |= part
    return found


def _at_rim(box: tuple[slice, slice], part: Mask, shape: tuple[int, ...]) -> bool:
    """Whether a part, a mask (h, w) of a box, reaches the rim of planes of a shape, as light that falls on the table may."""
    whole = np.zeros(shape, bool)
    whole[box] = part
    return bool(whole[[0, -1]].any() or whole[:, [0, -1]].any())


def _may_go_on(evidence: Evidence, product: Mask, unseen: Mask, least: int) -> bool:
    """Whether such a part can lie beside the `unseen` outline of a product, (H, W) each: to decide a match takes longer than to
    see that hardly anything there has a tint, and that no opening is mostly without an edge."""
    beside = near(unseen, _LOOKED_AT_PX) & ~product & (evidence.tint > _least_tint(evidence))
    if np.count_nonzero(beside) >= _SOME * least:
        return True
    openings = cv2.dilate((~product & ~outside_of(product)).astype(np.uint8), square(1))
    labels, stats = components(openings, 4)
    length, blind = (counted(labels, line, len(stats)) for line in (outline_of(product), unseen))
    large = stats[:, cv2.CC_STAT_AREA] >= least
    return bool((large & (blind > _BLIND * length)).any())


def _least_tint(evidence: Evidence) -> float:
    return _TINT + _TINT_NOISE * evidence.noise


def _with_its_rim(here: tuple[slice, slice], place: Mask, more: Mask) -> tuple[tuple[slice, slice], Mask]:
    """A larger box, and in it (h, w) the place with what lies close around it of what a match has more (H, W)."""
    by = 2 * _BROAD_PX
    rows, columns = here
    top, left = max(rows.start - by - 1, 0), max(columns.start - by - 1, 0)
    box = slice(top, rows.stop + by + 1), slice(left, columns.stop + by + 1)
    part = np.zeros_like(more[box])
    part[rows.start - top : rows.stop - top, columns.start - left : columns.stop - left] = place
    return box, near(part, by) & more[box]


def _goes_on(evidence: Evidence, part: Mask, product: Mask, edges: Mask) -> bool:
    """Whether a part, the product and what lies at edges, all (h, w) as the evidence, are such that the product goes on there."""
    border = near(part, 1) & ~part
    shared = border & product
    length, whole = int(np.count_nonzero(shared)), int(np.count_nonzero(border))
    if length <= _ALONG * whole or np.count_nonzero(edges & shared) >= _EDGE * length:
        return False
    enclosed = length > _ALL_AROUND * whole
    half = half_width(part)
    if half < _HALF_PX or (length >= _LONG * half and not enclosed):
        return False
    tone, tint = median(evidence.tone[part]), median(evidence.tint[part])
    if tone < _DEEP and tint < -_TINT_IN_DEPTH * tone:
        return False
    return enclosed or tint > _least_tint(evidence)
