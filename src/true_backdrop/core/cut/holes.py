"""Enclosed places and narrow gaps: which of them show backdrop."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.as_lit import parts_as_lit
from true_backdrop.core.cut.bare import among_strands, brighter_in_part
from true_backdrop.core.cut.components import components, hanging_together, places_of, within
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.hole_criteria import HoleCriteria
from true_backdrop.core.cut.masks import disc, median, near, percentiles, shrunk
from true_backdrop.core.picture import Region

#: Half the width of the narrowest passage that backdrop flows through at first, as a part of the long side.
PASSAGE = 0.008
#: So many enclosed places are looked at.
_MOST_HOLES = 1000


def holes(criteria: HoleCriteria, enclosed: Mask, seen: Mask) -> Mask:
    """Enclosed backdrop: in tone like the backdrop nearby, as neutral and as even as the bare backdrop, with its grain.

    They count together, so that a hole in deep shadow passes and a white label, which is a little off in each, does
    not. Where the backdrop's grain can be seen, it decides between white product and white backdrop; where it cannot, a
    place in pale product must be as bright and as even as the backdrop itself. `enclosed` (H, W) looks like backdrop, `seen`
    (H, W) is where an edge is seen.
    """
    labels, stats = components(cv2.erode(enclosed.astype(np.uint8), disc(1)), 4)
    found = np.zeros(enclosed.shape, bool)
    areas = stats[:, cv2.CC_STAT_AREA].copy()
    areas[0] = 0
    least = _least_px(criteria.evidence.long_side)
    # Thousands of spots are no holes but grain; the largest are looked at.
    for label in np.argsort(-areas)[:_MOST_HOLES]:
        if areas[label] < least:
            break
        left, top, width, height, _ = stats[label]
        here = slice(top, top + height), slice(left, left + width)
        place = labels[here] == label
        as_whole = criteria.opens(here, place)
        of_a_kind = as_whole and _is_of_a_kind(criteria.evidence.tone[here][place], criteria.expected[here][place])
        # Through glass the backdrop is seen as well, and nothing parts the two.
        ask_parts = criteria.material != "clear" and not of_a_kind
        lit = list(parts_as_lit(criteria.evidence, here, place, criteria.expected, seen)) if ask_parts else []
        if not lit:
            if as_whole:
                found[here] |= place
            continue
        lacks = criteria.shown(here, place) is False
        for there, part in lit:
            # By chance a small part of what lacks the backdrop's grain does not lack it.
            if criteria.opens(there, part) and (not lacks or criteria.shown(there, part)):
                found[there] |= part
        # Another place may lie in the same box.
        found[here] |= _shaded(criteria, here, place, found[here] & place, seen[here], as_whole)
    return found


#: No product hangs together with an opening of which hardly a pixel (percent) is so much darker than the backdrop nearby, or so
#: much lighter than it in full light (log units).
_FEW, _DARKER, _LIGHTER = 2, -0.2, 0.04


def _is_of_a_kind(tone: Plane, expected: Plane) -> bool:
    """Whether a place's n pixels are all as light as the backdrop, or as the backdrop nearby."""
    (deepest,), (lightest,) = percentiles(np.maximum(tone, tone - expected), _FEW), percentiles(tone, 100 - _FEW)
    return deepest > _DARKER and lightest < _LIGHTER


def _least_px(long_side: int) -> int:
    """A smaller place (pixels) is none."""
    return max(12, round(1e-5 * long_side**2))


#: The rest of a place begins so far (pixels) from the part of it that is backdrop. Where it is a shadow it borders on that along
#: so much of what lies close to it (pixels); a handle that bends round an opening does at its ends. A slight and level one (log
#: units) along so much.
_BESIDE_PX, _ALONG, _CLOSE_PX, _NARROW_PX = 3, 0.5, 9, 3
_IN_PART, _SLIGHT, _LEVEL = 0.33, -0.3, 0.06


