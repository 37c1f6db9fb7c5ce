"""Strands told by their colour alone: how much of the backdrop is seen between them, wherever that is.

Strands that are lit from everywhere and as light as the backdrop have no lines in the tone. But where their colour is another
one, a pixel that they cover in part has less of it, whatever its brightness: its light is u times the strands' colour and v
times the backdrop's. Print and weave in one colour look the same; strands end at different places, so that the outline is
ragged, and between bars the backdrop is seen along their edges only.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedRGB, Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.components import all_of, beside, components, counted, hanging_together
from true_backdrop.core.cut.evidence import RELIEF_STEPS, Evidence
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.ragged import over_a_place, ragged

#: How far around the purest colour is looked for, in parts of the long side.
_AROUND = 0.02
#: A colour is told from grey if it is so far off (a part of its brightness), and by so many times the noise.
_COLOURED, _COLOURED_NOISE = 0.06, 4.0
#: A pixel that is off the mixtures of the two by more than this is of another colour; so is one that is so much brighter.
_OTHER, _BRIGHTER = 0.22, 1.15
#: Darker than this, of the backdrop, a pixel has no colour.
_DARK = 0.02
#: From so far inside of the outline on (proxy pixels) no firm edge makes a pixel a mixture.
_INSIDE_PX = 1.5
#: Over a place where there are strands so much backdrop is seen at least, ...
_SEEN = 0.08
#: ... so much of it is fine, off its mean over so many pixels of half the size by so much, ...
_FINE, _FINE_PX, _FINE_OFF = 0.33, 5, 0.05
#: ... and of another colour is at most so much; for pixels around it a little more will do.
_ODD, _ODD_AROUND = 0.06, 0.09
#: Depths (proxy pixels) of the edge of a bar, and of what lies deeper; at the edge so much backdrop is seen, and deeper so much
#: less. So much deeper has to be there, in parts of the place.
_EDGE_PX, _DEEPER_PX, _AT_EDGE, _DEEPER, _SOME = 4.0, 10.0, 0.08, 0.35, 0.002
#: Farther in than the lens draws a firm edge (proxy pixels) so much backdrop is seen at least, or nothing is to be opened.
#: And in so much of what is open there so much is seen: a weave that is paler in part is nowhere the backdrop.
_BEYOND_EDGE_PX, _SEEN_BEYOND, _PLAINLY, _SOMEWHERE = 3.5, 0.02, 0.35, 0.1
#: Of what hangs together such a part has a ragged outline, and it is so large (of the long side squared); and the same of a
#: pattern, whose parts are ragged or bars.
_RAGGED_PLACE, _PATTERN = (0.37, 0.008), (0.25, 0.03)
#: Less than this (of the long side squared) is not looked at.
_FEW = 0.002
#: Around such a place (pixels of half the size) pixels through which so much is seen are open.
_REACH_PX, _OPEN = 8, 0.08
#: What is nearly as the backdrop is a hole or white product, which is not for colour to say, if it is so broad (radius, pixels of
#: half the size), or shut in, not as broad and one of few; such white has an edge.
_AS_BACKDROP, _BROAD_PX, _SHUT_IN_PX, _EDGE_OF_WHITE_PX, _MANY = 0.6, 2, 1, 3, 6
#: Where there are many it is a gap after all if so much of what is beside it is open; the rest may be a bar's sharp edge.
_OPEN_AROUND = 0.5


@dataclass(frozen=True, slots=True)
class Veil:
    """At half the size of the proxy, or of a part of it.

    share  of the backdrop's light in a pixel (h, w), 0 to 1; 0 where colour tells nothing
    tells  where it does (h, w)
    """

    share: Plane
    tells: Mask


def veil(evidence: Evidence, inside: Mask, shade: Plane) -> Veil:
    """How much backdrop is seen in each pixel.

    All at half the size: `inside` (h, w) is where the product is, `shade` the backdrop's tone (h, w).
    """
    height, width = inside.shape
    even = evidence.relief[: 2 * height, : 2 * width]  # as in `halved`
    relief = np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
    weighted = np.empty((*inside.shape, 4), np.float32)
    _weigh(relief, inside, weighted)
    side = (round(_AROUND * evidence.long_side / 2) | 1,) * 2
    share, tells = np.empty(inside.shape, np.float32), np.empty(inside.shape, bool)
    least = _COLOURED + _COLOURED_NOISE * evidence.noise
    _share(relief, inside, np.asarray(cv2.blur(weighted, side), np.float32), shade, least, share, tells)
    return Veil(share, tells)


@compiled
def _weigh(relief: EncodedRGB, inside: Mask, weighted: NDArray[np.float32]) -> None:
    """The colour of each pixel, as its difference from grey over its brightness, times its weight, and that: (h, w, 4)."""
    for y in range(inside.shape[0]):
        for x in range(inside.shape[1]):
            weighted[y, x, :] = 0
            if not inside[y, x]:
                continue
            level = _level(relief, y, x)
            strength_sq = np.float32(0)
            for c in range(3):
                weighted[y, x, c] = relief[y, x, c] / (np.float32(RELIEF_STEPS) * level) - np.float32(1)
                strength_sq += weighted[y, x, c] ** 2 / np.float32(3)
            weight = strength_sq * np.sqrt(strength_sq) * min(level, np.float32(1))
            for c in range(3):
                weighted[y, x, c] *= weight
            weighted[y, x, 3] = weight


@compiled
def _share(
    relief: EncodedRGB, inside: Mask, purest: NDArray[np.float32], shade: Plane, least: float, share: Plane, tells: Mask
) -> None:
    """Into `share` and `tells` (h, w), see `Veil`; `purest` (h, w, 4) is the mean of what `_weigh` gives, `least` strength."""
    for y in range(inside.shape[0]):
        for x in range(inside.shape[1]):
            share[y, x], tells[y, x] = 0, False
            if not inside[y, x]:
                continue
            level, total = _level(relief, y, x), max(purest[y, x, 3], np.float32(1e-9))
            squared = along = colour_sq = np.float32(0)
            for c in range(3):
                pure, colour = purest[y, x, c] / total, relief[y, x, c] / (np.float32(RELIEF_STEPS) * level) - np.float32(1)
                squared += pure * pure
                along += pure * colour
                colour_sq += colour * colour
            if squared < 3 * least * least:
                continue
            along /= squared
            seen = level * (1 - along) / np.exp(min(shade[y, x], np.float32(0.3)))
            other_sq = max(colour_sq - along * along * squared, np.float32(0)) / squared
            if other_sq < _OTHER * _OTHER and seen < _BRIGHTER:
                share[y, x], tells[y, x] = min(max(seen, np.float32(0)), np.float32(1)), True


@compiled
def _level(relief: EncodedRGB, y: int, x: int) -> np.float32:
    """Brightness of a pixel, as a part of the backdrop's."""
    total = np.float32(relief[y, x, 0]) + np.float32(relief[y, x, 1]) + np.float32(relief[y, x, 2])
    return max(total / np.float32(3 * RELIEF_STEPS), np.float32(_DARK))


