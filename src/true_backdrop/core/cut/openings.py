"""Openings of a pattern, as in a basket, a grille or a comb: several that were found vouch for one beside them that is alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median

#: So many openings vouch for another one. They are the nearest of those between half and twice its size, and lie within so many
#: times the root of its area.
_WITNESSES, _AREA, _REACH = 3, 2.0, 8.0
#: Its tone lies between the least and the most of theirs or is off by so much at most (log units), and for each unit of depth, as
#: the light falls off from row to row; it is as neutral, up to so many times the noise, and so many times as uneven at most.
_OFF, _OFF_IN_SHADOW, _TINT_NOISE, _UNEVEN = 0.04, 0.2, 2.0, 2.0


@dataclass(frozen=True, slots=True)
class Place:
    """An enclosed place: its label, how many pixels it has, its middle (x, y) in pixels, and its median tone and tint; `uneven`
    is the median of how far its tone is off."""

    label: int
    area: int
    middle: tuple[float, float]
    tone: float
    tint: float
    uneven: float


def measured(evidence: Evidence, label: int, here: tuple[slice, slice], place: Mask) -> Place:
    """A place, a mask (h, w) of a box of the evidence."""
    tone, tint = evidence.tone[here][place], evidence.tint[here][place]
    middle = (here[1].start + here[1].stop) / 2, (here[0].start + here[0].stop) / 2
    level = median(tone)
    return Place(label, int(tone.size), middle, level, median(tint), median(np.abs(tone - level)))


def of_a_pattern(unsure: Sequence[Place], openings: Sequence[Place], noise: float) -> list[Place]:
    """Those of the unsure places that openings of their kind lie around, and that have the light of these.

    The light behind a pattern changes from one opening to the next, however deep the shadow: those that are added vouch in turn.
    `noise` is that of the tone (log units).
    """
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
    reach = _REACH * np.sqrt(place.area)
    near = []
    for one in openings:
        apart = float(np.hypot(one.middle[0] - place.middle[0], one.middle[1] - place.middle[1]))
        if apart < reach and place.area < _AREA * one.area and one.area < _AREA * place.area:
            near.append((apart, one))
    if len(near) < _WITNESSES:
        return False
    witnesses = [one for _, one in sorted(near, key=lambda at: at[0])[:_WITNESSES]]
    tones = [one.tone for one in witnesses]
    off = _OFF + _OFF_IN_SHADOW * max(0.0, -min(tones))
    return (
        min(tones) - off < place.tone < max(tones) + off
        and place.tint < max(one.tint for one in witnesses) + _TINT_NOISE * noise
        and place.uneven < _UNEVEN * max(one.uneven for one in witnesses) + noise
    )
