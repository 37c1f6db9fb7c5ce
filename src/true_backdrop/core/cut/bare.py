"""What may be bare backdrop, pixel by pixel; what lies around a place of it; and what may be seen through glass."""

from __future__ import annotations

from dataclasses import astuple, dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain
from true_backdrop.core.cut.masks import MIXED_PX, median, percentiles, shrunk, square
from true_backdrop.core.cut.paper import lacks_paper
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.transmission import light_added
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import Material

#: In a shadow the light that is left came off the product and carries its colour, and the shadow's own
#: slope is steeper: both tolerances grow with its depth, up to this depth (log units).
DEEPEST = 1.0
#: For each log unit of depth a place in shadow may be so much farther off the backdrop's tint; up to such a tone it may be
#: brighter, and down to such a one darker.
TINT_IN_SHADOW, TONES = 0.1, (-1.5, 0.15)
#: So much of a tolerance is allowed in a gap, where only tone and tint can be looked at.
_STRICTLY = 0.5
#: As bright as this (log units) is the backdrop in full light; a sheet of glass takes more.
FULL_LIGHT = 0.03
#: A sheet of glass takes 8 % at least (two surfaces, Fresnel's 4 % each at an index of 1.5): half of that, in log units.
THROUGH_GLASS = 0.04


def tint_allowed(tone: NDArray[np.float32] | float, limits: Tolerances) -> NDArray[np.float32]:
    """The most tint that backdrop in shadow of such a tone (log units) may have, in the same shape."""
    return np.asarray(limits.tint + TINT_IN_SHADOW * np.clip(np.negative(tone), 0, DEEPEST), np.float32)


@dataclass(frozen=True, slots=True)
class Bare:
    """Masks (H, W) of pixels that may be bare backdrop, one by one.

    surely   narrow ones that meet the tone and tint of the backdrop nearby closely
    soft     as neutral as backdrop in shadow, and no edge
    exactly  of these the ones that have its tone, in full light or nearby, and its tint
    lit      all that have its tone in full light and its tint, up to noise, whether at an edge or not
    """

    surely: Mask
    soft: Mask
    exactly: Mask
    lit: Mask


def bare_pixels(evidence: Evidence, limits: Tolerances, expected: Plane) -> Bare:
    """What may be bare backdrop, where `expected` (H, W) is the tone of the backdrop nearby."""
    found = Bare(*(np.empty(evidence.shape, bool) for _ in range(4)))
    planes = evidence.tone, evidence.tint, evidence.step, evidence.thin, expected
    exact = np.array([TONE, _TINT * evidence.noise, TONE + evidence.noise], np.float32)
    _compare_with_shade(*planes, np.array(astuple(limits), np.float32), exact, found.surely, found.soft, found.exactly, found.lit)
    return found


@compiled
def _compare_with_shade(
    tone: Plane,
    tint: Plane,
    step: Plane,
    thin: Plane,
    expected: Plane,
    limits: NDArray[np.float32],
    exact: NDArray[np.float32],
    surely: Mask,
    soft: Mask,
    exactly: Mask,
    lit: Mask,
) -> None:
    """One pixel at a time against the `Tolerances`; see `Bare`."""
    tint_limit, tint_in_shadow, step_limit, step_in_shadow, brighter = limits[0], limits[1], limits[2], limits[3], limits[4]
    thin_limit, strictly, deepest = limits[6], np.float32(_STRICTLY), np.float32(DEEPEST)
    darkest, brightest, tint_deep = np.float32(TONES[0]), np.float32(TONES[1]), np.float32(TINT_IN_SHADOW)
    for y in range(tone.shape[0]):
        for x in range(tone.shape[1]):
            off = abs(tone[y, x] - expected[y, x])
            most = tint_limit + tint_in_shadow * min(max(-expected[y, x], np.float32(0)), deepest)
            narrow = thin[y, x] > thin_limit
            surely[y, x] = narrow & (off < strictly * brighter) & (tint[y, x] < strictly * most)
            depth = min(max(-tone[y, x], np.float32(0)), deepest)
            neutral = (tint[y, x] < tint_limit + tint_deep * depth) & (tone[y, x] > darkest) & (tone[y, x] < brightest)
            soft[y, x] = neutral & (step[y, x] < step_limit + step_in_shadow * depth)
            exactly[y, x] = soft[y, x] & (min(abs(tone[y, x]), off) < exact[0]) & (tint[y, x] < exact[1])
            lit[y, x] = (abs(tone[y, x]) < exact[2]) & (tint[y, x] < exact[1])


