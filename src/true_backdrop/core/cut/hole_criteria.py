"""Does an enclosed place show backdrop? Its tone, tint, evenness and grain say so together."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import (
    DEEPEST,
    FULL_LIGHT,
    NOT_PALE,
    PANE_PX,
    THROUGH_GLASS,
    TONES,
    as_glass,
    brighter_in_part,
    is_pane,
    lacks_grain,
    tint_allowed,
    unlike_around,
)
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.cut.masks import MIXED_PX, median, most_alike, percentiles, shrunk
from true_backdrop.core.cut.own_shadow import ShadowsAround
from true_backdrop.core.cut.paper import LEAST_STRUCTURE, seen_again, shows_paper
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.treatment import Material

#: Seen through glass, or as white product, a place has structure of its own; a hole has the backdrop's grain.
#: So much more than that (in parts of it) weighs as much as the whole tolerance of tone.
OWN_GRAIN = 1.5
#: How unlike the backdrop an enclosed place may be and still be a hole. Where product is pale or clear, less.
UNLIKE: dict[Material, float] = {"auto": 1.5, "solid": 1.5, "strands": 1.5, "clear": 1.4, "pale": 1.35}
#: A smaller place that is so near to the tone of a pane (log units) is of the same glass.
_SAME_GLASS = 0.012


@dataclass(slots=True)
class HoleCriteria:
    """What enclosed places are held against, and the glass that was found among them so far.

    evidence  planes (H, W)
    limits    what still counts as backdrop
    grain     typical `thin` of bare backdrop in full light
    expected  (H, W), the tone of the backdrop nearby
    material  of the product
    faintly   (H, W), what only faint edges enclose; None where nothing is
    hue       the backdrop's around the product; None where nobody asks
    shadows   that are seen around the product; None where nobody asks
    panes     tones of the panes of glass that were found (log units)
    """

    evidence: Evidence
    limits: Tolerances
    grain: float
    expected: Plane
    material: Material
    faintly: Mask | None = None
    hue: BackdropHue | None = None
    shadows: ShadowsAround | None = None
    panes: list[float] = field(default_factory=list)

    def opens(self, here: tuple[slice, slice], place: Mask) -> bool:
        """Whether a place, a mask (h, w) of a box of the evidence, shows the backdrop; panes of glass are remembered."""
        evidence, expected, material = self.evidence, self.expected, self.material
        shown = self.shown(here, place)
        if shown is False or self._is_glass(here, place):
            return False
        if shown and not as_glass(evidence, here, place, expected, material):
            return True
        if not self._is_hole(here, place):
            return False
        if not shown and self.hue is not None and self.hue.is_another(here, place):
            return False
        return self._is_told(here, place)

    def shown(self, here: tuple[slice, slice], place: Mask) -> bool | None:
        """Whether a place that could be backdrop shows its grain; None where that says nothing."""
        return None if self.material == "clear" else _shown(self.evidence, here, place, self.limits)

    def _is_hole(self, here: tuple[slice, slice], place: Mask) -> bool:
        """Whether a place (h, w) is less unlike the backdrop than allowed."""
        allowed = UNLIKE[self.material]
        off = _off(self.evidence.tone[here][place], self.expected[here][place], self.evidence.long_side)
        if _unlike(self.evidence, here, self.limits, place, self.grain, off, allowed) < allowed:
            return True
        if self.shadows is None or self.material == "clear" or off < self.limits.hole_tone / 2:
            return False
        off = self.shadows.off(here, place)
        return _unlike(self.evidence, here, self.limits, place, self.grain, off, allowed) < allowed

    def _is_glass(self, here: tuple[slice, slice], place: Mask) -> bool:
        """Whether a place (h, w) is a pane or as dark as one that was found; in a clear product whether it may be glass."""
        tone = median(self.evidence.tone[here][place])
        if is_pane(self.evidence, here, place, self.expected):
            self.panes.append(tone)
            return True
        if self.panes and min(abs(tone - pane) for pane in self.panes) < _SAME_GLASS:
            return True
        return self.material == "clear" and as_glass(self.evidence, here, place, self.expected, self.material)

    def _is_told(self, here: tuple[slice, slice], place: Mask) -> bool:
        """Whether a place (h, w) that could be a hole shows the backdrop's grain, or is as backdrop in all else."""
        evidence, expected = self.evidence, self.expected
        told = evidence.structure >= _PLAIN and evidence.grain is not None
        if told or shows_paper(evidence.tone[here], evidence.bare[here], place, evidence.structure):
            return True
        by_faint_edges = self.faintly is not None and float(self.faintly[here][place].mean()) > _FAINTLY
        if _brighter(evidence, here, place, expected) or _flat(evidence, here, place, expected):
            return False
        if not _as_backdrop(evidence, here, place, expected, by_faint_edges):
            return False
        return evidence.grain is not None or not lacks_grain(evidence, here, place)


