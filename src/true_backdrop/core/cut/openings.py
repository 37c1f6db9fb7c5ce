"""Openings of a pattern, as in a basket, a grille or a comb: several that were found vouch for one beside them that is alike."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from typing import TypeAlias

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import lacks_grain, ring_around
from true_backdrop.core.cut.components import all_of, components, counted, each
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import half_width, median

#: Places of fewer pixels are none, and of more than such a part of the long side squared; so many of them are looked at.
_LEAST_PX, _LARGEST, _MOST_PLACES = 6, 0.008, 1000
#: An opening that was found, and one that was not: so much of it is known for backdrop at least, or at most.
_FOUND, _NOT_FOUND = 0.5, 0.2
#: The largest disc in an opening is so much of it at least; in a square it is three quarters.
_COMPACT = 0.35
#: So many openings vouch for another one: the nearest of those that are larger or smaller by such a factor at most, and within so
#: many times the root of its area.
_WITNESSES, _AREA, _REACH = 3, 1.5, 6.0
#: Its tone lies between the least and the most of theirs or is off by so much at most (log units), and for each unit of depth, as
#: the light falls off from row to row; it is as neutral, up to so many times the noise, and so many times as uneven at most, and
#: for each unit of depth.
_OFF, _OFF_IN_SHADOW, _TINT_NOISE, _UNEVEN, _UNEVEN_IN_SHADOW = 0.04, 0.2, 2.0, 2.0, 0.1
#: So many of a size vouch for each other that are so light (log units), in what is no thinner (log units) than strands are.
_MANY, _LIT, _STRANDS = 8, 0.02, 0.15
#: In what is as thin, as a racket's strings, so many of so many pixels do that are nearly all (a part of them) of one size, up
#: to such a factor: gaps between strands are not.
_MANY_THIN, _LEAST_THIN_PX, _NEARLY_ALL, _SAME_SIZE = 12, 30, 0.7, 1.3
#: The lens, and a JPEG encoder that keeps colour at half the size, spread so much of what is around over it.
_SPREAD = 0.03
#: What lacks the backdrop's grain, by chance as one of many, is off by less, between three of its size, in product unlike it.
_OFF_LACKING = 0.01
#: Where the product around a place is so unlike it (log units) it may be so much darker than those beside it.
_UNLIKE, _DARKER = 0.2, 0.3
#: In a product with a colour many vouch for one wherever it lies, that is so much darker at most, as the links of a chain do.
_FAR_DARKER = 0.1
#: Where it is so unlike, a place may be what a bar leaves of a cell that is so many times as large.
_PLAINLY_UNLIKE, _WHOLE_CELL = 0.3, 5.0
#: From and to so many pixels outside of a place that is looked at.
_RING_PX = (1, 3)


#: Label, box, and mask (h, w) in it of an enclosed place.
Enclosed: TypeAlias = tuple[int, tuple[slice, slice], Mask]


@dataclass(frozen=True, slots=True)
class Place:
    """An enclosed place: its label, how many pixels it has, its middle (x, y) in pixels, and its median tone and tint; `uneven`
    is the median of how far its tone is off, `unlike` how far what is around is off, in tone or tint; `compact` is no sliver;
    what `lacks` the backdrop's grain needs the light of those beside it more closely; `thin` is how thin what is around is, and
    `colour` the tint of that."""

    label: int
    area: int
    middle: tuple[float, float]
    tone: float
    tint: float
    uneven: float
    unlike: float = 0.0
    compact: bool = True
    lacks: bool = False
    thin: float = 0.0
    colour: float = 0.0


def openings_alike(evidence: Evidence, places: Mask, found: Mask) -> Mask:
    """What of some `places` (H, W) that may be backdrop is an opening like those beside it that are `found` (H, W).

    The light behind a pattern changes from one opening to the next, however deep the shadow, so each is held against its
    neighbours and not against what is seen of the shadow outside. What lacks the backdrop's grain must have just their light.
    Small ones, of which no pixel is free of the lens's blur, are told by many of a size having the backdrop's light.
    """
    nothing = np.zeros(places.shape, bool)
    labels, stats = components(places, 4)
    areas = stats[:, cv2.CC_STAT_AREA]
    known = counted(labels, found, len(stats)) / np.maximum(areas, 1)
    fits = (areas >= _LEAST_PX) & (areas < _LARGEST * evidence.long_side**2)
    fits[0] = False
    unsure_ones = np.count_nonzero(fits & (known < _NOT_FOUND))
    if unsure_ones < (_MANY if np.count_nonzero(fits & (known > _FOUND)) < _WITNESSES else 1):
        return nothing
    largest = np.flatnonzero(fits)[np.argsort(-areas[fits])][:_MOST_PLACES]
    vouching = each(labels, stats, largest[known[largest] > _FOUND])
    openings = [_measured(evidence, *one, compact=True) for one in vouching if _is_compact(one[-1])]
    unsure_places = list(each(labels, stats, largest[known[largest] < _NOT_FOUND]))
    # Only openings, or many that are lit, let any other be one; to measure all takes longer than to look for these.
    if len(openings) < _WITNESSES and not _many_may_be_lit(evidence, unsure_places):
        return nothing
    unsure = list(_that_may_open(evidence, unsure_places))
    seeds = _many_lit(unsure)
    unsure = [one for one in unsure if one not in seeds]
    added = [one.label for one in (*seeds, *of_a_pattern(unsure, [*openings, *seeds], evidence.noise))]
    if not added:
        return nothing
    chosen = np.zeros(len(stats), bool)
    chosen[added] = True
    return all_of(labels, chosen)


def _many_may_be_lit(evidence: Evidence, places: Sequence[Enclosed]) -> bool:
    lit = (abs(median(evidence.tone[here][place])) < _LIT for _, here, place in places)
    return len(list(islice(filter(None, lit), _MANY))) == _MANY


def _that_may_open(evidence: Evidence, places: Iterable[Enclosed]) -> Iterator[Place]:
    """Those of some places (label, box, mask (h, w) in it) that have the grain of the backdrop, or lack it in product that is
    wholly unlike them; what is no more than a sliver lies in such product."""
    for label, here, place in places:
        one = _measured(evidence, label, here, place, compact=_is_compact(place))
        if one.compact or one.unlike > _PLAINLY_UNLIKE:
            lacks = lacks_grain(evidence, here, place)
            if not lacks or (one.compact and one.unlike > _PLAINLY_UNLIKE):
                yield replace(one, lacks=lacks)


def _many_lit(places: Sequence[Place]) -> list[Place]:
    """Those of some places that are as light as the backdrop in full light, each in product that is wholly unlike it and no
    strands, if they are many and of one size; in what is as thin as strands if they are regular."""
    lit = [one for one in places if one.compact and not one.lacks and abs(one.tone) < _LIT and one.unlike > _PLAINLY_UNLIKE]
    found = _of_a_size([one for one in lit if one.thin < _STRANDS or one.colour > _PLAINLY_UNLIKE], _AREA)
    if len(found) >= _MANY:
        return found
    large = [one for one in lit if one.area >= _LEAST_THIN_PX]
    found = _of_a_size(large, _SAME_SIZE)
    return found if len(found) >= max(_MANY_THIN, _NEARLY_ALL * len(large)) else []


def _of_a_size(places: Sequence[Place], factor: float) -> list[Place]:
    """Those that are larger or smaller than is usual by such a factor at most."""
    usual = median(np.array([one.area for one in places])) if places else 0.0
    return [one for one in places if usual / factor < one.area < usual * factor]


def _is_compact(place: Mask) -> bool:
    """Whether the largest disc in a place (h, w) fills a good part of it, as in no gap between bristles."""
    return bool(np.pi * half_width(place) ** 2 > _COMPACT * np.count_nonzero(place))


def _measured(evidence: Evidence, label: int, here: tuple[slice, slice], place: Mask, *, compact: bool) -> Place:
    tone, tint = evidence.tone[here][place], evidence.tint[here][place]
    middle = (here[1].start + here[1].stop) / 2, (here[0].start + here[0].stop) / 2
    level = median(tone)
    around, ring = ring_around(evidence.shape, here, place, _RING_PX)
    off = np.maximum(np.abs(evidence.tone[around][ring] - level), evidence.tint[around][ring])
    unlike = thin = colour = 0.0
    if off.size:
        unlike, thin, colour = median(off), median(evidence.thin[around][ring]), median(evidence.tint[around][ring])
    uneven = median(np.abs(tone - level))
    return Place(label, int(tone.size), middle, level, median(tint), uneven, unlike, compact, thin=thin, colour=colour)


def of_a_pattern(unsure: Sequence[Place], openings: Sequence[Place], noise: float) -> list[Place]:
    """Those of the unsure places that openings of their kind lie around, and that have the light of these; those that are added
    vouch in turn. `noise` is that of the tone (log units)."""
    left, known = list(unsure), list(openings)
    added: list[Place] = []
    while True:
        fresh = [place for place in left if _has_witnesses(place, known, noise)]
        if not fresh:
            return added
        added += fresh
        known += fresh
        left = [place for place in left if place not in fresh]


def _has_witnesses(place: Place, openings: Sequence[Place], noise: float) -> bool:
    reach = _REACH * np.sqrt(place.area * (1 if place.unlike <= _PLAINLY_UNLIKE else _WHOLE_CELL))
    near = []
    larger = _AREA if place.unlike <= _PLAINLY_UNLIKE or place.lacks else _WHOLE_CELL
    for one in openings:
        apart = float(np.hypot(one.middle[0] - place.middle[0], one.middle[1] - place.middle[1]))
        alike = one.area < larger * place.area
        if place.area < _AREA * one.area and alike:
            near.append((apart, one))
    near.sort(key=lambda at: at[0])
    close = sum(apart < reach for apart, _ in near) >= _WITNESSES
    if not close and (place.colour < _PLAINLY_UNLIKE or len(near) < _MANY):
        return False
    witnesses = [one for _, one in near[:_WITNESSES]]
    tones = [one.tone for one in witnesses]
    off = _OFF_LACKING if place.lacks else _OFF + _OFF_IN_SHADOW * max(0.0, -min(tones))
    darker = max(off, _DARKER if close else _FAR_DARKER) if place.unlike > _UNLIKE and not place.lacks else off
    uneven = _UNEVEN * max(one.uneven for one in witnesses) + noise + _UNEVEN_IN_SHADOW * max(0.0, -place.tone)
    return (
        min(tones) - darker < place.tone < max(tones) + off
        and place.tint < max(one.tint for one in witnesses) + _TINT_NOISE * noise + _SPREAD * place.unlike
        and place.uneven < uneven
    )
