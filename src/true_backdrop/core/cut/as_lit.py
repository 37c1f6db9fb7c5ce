"""Parts of an enclosed place that are exactly as light as the backdrop, where the rest of it is not.

An opening hangs together with the product where a shade of that crosses the backdrop's tone, as along the handle of a white cup.
As a whole such a place is neither backdrop nor product.
"""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import ring_around
from true_backdrop.core.cut.components import places_of, within
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, median, near, percentiles

#: A part is so large at least (pixels), and a place that is looked at twice that; and it is so broad everywhere (radius).
_PART_PX, _BROAD_PX, _CLOSED_PX = 150, 3, 2
#: A part that is so much of its place is that place.
_MOST_OF = 0.95
#: Tone and tint are smoothed over so many pixels (sigma), and are then so near to the backdrop's (log units, and in its noise).
_SMOOTH_PX, _TONE, _TINT, _NOISE = 1.5, 0.015, 0.025, 1.0
#: Its 10th and 90th percentile are so far apart at most, in parts of that; on a slope that crosses the backdrop's tone 1.6.
_EVEN = 1.25
#: So much of what is around a part, and around its shadow, is off its light by this (log units, and in noise), as a mean of so
#: many pixels square. Shaded product that crosses the backdrop's tone has no such step at its end: on drawn cups 0.43 at most,
#: around openings 0.61 at least.
_AROUND_PX, _STEP, _STEP_NOISE, _OF_PART, _OF_SHADOW = 7, 0.035, 0.5, 0.58, 0.62
#: It is held against what lies within so near to it.
_WITHIN_PX = (21, 21)
#: Where the backdrop is as bright as this (log units) nothing is told by light.
_BLOWN_OUT = -0.03


def parts_as_lit(
    evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane, seen: Mask
) -> Iterator[tuple[tuple[slice, slice], Mask]]:
    """Of a place, a mask (h, w) of a box of the evidence, the broad parts with the backdrop's tone and tint that end in a step,
    and the shadow that they go on into; each with its box, and none where that is the whole of it.

    `expected` (H, W) is the backdrop's tone nearby, `seen` (H, W) where an edge is seen.
    """
    size, allowed = np.count_nonzero(place), _TONE + _NOISE * evidence.noise
    if size < 2 * _PART_PX:
        return
    own, nearby = evidence.tone[here][place], expected[here][place]
    off = np.minimum(np.abs(own), np.abs(own - nearby))
    if not _PART_PX <= np.count_nonzero(off < 2 * allowed) < _MOST_OF * size:
        return
    weight = np.asarray(cv2.GaussianBlur(place.astype(np.float32), (0, 0), _SMOOTH_PX), np.float32) + np.float32(1e-4)

    def smoothed(plane: Plane) -> Plane:
        return np.asarray(cv2.GaussianBlur(plane * place, (0, 0), _SMOOTH_PX) / weight, np.float32)

    tone, tint = smoothed(evidence.tone[here]), smoothed(evidence.tint[here])
    neutral = place & (tint < _TINT + 3 * _NOISE * evidence.noise)
    taken = np.zeros_like(place)
    # In full light, and where it lies in the shade that is seen nearby.
    in_shade = median(nearby) < -allowed / 2
    for off in (tone, tone - expected[here]) if in_shade else (tone,):
        as_lit = neutral & (np.abs(off) < allowed) & ~taken
        closed = cv2.morphologyEx(as_lit.astype(np.uint8), cv2.MORPH_CLOSE, disc(_CLOSED_PX))
        broad = cv2.morphologyEx(closed * place, cv2.MORPH_OPEN, disc(_BROAD_PX))
        for box, part in places_of(broad, 4, _PART_PX):
            if np.count_nonzero(part) > _MOST_OF * size or median(evidence.bare[here][box][part]) > _BLOWN_OUT:
                continue
            there = within(here, box)
            if _is_even(off[box][part], allowed) and _step_around(evidence, there, part) > _OF_PART:
                taken[box] |= part
                yield there, part
                yield from _into_shadow(evidence, here, place, box, part, seen)


#: From such a part backdrop goes on into its shadow, with a slope up to this (log units a pixel, and in noise); as
#: broad as this all the way, and up to so many times its size.
_SLOPE, _SLOPE_NOISE, _BROADER_PX, _AT_MOST = 0.012, 1.0, 5, 4.0


def _into_shadow(
    evidence: Evidence, here: tuple[slice, slice], place: Mask, box: tuple[slice, slice], part: Mask, seen: Mask
) -> Iterator[tuple[tuple[slice, slice], Mask]]:
    """What of a place (h, w) a part of it in a box goes on into without a step, if that ends in a step as well."""
    soft = place & (evidence.step[here] < _SLOPE + _SLOPE_NOISE * evidence.noise) & ~seen[here]
    soft &= evidence.tone[here] < median(evidence.tone[here][box][part]) + _TONE + 2 * evidence.noise
    seed, size = np.zeros_like(place), np.count_nonzero(part)
    seed[box] = part
    closed = cv2.morphologyEx((soft | seed).astype(np.uint8), cv2.MORPH_CLOSE, disc(1))
    broad = cv2.morphologyEx(closed * place, cv2.MORPH_OPEN, disc(_BROADER_PX))
    for at, grown in places_of(broad, 4, _PART_PX):
        if not size / 2 < np.count_nonzero(grown & seed[at]) or np.count_nonzero(grown) > _AT_MOST * size:
            continue
        shadow = grown & ~near(seed[at], _BROAD_PX)
        if _step_around(evidence, within(here, at), shadow, grown) > _OF_SHADOW:
            yield within(here, at), grown


def _is_even(off: Plane, allowed: float) -> bool:
    """Whether n values within so much of 0 lie closer together than those of an even slope that crosses it."""
    least, most = percentiles(off, 10, 90)
    return most - least < _EVEN * allowed


def _step_around(evidence: Evidence, here: tuple[slice, slice], part: Mask, other: Mask | None = None) -> float:
    """How much of what is around a part (h, w) is plainly lighter, darker or of another colour, 0 to 1."""
    around, ring = ring_around(evidence.shape, here, part)
    inside = np.zeros(ring.shape, np.float32)
    top, left = here[0].start - around[0].start, here[1].start - around[1].start
    at = slice(top, top + part.shape[0]), slice(left, left + part.shape[1])
    inside[at] = part
    if other is not None:
        ring[at] &= ~other
    counted, size = ring.astype(np.float32), (_AROUND_PX, _AROUND_PX)
    weight = np.maximum(cv2.blur(counted, size), np.float32(1e-4))
    within = np.maximum(cv2.blur(inside, _WITHIN_PX), np.float32(1e-4))
    off = np.zeros(ring.shape, np.float32)
    for plane in (evidence.tone[around], evidence.tint[around]):
        off = np.maximum(off, np.abs(cv2.blur(plane * counted, size) / weight - cv2.blur(plane * inside, _WITHIN_PX) / within))
    off = off[ring]
    return float(np.mean(off > _STEP + _STEP_NOISE * evidence.noise)) if off.size else 0.0