def _shown(evidence: Evidence, here: tuple[slice, slice], place: Mask, limits: Tolerances) -> bool | None:
    """Whether a place (h, w) that could be backdrop shows its grain, however deep in shadow; None where that says nothing."""
    tone = median(evidence.tone[here][place])
    if evidence.grain is None:
        in_full_light = abs(tone) < FULL_LIGHT
        return (in_full_light and shows_paper(evidence.tone[here], evidence.bare[here], place, evidence.structure)) or None
    if not TONES[0] < tone < TONES[1]:
        return None
    if median(evidence.tint[here][place]) > tint_allowed(tone, limits):
        return None
    return shows_grain(evidence.tone[here], evidence.bare[here], place, evidence.grain)


#: Backdrop in a hole is hardly brighter (log units, and in its noise) than in full light: product takes light from it.
_BRIGHTER, _BRIGHTER_NOISE = 0.006, 1.0


def _brighter(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane) -> bool:
    """Whether a place (h, w) is brighter than the backdrop in full light, and than what is nearby: white product."""
    tone = evidence.tone[here][place]
    most = max(0.0, median(expected[here][place])) + _BRIGHTER + _BRIGHTER_NOISE * evidence.noise
    return median(tone) > most or brighter_in_part(tone, evidence.noise)


#: A label is so large at least (pixels), so much darker than the backdrop (log units) and, against that, so flat; and so much
#: darker than what is nearby. In an opening that lies in shadow the shadow's edges are seen as well (on composites).
_LABEL_PX, _DARKER, _FLAT, _OFF_NEARBY = 100, 0.02, 0.3, 0.05


#: The 5th and 95th percentile of a normal distribution, in standard deviations.
_PERCENTILE = 1.645


def unevenness(tone: NDArray[np.float32], noise: float = 0.0, darker: float = _DARKER) -> float:
    """How uneven the light of a place of n pixels is, beyond some noise, in parts of how much darker than the backdrop it is;
    infinite where some of it is not darker than that by `darker`."""
    darkest, middle, lightest = percentiles(tone, 5, 50, 95)
    darkest, lightest = min(middle, darkest + _PERCENTILE * noise), max(middle, lightest - _PERCENTILE * noise)
    return (lightest - darkest) / -middle if lightest < -darker else np.inf


def _flat(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane) -> bool:
    """Whether a place (h, w) is evenly a little darker than the backdrop and than what is nearby: a pale label."""
    tone = evidence.tone[here][place]
    if tone.size < _LABEL_PX or median(expected[here][place] - tone) < _OFF_NEARBY:
        return False
    return unevenness(tone) < _FLAT or (tone.size >= PANE_PX and mostly_flat(tone, evidence.noise))


#: Most of a pane or a label is as even as this, against how much darker it is, though a shadow may lie over the rest of it.
_MOST_OF, _MOSTLY_FLAT = 0.6, 0.1
#: That part of a normal distribution lies within so many standard deviations.
_MOST_OF_NORMAL = 1.683


