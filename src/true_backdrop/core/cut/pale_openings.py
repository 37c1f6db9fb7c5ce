"""Openings that may be pale parts of the product: evenly a little darker than the backdrop, drawn as thin as writing, with a part
of the product that floats in them, or without the grain that is seen on the backdrop around."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.doubt import WORTH_AN_OPENING
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain
from true_backdrop.core.cut.hole_criteria import mostly_flat, unevenness
from true_backdrop.core.cut.masks import MIXED_PX, disc, outside_of, percentiles, shrunk, with_margin
from true_backdrop.core.cut.paper import shows_paper
from true_backdrop.core.cut.printed import is_lit, islands_in
from true_backdrop.core.picture import Region

#: An opening that was taken for one without grain to prove it, darker than the backdrop all over, and so even against that; a
#: small one (parts of the product's area) evener.
_AS_EVEN_AS_A_LABEL, _SMALL_OPENING, _SMALL_ONE_AS_EVEN = 1.0, 0.005, 0.4
#: So much darker at least (log units, and in its noise): an opening in full light is not darker at all.
_DARKER, _DARKER_NOISE = 0.004, 0.5
#: Of surfaces that were taken for openings on 1,000 composites the median tone was -0.11 and more (log units) and the 5th to 95th
#: percentile 7.6 times the noise at most; of openings that were asked about half were darker, and less even: a darker one must be
#: large and as even as this.
_DARK, _SPREAD_NOISE, _LEAST_SPREAD, _DARK_ONE_AS_EVEN = -0.115, 10.0, 0.02, 0.2
#: Most of a large one is evener than this, though its rest is in shadow. Of 172 openings on 602 composites that were backdrop
#: none was that had not been asked about already.
_MOSTLY_EVEN = 0.2
#: One is written if it is so many times as long as wide, and fills so little of its hull, as a letter or a symbol. Of 126
#: openings on 432 composites three were so, all white print; one other was as long, and filled 0.74.
_LONG, _BENT = 11.0, 0.65
#: A large one is a stripe or a rail as well if it is so many times as long as wide, fills its hull so far, and none of it (95th
#: percentile, log units) is in the light, which a slot would let through somewhere. The limits were set on the rails of one
#: picture; of 480 frames that, and no other, was asked about for it that had not been.
_STRIPE, _STRAIGHT, _UNLIT = 8.0, 0.7, -0.1
#: Where the backdrop's grain is seen it is in an opening as well, so many pixels from its edges: in 33 of 33 on the same, and not
#: in the white of an eye.
_WITHIN_PX = 2, 3, 4, 6, 8
#: What only gaps, so many pixels wide, open to the backdrop around may be a panel in a thin outline. It is as even as a small
#: opening: of some 30 such places that were backdrop, on 400 composites, two were.
_GAP_PX = 14


def pale_openings(evidence: Evidence, product: Mask) -> Mask:
    """Openings (h, w) of a product that may be pale parts of it: evenly a little darker than the backdrop, without its grain.

    So may be what a thin outline encloses but for a gap, one that is drawn as thin as writing, and one in which something floats.
    Where the backdrop's grain is seen an opening that does not show it is all that is told.
    """
    found = np.zeros_like(product)
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    if not across:
        return found
    box = Region(top, left, top + down, left + across).grown(1, *product.shape).slices
    evidence, product, inside = evidence.view(box), product[box], found[box]
    whole, outside = np.count_nonzero(product), outside_of(product)
    openings = places_of(~product & ~outside, 4, round(_SMALL_OPENING * whole))
    if evidence.grain is not None:
        for here, place in openings:
            if not _is_proved(evidence, here, place):
                inside[here] |= place
        return found
    for here, place in openings:
        large = bool(np.count_nonzero(place) >= WORTH_AN_OPENING * whole)
        most, of_a_dark_one = (_AS_EVEN_AS_A_LABEL, _DARK_ONE_AS_EVEN) if large else (_SMALL_ONE_AS_EVEN, 0.0)
        if (
            _is_pale(evidence, here, place, most, of_a_dark_one, mostly=large)
            or _is_written(evidence, here, place)
            or (large and _is_stripe(evidence, here, place))
            or _may_be_printed(evidence, here, place)
        ):
            inside[here] |= place
    closed = cv2.morphologyEx(product.astype(np.uint8), cv2.MORPH_CLOSE, disc(_GAP_PX // 2)) > 0
    for here, place in places_of(~closed & ~outside_of(closed) & outside, 4, round(WORTH_AN_OPENING * whole)):
        if _is_pale(evidence, here, place, _SMALL_ONE_AS_EVEN, _DARK_ONE_AS_EVEN):
            inside[here] |= place
    return found


def _is_pale(
    evidence: Evidence, here: tuple[slice, slice], place: Mask, most: float, of_a_dark_one: float, *, mostly: bool = False
) -> bool:
    """Whether a place (h, w) is darker than the backdrop and uneven up to so much, a dark one up to less, and does not show its
    paper; or most of it is even, where that is `mostly` enough."""
    inner = shrunk(place, MIXED_PX)
    if not inner.any():
        return False
    tone = evidence.tone[here][inner]
    darkest, middle, lightest = percentiles(tone, 5, 50, 95)
    dark, wide = middle < _DARK, lightest - darkest > max(_LEAST_SPREAD, _SPREAD_NOISE * evidence.noise)
    uneven = unevenness(tone, evidence.noise, _DARKER + _DARKER_NOISE * evidence.noise)
    even = uneven <= min(most, of_a_dark_one) if dark else uneven <= most and not wide
    if not even and (dark or not mostly or not mostly_flat(tone, evidence.noise, _MOSTLY_EVEN)):
        return False
    return not shows_paper(evidence.tone[here], evidence.bare[here], inner, evidence.structure)


def _is_proved(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether the backdrop's grain is seen in a place (h, w), as far from its edges as need be."""
    planes = evidence.tone[here], evidence.bare[here]
    return any(shows_grain(*planes, shrunk(place, px), evidence.grain) is True for px in _WITHIN_PX)