def lacks_grain(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether a place (h, w) that is likely backdrop lacks its grain, be that plainly seen or hardly above the noise."""
    tone, bare = evidence.tone[here], evidence.bare[here]
    if evidence.grain is not None:
        return shows_grain(tone, bare, place, evidence.grain, likely=True) is False
    return lacks_paper(tone, bare, shrunk(place, MIXED_PX), evidence.structure)


def grained(evidence: Evidence, places: Mask, wanted: bool) -> Mask:
    """Of some places (H, W) those that show the backdrop's grain, or do not; none where nothing can be said."""
    found = np.zeros_like(places)
    if evidence.grain is None or not places.any():
        return found
    for here, place in places_of(places, 8):
        inner = shrunk(place, MIXED_PX // 2)
        if shows_grain(evidence.tone[here], evidence.bare[here], inner, evidence.grain) is wanted:
            found[here] |= place
    return found


#: Exactly as the backdrop is what is so near to its tone (log units), and to its tint (in its noise).
TONE, _TINT = 0.012, 5.0
#: The median tint of a place of backdrop is less than so many times the noise (2 is usual: it is a length).
_NEUTRAL = 4.5
#: A place is lit all over where so few of its pixels (percent at either end) are off by more than its tone may be and noise.
_FEW_OFF = 10


def lit_all_over(tone: Plane, tint: Plane, noise: float) -> bool:
    """Whether a place's n pixels are as light and as neutral as the backdrop in full light, up to noise."""
    darkest, brightest = percentiles(tone, _FEW_OFF, 100 - _FEW_OFF)
    if darkest < -TONE - noise or brightest > TONE + noise:
        return False
    return abs(median(tone)) < TONE and median(tint) < _NEUTRAL * noise


#: Backdrop is nowhere brighter than in full light by so much (log units, and in its noise), over such a part of a place (%).
_BRIGHTER, _BRIGHTER_NOISE, _BRIGHTER_PART = 0.012, 2.0, 20


def brighter_in_part(tone: NDArray[np.float32], noise: float) -> bool:
    """Whether a good part of n pixels is brighter than the backdrop can be: white product, whose light crosses that of paper."""
    return percentiles(tone, 100 - _BRIGHTER_PART)[0] > _BRIGHTER + _BRIGHTER_NOISE * noise


#: What is around a place is not pale if it is so far off the backdrop (log units): what is so much paler inside it is a hole.
NOT_PALE = 0.2
#: How far around that is looked at, from and to so many pixels: nearer the lens mixes the two.
_RING_PX = (3, 7)


def unlike_around(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane) -> float:
    """How far what is around a place (h, w) is off the tone of the backdrop there, or its tint, in log units; 0 where nothing
    is around."""
    around, ring = ring_around(evidence.shape, here, place)
    off = np.maximum(np.abs(evidence.tone[around] - expected[around]), evidence.tint[around])
    return median(off[ring]) if ring.any() else 0.0


#: Thin structure of such a tone against what is beside it (log units) is strands; between those strands.py decides.
_STRANDS = 0.15
#: What is so near to the backdrop's light (log units) in such a part of what is around a place, as in a lens, is no product that
#: encloses it. One has product all around where that, but for so much of it (percent), is so far off the backdrop.
AS_LIGHT, GOES_ON = 0.1, 0.2
_ALL_AROUND, _FAR_OFF = 20, 0.6


def among_strands(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether what is around a place (h, w) is thin."""
    around, ring = ring_around(evidence.shape, here, place)
    return bool(ring.any() and median(evidence.thin[around][ring]) >= _STRANDS)


def is_all_around(off: NDArray[np.float32]) -> bool:
    """Whether product is all around a place, where what is around (n,) is so far off the backdrop."""
    return bool(off.size > 0 and percentiles(off, _ALL_AROUND)[0] > _FAR_OFF and np.mean(off < AS_LIGHT) < GOES_ON)


def ring_around(
    shape: tuple[int, int], here: tuple[slice, slice], place: Mask, ring_px: tuple[int, int] = _RING_PX
) -> tuple[tuple[slice, slice], Mask]:
    """What is around a place (h, w) of planes of a shape (H, W), from and to so many pixels: a box, and in it the ring."""
    closer, far = ring_px
    around = Region(here[0].start, here[1].start, here[0].stop, here[1].stop).grown(far + 1, *shape)
    top, left = here[0].start - around.top, here[1].start - around.left
    grown = np.zeros((around.height, around.width), np.uint8)
    grown[top : top + place.shape[0], left : left + place.shape[1]] = place
    ring = cv2.dilate(grown, square(far)) > cv2.dilate(grown, square(closer))
    return around.slices, ring


#: Glass shows the grain as well. It is so large (pixels), and takes as much light all over: a shadow is so uneven (log units,
#: between the 5th and 95th percentile).
PANE_PX, _UNEVEN = 600, 0.1


def as_glass(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane, material: Material) -> bool:
    """Whether a place (h, w) that shows the backdrop may do so through glass; of a clear product it always does."""
    tone = evidence.tone[here][place]
    if median(tone) > -FULL_LIGHT or median(np.abs(tone - expected[here][place])) < THROUGH_GLASS:
        return False
    if material == "clear":
        return True
    if tone.size < PANE_PX:
        return False
    least, most = percentiles(tone, 5, 95)
    return bool(most - least < _UNEVEN)


#: A pane is darker than the backdrop, and than what is nearby, by this at least (log units); and where by `THROUGH_GLASS`, light
#: of its own needs so many standard errors, else so many.
_PANE_TAKES, _AS_PANE, _BY_ITSELF = 0.02, 1.5, 3.0


def is_pane(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane) -> bool:
    """Whether a place (h, w) that shows the backdrop is glass for sure: even, darker than an opening, and with light of its own
    over the backdrop's grain (transmission.py)."""
    paper, tone = evidence.paper, evidence.tone[here][place]
    if paper is None or tone.size < PANE_PX or median(tone) > -_PANE_TAKES:
        return False
    darker = median(expected[here][place] - tone)
    least, most = percentiles(tone, 5, 95)
    if darker < _PANE_TAKES or most - least >= _UNEVEN:
        return False
    errors = _AS_PANE if darker > THROUGH_GLASS else _BY_ITSELF
    return light_added(evidence.tone[here], evidence.bare[here], shrunk(place, MIXED_PX // 2), paper, errors)