def mostly_flat(tone: NDArray[np.float32], noise: float, most: float = _MOSTLY_FLAT) -> bool:
    """Whether the part of a place's n pixels that is most alike is darker than the backdrop, and against that even up to `most`,
    beyond noise."""
    ordered = np.sort(tone)
    alike = ordered[most_alike(ordered, _MOST_OF)]
    middle, width = float(alike[(alike.size - 1) // 2]), float(alike[-1] - alike[0])
    return middle < -_DARKER and width - _MOST_OF_NORMAL * noise < -most * middle


#: More of a place than this enclosed by faint edges alone makes it doubtful.
_FAINTLY = 0.3
#: How far off the tone of the backdrop a hole in pale product may be, and one that faint edges enclose, and how much more for
#: each unit of a shadow's depth; and how uneven (in its noise, and in the same).
_AS_BRIGHT, _JUST_AS_BRIGHT, _IN_SHADOW = 0.03, 0.012, 0.4
_AS_EVEN, _UNEVEN_IN_SHADOW = 2.5, 0.2


def _as_backdrop(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane, by_faint_edges: bool) -> bool:
    """Whether a place (h, w) that no grain can tell is backdrop and not a part of pale product, by tone and evenness."""
    if unlike_around(evidence, here, place, expected) > NOT_PALE:
        return True
    tone = evidence.tone[here][place]
    depth = median(np.clip(-expected[here][place], 0, DEEPEST))
    bright = median(np.abs(tone - expected[here][place]))
    uneven = median(np.abs(tone - median(tone)))
    allowed = _JUST_AS_BRIGHT if by_faint_edges else _AS_BRIGHT
    return bright < allowed + _IN_SHADOW * depth and uneven < _AS_EVEN * evidence.noise + _UNEVEN_IN_SHADOW * depth


#: Where what is around is darker than this (log units) it is the product's own shadow, which a hole need not lie in; a large hole
#: (parts of the long side, squared) reaches out of a lighter one as well. Whites of eyes are small.
_DARK_AROUND, _DARK_AROUND_LARGE, _LARGE = -0.25, -0.2, 0.001
#: The backdrop's grain weighs in full where so much of it is seen again on bare backdrop.
_PLAIN = 0.7
#: What the paper's grain weighs when it is wholly there or wholly missing, in the measure of `UNLIKE`.
_GRAIN_WEIGHT = 1.6


def _off(tone: NDArray[np.float32], expected: NDArray[np.float32], long_side: int) -> float:
    """How far (log units) the tone of n pixels is off that of the backdrop nearby, or off full light where that is dark."""
    off = median(np.abs(tone - expected))
    dark = _DARK_AROUND_LARGE if tone.size > _LARGE * long_side**2 else _DARK_AROUND
    return min(off, median(np.abs(tone))) if median(expected) < dark else off


def _unlike(
    evidence: Evidence,
    here: tuple[slice, slice],
    limits: Tolerances,
    place: Mask,
    bare_grain: float,
    off: float,
    allowed: float,
) -> float:
    """How unlike the backdrop an enclosed place is, a mask (h, w) of a box of the evidence, whose tone is `off` so much; infinite
    where no grain could make up for that."""
    unlike = off / limits.hole_tone + median(evidence.tint[here][place]) / (0.6 * limits.tint)
    if unlike > allowed + _GRAIN_WEIGHT / 2:
        return np.inf
    # A small place has no inside.
    inner = shrunk(place, MIXED_PX) if np.count_nonzero(place) > _SMALL else None
    deep = inner is not None and np.count_nonzero(inner) >= _ENOUGH
    grain = median(evidence.thin[here][inner if deep else place])
    usual = bare_grain if deep else max(bare_grain, _SLOPE)
    unlike += max(0.0, grain / usual - 1) / OWN_GRAIN
    again = None
    if inner is not None and evidence.structure >= LEAST_STRUCTURE:
        again = seen_again(evidence.tone[here], evidence.bare[here], inner)
    if again is not None:
        # Grain that is seen faintly on bare backdrop is told by chance in a small place.
        plainly = min(max((evidence.structure - LEAST_STRUCTURE) / (_PLAIN - LEAST_STRUCTURE), 0.0), 1.0)
        missing = 0.5 - min(max(again / evidence.structure, 0.0), 1.0)
        # Through glass paper is seen as well, but dimmer: only where it is as bright as around is its grain a proof.
        unlike += plainly * _GRAIN_WEIGHT * (missing if missing > 0 else missing * max(0.0, 1 - off / THROUGH_GLASS))
    return unlike


#: Pixels that a median of evidence is taken from at least, and pixels of a place that has an inside.
_ENOUGH, _SMALL = 40, 180
#: So much of `thin` (log units) the slope of its edges makes all over a place that has no inside, however little is elsewhere.
_SLOPE = 0.004