def _shaded(criteria: HoleCriteria, here: tuple[slice, slice], place: Mask, lit: Mask, seen: Mask, as_whole: bool) -> Mask:
    """What of the rest of a place (h, w), beside its lit parts (h, w), is backdrop in shadow and no product that is as dark and
    hangs together with it by a neck: it goes on from these, and could be a hole together with them or by itself. What is narrow,
    or lies between strands, is no such product where the whole place could be a hole (`as_whole`)."""
    found, least = np.zeros_like(place), _least_px(criteria.evidence.long_side)
    beside = _grown(lit, _BESIDE_PX)
    touching, close = _grown(beside, 1), _grown(beside, _CLOSE_PX)

    def opens(there: tuple[slice, slice], rest: Mask) -> bool:
        tone = criteria.evidence.tone[here][there][rest]
        if as_whole and (not shrunk(rest, _NARROW_PX).any() or among_strands(criteria.evidence, within(here, there), rest)):
            return True
        if brighter_in_part(tone, criteria.evidence.noise):
            return False
        line = rest & ~shrunk(rest, 1)
        along = float(np.mean(touching[there][line & close[there]])) if (line & close[there]).any() else 0.0
        deepest, lightest = percentiles(tone, 5, 95)
        goes_on = along > _ALONG or (along > _IN_PART and deepest > _SLIGHT and lightest - deepest < _LEVEL)
        together = lit.copy()
        together[there] |= rest
        return (goes_on and criteria.opens(here, together)) or criteria.opens(within(here, there), rest)

    def less_tinted(there: tuple[slice, slice], rest: Mask) -> Mask:
        tint = criteria.evidence.tint[here]
        return _less_tinted(tint[there], rest, median(tint[lit])) if lit.any() else np.zeros_like(rest)

    denied = np.zeros_like(place)
    for there, rest in places_of(place & ~beside, 4, least):
        if opens(there, rest):
            found[there] |= rest
            continue
        denied[there] |= rest
        for box, part in (
            *places_of(rest & ~seen[there], 4, least),
            *places_of(less_tinted(there, rest), 4, _TOLD_BY_TINT * least),
        ):
            if opens(within(there, box), part):
                found[within(there, box)] |= part
    if as_whole:
        found |= place & ~_grown(denied & ~found, _BESIDE_PX)
    return found


#: Product around an opening has so much more of a tint than its lit part (medians, log units). What is nearer to that lies apart
#: from the product where no edge is seen; it is so many times as large as the least place, for noise is tinted as well.
_MORE_TINT, _TOLD_BY_TINT = 0.04, 8


def _less_tinted(tint: Plane, rest: Mask, of_lit: float) -> Mask:
    """What of the rest of a place (h, w) has the tint (log units) of its lit part rather than the one that most of it has."""
    usual = median(tint[rest])
    if usual - of_lit < _MORE_TINT:
        return np.zeros_like(rest)
    nearer = rest & (cv2.blur(np.ascontiguousarray(tint), (3, 3)) < (of_lit + usual) / 2)
    return np.asarray(cv2.morphologyEx(nearer.astype(np.uint8), cv2.MORPH_OPEN, disc(1)) > 0)


def _grown(mask: Mask, by: int) -> Mask:
    """A mask of a place (h, w), so many pixels wider."""
    return np.asarray(cv2.dilate(mask.astype(np.uint8), disc(by)) > 0)


def gaps(narrow: Mask, backdrop: Mask, long_side: int) -> Mask:
    """Narrow gaps that open into the backdrop: too narrow to be flowed through, and thin between dark sides.

    They are told by tone and tint alone, so `narrow` are pixels that meet both closely; what hangs together with the backdrop is.
    """
    if not narrow.any():
        return narrow
    # What is wide, or lies along the open backdrop, could have been flowed into: if it was not, its outline holds.
    wide = max(2, round(PASSAGE * long_side))
    left, top, width, height = cv2.boundingRect(narrow.astype(np.uint8))
    box = Region(top, left, top + height, left + width).grown(2 * wide + 2, *narrow.shape).slices
    free = (narrow | backdrop)[box].astype(np.uint8)
    narrow = narrow.copy()
    narrow[box] &= ~near(cv2.distanceTransform(free, cv2.DIST_L2, 5) > wide, wide)
    if not narrow.any():
        return narrow
    return narrow & hanging_together(narrow | backdrop, backdrop, 4)


#: Pixels that a median of evidence is taken from at least.
_ENOUGH = 40
#: Less grain than this, in the backdrop's noise, is measured as none.
_LEAST_GRAIN = 0.15
#: Backdrop so near to full light (log units) lies in no shadow.
_LIT = 0.05


def bare_grain(evidence: Evidence, outside: Mask) -> float:
    """Typical `thin` of the bare backdrop in full light, where there is any; every seventh pixel is plenty for a median.

    On the slope of a shadow hardly any grain is seen.
    """
    around, light = evidence.thin[outside][::7], np.abs(evidence.tone[outside][::7]) < _LIT
    if np.count_nonzero(light) > _ENOUGH:
        around = around[light]
    return max(1e-4, _LEAST_GRAIN * evidence.noise, median(around) if around.size else 0.0)