def _may_be_printed(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether in a place (h, w) with another light than the backdrop's something floats, as a ball on the table in a ring does,
    or the middle of a flower on its white leaves; printed.py tells several. It does not show the backdrop's paper."""
    if is_lit(evidence, here, place) or not islands_in(evidence, here, place):
        return False
    return not shows_paper(evidence.tone[here], evidence.bare[here], shrunk(place, MIXED_PX), evidence.structure)


def _is_written(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether a place (h, w) is long, narrow and bent, and does not show the backdrop's paper."""
    if _length(place) < _LONG or _filled(place) > _BENT:
        return False
    return not shows_paper(evidence.tone[here], evidence.bare[here], place, evidence.structure)


def _is_stripe(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether a place (h, w) is long, straight and, away from its edges, nowhere nearly as light as the backdrop in full light,
    and does not show its paper."""
    if _length(place) < _STRIPE or _filled(place) < _STRAIGHT:
        return False
    inner = shrunk(place, MIXED_PX // 2)
    tone = evidence.tone[here][inner if inner.any() else place]
    if percentiles(tone, 95)[0] > _UNLIT:
        return False
    return not shows_paper(evidence.tone[here], evidence.bare[here], place, evidence.structure)


def _length(place: Mask) -> float:
    """How many times as long as wide a place (h, w) is, along all its bends."""
    mask = with_margin(place)
    # Across a bar the distance to its sides is a quarter of its width in the mean.
    width = 4 * float(cv2.distanceTransform(mask, cv2.DIST_L2, 5)[mask > 0].mean())
    return int(np.count_nonzero(place)) / (width * width)


def _filled(place: Mask) -> float:
    """How much of its hull a place (h, w) fills."""
    contours, _ = cv2.findContours(with_margin(place), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return int(np.count_nonzero(place)) / max(1.0, cv2.contourArea(cv2.convexHull(np.concatenate(contours))))
