"""Doubt about an outline: where no edge is seen, where it is a shadow's, and where product and backdrop are nearly the same."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import tint_allowed
from true_backdrop.core.cut.components import all_of, components, counted
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain
from true_backdrop.core.cut.masks import median, near, outline_of
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region

#: Along this part of the outline product and backdrop may look the same before a person should look.
PALE_OUTLINE_PART = 0.12
#: And along so much of it at a stretch there may be no hint of an edge at all (measured on composites, docs/cut.md).
UNSEEN_RUN_PART = 0.025
#: A step below this (log units per proxy pixel) cannot be told from a soft shadow's own slope.
FAINT_STEP = 0.03
#: Along more than this of the outline, in runs longer than this, it may be as soft as a shadow's before a person should look:
#: as neutral on both sides (pixels) as at this match, and so dark (log units).
_SOFT_OUTLINE, _SOFT_RUN, _BOTH_SIDES_PX, _SHADOWS_MATCH, _DARKEST, _LIGHTEST = 0.045, 0.02, 3, 50, -1.5, -0.03
#: So much of the product (parts of its area) gives way between the two quietest values of backdrop match, and so much of what is
#: just inside its outline (from and to such sides of a square, pixels) is so near to the backdrop's tone and tint (log units)
#: before a person should look (measured on sets of many kinds, docs/cut.md).
_GIVES_WAY, _INSIDE_PX, _NEARLY, _NEARLY_PART = 0.0045, (3, 7), 0.2, 0.015
#: And where so much of it is just as the backdrop (log units, and in its noise), it need not give way.
_JUST_AS, _JUST_AS_NOISE, _JUST_AS_PART = 0.06, 2.0, 0.1
#: So near to backdrop between strands (pixels) the outline is that of strands.
_BETWEEN_PX = 6


def edges(evidence: Evidence, plainly: Evidence, decided: Decided) -> Found:
    """Whether the outline is seen."""
    product = decided.product
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + down, left + across).grown(2, *product.shape).slices
    ring = outline_of(product[box])
    by_nature = outline_of(decided.at_match[box])  # what was drawn by hand need not be seen
    coloured = of_another_colour(evidence.tint[box])
    faint_ring = ring & by_nature & _faint(plainly.step[box], plainly.noise) & ~coloured
    length = max(1, int(np.count_nonzero(ring)))
    faint = int(np.count_nonzero(faint_ring)) / length
    if faint > PALE_OUTLINE_PART:
        at = places(_whole(faint_ring, box, product.shape), product, "pale edge against the backdrop")
        return [
            (f"pale edge against the backdrop, {named(at)}: along {faint:.0%} of the outline hardly a step is seen", at)
        ], faint
    # A silhouette may show what the front light does not.
    unseen = (ring & by_nature if plainly is evidence else faint_ring) & ~decided.hinted[box] & ~coloured
    unseen = _long_runs(unseen, UNSEEN_RUN_PART * length)
    if not unseen.any():
        return [], faint
    share = int(np.count_nonzero(unseen)) / length
    at = places(_whole(unseen, box, product.shape), product, "no edge to be seen")
    said = f"no edge at all is seen along {share:.0%} of the outline, {named(at)}; is a part lost or left over?"
    return [(said, at)], faint + share


def softness(evidence: Evidence, decided: Decided) -> Found:
    """Whether the outline is that of a shadow: neutral, a little darker than the backdrop and softer than a lens draws."""
    soft, length = soft_outline(evidence, decided)
    if np.count_nonzero(soft) <= _SOFT_OUTLINE * length:
        return [], 0.0
    runs = _long_runs(soft, _SOFT_RUN * length)
    share = int(np.count_nonzero(runs)) / length
    if share <= _SOFT_OUTLINE:
        return [], 0.0
    at = places(decided.busy.on_proxy(runs), decided.product, "as soft as a shadow")
    return [(f"as soft as a shadow's edge along {share:.0%} of the outline, {named(at)}; is a shadow left over?", at)], share


def soft_outline(evidence: Evidence, decided: Decided) -> tuple[Mask, int]:
    """Where on the outline (h, w of the busy part) it is that of a shadow, drawn by nobody; and how long it is, in pixels."""
    busy = decided.busy
    ring = outline_of(busy.of_proxy(decided.product))
    length = max(1, int(np.count_nonzero(ring)))
    ring &= outline_of(busy.of_proxy(decided.at_match)) & busy.closing.soft
    if not ring.any():
        return ring, length
    around = np.ones((2 * _BOTH_SIDES_PX + 1,) * 2, np.uint8)
    dark = cv2.erode(busy.evidence.tone, around)
    limits = Tolerances.of(_SHADOWS_MATCH, evidence.noise, evidence.long_side)
    neutral = cv2.dilate(busy.evidence.tint, around) < limits.tint + limits.tint_in_shadow * np.clip(-dark, 0, 1)
    return np.asarray(ring & neutral & (dark > _DARKEST) & (dark < _LIGHTEST)), length


def nearly_backdrop(evidence: Evidence, decided: Decided) -> Found:
    """Whether the outline gives way a little with backdrop match, where the product is nearly as light and as neutral as the
    backdrop: there its edge may lie elsewhere, although one is seen. Or whether much of the product is just as the backdrop."""
    if decided.clear:
        return [], 0.0
    product = decided.product & decided.at_match
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + down, left + across).grown(2, *product.shape).slices
    mask = product[box].astype(np.uint8)
    inner, deep = (cv2.erode(mask, np.ones((size, size), np.uint8)) for size in _INSIDE_PX)
    ring = inner > deep
    if decided.open is not None:  # between strands the backdrop is seen by right
        ring &= ~near(decided.open[box], _BETWEEN_PX)
    tone, tint = (cv2.blur(np.ascontiguousarray(plane[box]), (3, 3)) for plane in (evidence.tone, evidence.tint))
    length = max(1, int(np.count_nonzero(ring)))
    if decided.busy.opaque is not None:  # a silhouette tells it
        ring &= ~decided.busy.on_proxy(decided.busy.opaque)[box]
    gives_way, just_as = decided.unrest > _GIVES_WAY, _JUST_AS + _JUST_AS_NOISE * evidence.noise
    for near_to, part in ((_NEARLY, _NEARLY_PART if gives_way else 1.0), (just_as, _JUST_AS_PART)):
        alike = ring & (np.abs(tone) < near_to) & (tint < near_to)
        share = int(np.count_nonzero(alike)) / length
        if share > part:
            break
    else:
        return [], 0.0
    at = places(_whole(alike, box, product.shape), decided.product, "nearly as the backdrop")
    also = ", and its outline gives way a little there" if gives_way else ""
    said = f"the product is nearly as the backdrop, {named(at)}{also}; is a part lost?"
    return [(said, at)], share


#: A place at the foot of a product may be shadow: so dark (log units, from and to), so large at least (parts of the area), its
#: lowest pixel so near to the product's (parts of the height), and so many pixels of the outline so near to it (pixels).
_FOOT_TONES, _FOOT_PART, _LOW, _ALONG, _ALONG_PX = (-1.4, -0.05), 0.008, 0.05, 20, 3
#: Where the outline gives way so much (parts of the area) it may be so large, and where the product has a colour elsewhere
#: (median tint, log units) so large.
_FOOT_GIVES_WAY, _WHERE_IT_GIVES_WAY, _COLOURED, _OF_COLOURED = 0.003, 0.1, 0.2, 0.4


def at_the_foot(evidence: Evidence, decided: Decided) -> Found:
    """Whether a part of the foot, along the outline, is as neutral and as free of edges as a shadow."""
    if decided.clear:
        return [], 0.0
    product = decided.product & decided.at_match
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + down, left + across).grown(1, *product.shape).slices
    foot = _as_neutral_as_shadow(evidence.view(box), product[box])
    rest = product[box] & ~foot
    if not foot.any():
        return [], 0.0
    coloured = bool(rest.any()) and median(evidence.tint[box][rest]) > _COLOURED
    share = float(np.count_nonzero(foot) / np.count_nonzero(product))
    if share > (_OF_COLOURED if coloured else _WHERE_IT_GIVES_WAY if decided.unrest > _FOOT_GIVES_WAY else 0.0):
        return [], 0.0
    at = places(_whole(foot, box, product.shape), decided.product, "as neutral as a shadow")
    return [(f"as neutral as a shadow and without an edge in it, {named(at)}; is a shadow left over?", at)], share


def _as_neutral_as_shadow(evidence: Evidence, product: Mask) -> Mask:
    """What of the foot of a product (h, w) in its box may be shadow along the outline, and does not lack the backdrop's grain."""
    tone, limits = evidence.tone, Tolerances.of(_SHADOWS_MATCH, evidence.noise, evidence.long_side)
    depth = np.clip(-tone, 0, 1)
    neutral = product & (tone > _FOOT_TONES[0]) & (tone < _FOOT_TONES[1]) & (evidence.tint < tint_allowed(tone, limits))
    neutral &= evidence.step < limits.step + limits.step_in_shadow * depth
    even = cv2.morphologyEx(neutral.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    labels, stats = components(even, 4)
    chosen = stats[:, cv2.CC_STAT_TOP] + stats[:, cv2.CC_STAT_HEIGHT] > (1 - _LOW) * product.shape[0]
    chosen &= stats[:, cv2.CC_STAT_AREA] > _FOOT_PART * float(np.count_nonzero(product))
    chosen &= counted(labels, near(outline_of(product), _ALONG_PX), len(stats)) > _ALONG
    chosen[0] = False
    for label in np.flatnonzero(chosen):
        x, y, width, height, _ = stats[label]
        here = slice(y, y + height), slice(x, x + width)
        chosen[label] = shows_grain(tone[here], evidence.bare[here], labels[here] == label, evidence.grain) is not False
    return all_of(labels, chosen)


def _faint(step: Plane, noise: float) -> Mask:
    """Where (h, w) there is hardly a step to see."""
    return np.asarray(cv2.dilate(step, cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))) < FAINT_STEP + 2 * noise)


#: An edge may be as soft as a shadow, at a foot that is out of focus; but no shadow changes its tint by so much (log units)
#: within so many pixels.
_TINT_BEYOND_SHADOW, _SOFT_PX = 0.3, 7


def of_another_colour(tint: Plane) -> Mask:
    """Where (h, w) there is plainly another colour on one side than on the other, however softly the two meet."""
    around = np.ones((2 * _SOFT_PX + 1,) * 2, np.uint8)
    return np.asarray(cv2.dilate(tint, around) - cv2.erode(tint, around) > _TINT_BEYOND_SHADOW)


def _whole(mask: Mask, box: tuple[slice, slice], shape: tuple[int, ...]) -> Mask:
    """A mask of a box, as (H, W) of the proxy."""
    found = np.zeros(shape, bool)
    found[box] = mask
    return found


def _long_runs(line: Mask, least: float) -> Mask:
    """What of a line (H, W) is longer at a stretch than so many pixels."""
    labels, stats = components(line, 8)
    long = stats[:, cv2.CC_STAT_AREA] > least
    long[0] = False
    return all_of(labels, long) if long.any() else np.zeros_like(line)