def open_by_colour(evidence: Evidence, signed: Plane, outline: Plane, shade: Plane, strands: Mask, *, said: bool = False) -> Mask:
    """Where (H, W) strands leave a part of each pixel open, so that it has to be unmixed however deep it lies.

    `outline` is the distance to the product's outline in proxy pixels, `signed` that once it is opened between `strands` that are
    known already, `shade` the tone of the backdrop, (H, W) each. Where somebody `said` that there are strands they need not end
    at different places.
    """
    within, depth = halved(signed), halved(outline)
    seen = veil(evidence, within > 0.5, halved(shade))
    places = _places(seen, (within, depth), halved(strands.astype(np.float32)) > 0.5, evidence.long_side, said)
    if places is None:
        return np.zeros_like(strands)
    where, plainly = places
    open_there = (seen.share > _OPEN) & (within > _INSIDE_PX) & plainly
    white, many = _white_product(seen.share > _AS_BACKDROP, within > 0)
    open_there &= ~white
    around = np.ones((3, 3), np.uint8)
    open_there &= hanging_together(cv2.dilate((open_there | where).astype(np.uint8), around), where, 8)
    open_there &= cv2.dilate(where.astype(np.uint8), np.ones((2 * _REACH_PX + 1,) * 2, np.uint8)) > 0
    if many:
        open_there |= _gaps(white & (within > _INSIDE_PX), open_there | (within <= _INSIDE_PX))
    wider = np.asarray(cv2.dilate(open_there.astype(np.float32), around), np.float32)
    return np.asarray((doubled(wider, (signed.shape[0], signed.shape[1])) > 0.3) & (outline > 0))


def _places(seen: Veil, depths: tuple[Plane, Plane], strands: Mask, long_side: int, said: bool) -> tuple[Mask, Mask] | None:
    """Where strands are, and where no other colour is, (h, w) each; None where there are none. A quarter of the size will do.

    `depths` (h, w) are the distances to the outline once it is opened between the `strands` that are known, and before.
    """
    within, depth = depths

    def summed(plane: NDArray[np.generic]) -> Plane:
        return over_a_place(plane, long_side)

    zone = within > _INSIDE_PX
    size = np.maximum(summed(zone), np.float32(1e-2))
    good = summed(seen.share * zone) > _SEEN * size
    few = _FEW * (long_side / 4) ** 2
    if np.count_nonzero(good) < few:
        return None
    odd = summed(zone & ~seen.tells) / size
    good &= odd < _ODD
    if np.count_nonzero(good) < few:
        return None
    good &= summed(zone & _fine(seen.share, zone)) > _FINE * size
    if not said:
        good |= halved(strands.astype(np.float32)) > 0.5
    if not good.any():
        return None
    plainly = doubled((odd < _ODD_AROUND).astype(np.float32), (within.shape[0], within.shape[1])) > 0.5
    zone &= plainly
    chosen = _at_the_outline(good, depth) if said else _told(good, seen.share, zone, depth, long_side)
    where = doubled(chosen.astype(np.float32), (within.shape[0], within.shape[1])) > 0.5
    return (where, plainly) if where.any() else None


def _at_the_outline(good: Mask, depth: Plane) -> Mask:
    """Which places (h / 2, w / 2) that could be strands reach the outline, `depth` (h, w) away, as no eye in a face does."""
    return hanging_together(good, halved(depth) < _EDGE_PX, 8)


def _told(good: Mask, share: Plane, zone: Mask, depth: Plane, long_side: int) -> Mask:
    """Which places (h / 2, w / 2) that could be strands are large, and ragged or made of bars: no print and no weave.

    `share` of the backdrop is seen where the `zone` is, `depth` from the outline, (h, w) each.
    """

    def summed(plane: NDArray[np.generic]) -> Plane:
        return over_a_place(plane, long_side)

    edge, deeper = zone & (depth < _EDGE_PX), zone & (depth >= _EDGE_PX) & (depth < _DEEPER_PX)
    at_edge, below = summed(edge), summed(deeper)
    bars = summed(share * edge) / np.maximum(at_edge, np.float32(1e-3))
    deep = summed(share * deeper) / np.maximum(below, np.float32(3e-3))
    uneven = ragged(depth > 0, long_side)
    either = uneven | ((bars > _AT_EDGE) & (deep < _DEEPER * bars) & (below >= _SOME))
    labels, stats = components(good, 8)
    area, count = stats[:, cv2.CC_STAT_AREA], len(stats)
    chosen = np.zeros(count, bool)
    for telling, part, least in ((uneven, *_RAGGED_PLACE), (either, *_PATTERN)):
        told = counted(labels, good & telling, count)
        chosen |= (told >= part * area) & (area >= least * (long_side / 4) ** 2)
    farther_in = zone & (depth >= _BEYOND_EDGE_PX)
    whole, beyond, some, plain = (
        np.bincount(labels.ravel(), weights=halved(np.asarray(plane, np.float32)).ravel(), minlength=count)
        for plane in (zone, share * farther_in, (share > _OPEN) & farther_in, (share > _PLAINLY) & farther_in)
    )
    chosen &= (beyond > _SEEN_BEYOND * whole) & (plain > _SOMEWHERE * some)
    return all_of(labels, chosen)


def _white_product(as_backdrop: Mask, inside: Mask) -> tuple[Mask, bool]:
    """Where (h, w) something nearly as the backdrop is too broad for a gap, or shut in, as the white of an eye is; and whether
    there are so many such places that they are a pattern's."""
    places = as_backdrop.astype(np.uint8)
    enclosed = as_backdrop & ~hanging_together(as_backdrop | ~inside, ~inside, 8)
    shut_in = cv2.morphologyEx(enclosed.astype(np.uint8), cv2.MORPH_OPEN, disc(_SHUT_IN_PX))
    broad = cv2.morphologyEx(places, cv2.MORPH_OPEN, disc(_BROAD_PX))
    if len(components(shut_in, 8)[1]) > _MANY:
        return np.asarray(broad > 0), True
    return np.asarray(cv2.bitwise_or(broad, cv2.dilate(shut_in, disc(_EDGE_OF_WHITE_PX))) > 0), False


def _gaps(white: Mask, open_around: Mask) -> Mask:
    """Those places (h, w) of what may be white product that are open around: between strands no white product floats."""
    if not white.any():
        return white
    labels, _ = components(white, 8)
    return all_of(labels, beside(labels, open_around) > _OPEN_AROUND)


def _fine(share: Plane, zone: Mask) -> Mask:
    """Where (h, w) less or more backdrop is seen than around."""
    side = (_FINE_PX, _FINE_PX)
    mean = cv2.blur(share * zone, side) / np.maximum(cv2.blur(zone.astype(np.float32), side), np.float32(1 / _FINE_PX**2))
    return np.asarray(np.abs(share - mean) > _FINE_OFF)
