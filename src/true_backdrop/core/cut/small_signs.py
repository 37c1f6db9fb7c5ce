"""Small signs that an outline may be off: none of them says much alone, and right cuts have one or two; so they are added up."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bordered import part_of
from true_backdrop.core.cut.components import all_of, components
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, outline_of, outside_of
from true_backdrop.core.cut.outline_doubt import of_another_colour, soft_outline
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.streaks import streaks
from true_backdrop.core.later import Later

#: What 19 of 20 right cuts and more stay below, of those that nothing else is asked about (measured on sets of many kinds,
#: docs/cut.md): the unrest of the outline; what changes both to a looser and to a stricter match; a part that a stricter one has
#: more, all in parts of the product's area; the longest stretch as soft as a shadow, and that without an edge to be seen, in
#: parts of the outline; and edges that belong to nothing, against its length.
_UNREST, _BOTH_WAYS, _PART, _SOFT, _UNSEEN, _BELONG_TO_NOTHING = 0.0052, 0.0117, 0.00056, 0.0143, 0.0143, 0.8
#: The same of what is cut as strands that nobody named, in parts of the area. Where so much of it was opened between them
#: there is no doubt that there are some (hair and bristles: from 0.07 on).
_STRANDS, SURELY_STRANDS = 0.03, 0.05
#: The same of the longest line beside the outline (rim_beyond.py), in parts of its length; what is shorter is chance.
_LINE = 0.011
#: What 49 of 50 right cuts have none of, or hardly any, in parts of the area: places that may be openings into which a shadow
#: falls, and strands that lie so many pixels inside.
_OPENINGS, _DEEP_STRANDS, _DEEP_PX = 0.0022, 0.0003, 12
#: A sign counts for no more than so many times that, and all of them together are worth a look from here on.
_MOST, WORTH_A_LOOK = 4.0, 4.7
#: A part is so broad at least (pixels from its middle to its edge), and so much of its border, so near to it (pixels), is soft at
#: most: more is a shadow's; and so much lies along the backdrop (of openings that were closed up to 0.34, of parts of products
#: from 0.5 on). Edges so far away (pixels) belong to nothing.
_PART_PX, _SHADOWS_BORDER, _OPEN_BORDER, _BORDER_PX, _AWAY_PX = 2, 0.5, 0.37, 2, 10
#: An edge that is out of focus is hardly seen as one, but within so many pixels there is such a contrast (log units).
_ACROSS_PX, _CONTRAST = 4, 0.3
#: Signs that count for less than this of what the largest one does are not told.
_TOLD = 0.4

#: Where the longest line beside the outline is (H, W of the busy part), and its part of the outline, worked out when asked for.
Line = Later[tuple[Mask, float]]


@dataclass(frozen=True, slots=True)
class Sign:
    """What it is, in words; how much of it there is, against what most right cuts have; and where (H, W)."""

    said: str
    amount: float
    where: Mask

    @property
    def counts(self) -> float:
        return min(self.amount, _MOST)


def small_signs(evidence: Evidence, decided: Decided, openings: Mask | None = None, line: Line | None = None) -> Found:
    """Whether small signs add up. What somebody has touched they have looked at, and through glass all of them are usual.

    `openings` (H, W) in the product may be some into which a shadow falls, so few that they alone are not asked about; `line` is
    the longest one beside the outline (rim_beyond.py).
    """
    if not decided.by_itself:
        return [], 0.0
    signs = signs_of(evidence, decided, openings, line)
    total = sum(sign.counts for sign in signs)
    if total <= WORTH_A_LOOK:
        return [], 0.0
    least = _TOLD * max(sign.counts for sign in signs)
    told = sorted((sign for sign in signs if sign.counts >= least), key=lambda sign: -sign.amount)
    words = list(dict.fromkeys(sign.said for sign in told))
    at = places(np.logical_or.reduce([sign.where for sign in told]), decided.product, "small signs add up")
    said = words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]
    return [(f"small signs add up, {named(at)}: {said}; is a part lost or left over?", at)], min(0.3, 0.02 * total)


def signs_of(evidence: Evidence, decided: Decided, openings: Mask | None = None, line: Line | None = None) -> list[Sign]:
    """All of them, for a decision that nobody has touched."""
    product, busy = decided.product, decided.busy
    area = max(1, int(np.count_nonzero(product)))
    found = [_moves(decided, area)]
    if decided.stricter is not None:
        around = ~(decided.stricter | product)
        more, size = _largest_part(decided.stricter & ~product, around, busy.on_proxy(busy.closing.soft))
        found.append(Sign("a stricter match would keep a little more", size / (area * _PART), more))
    soft, length = soft_outline(evidence, decided)
    run, size = _longest(soft)
    found.append(Sign("the outline is as soft as a shadow's", size / (length * _SOFT), busy.on_proxy(run)))
    unseen, size = _longest(_unseen(decided))
    found.append(Sign("hardly an edge is seen", size / (length * _UNSEEN), busy.on_proxy(unseen)))
    away = busy.closing.seen & (cv2.dilate(busy.of_proxy(product).astype(np.uint8), disc(_AWAY_PX)) == 0)
    away &= ~streaks(busy.evidence, busy.closing, away, busy.of_proxy(product))
    amount = int(np.count_nonzero(away)) / (length * _BELONG_TO_NOTHING)
    found.append(Sign("there are edges beside the product", amount, busy.on_proxy(away)))
    found += _strands(decided, area)
    if openings is not None:
        amount = int(np.count_nonzero(openings)) / (area * _OPENINGS)
        found.append(Sign("a grey place may be an opening in shadow", amount, openings))
    if line is not None:
        along, part = line.get()
        amount = part / _LINE if part > _LINE else 0.0
        found.append(Sign("a line runs along beside the outline", amount, busy.on_proxy(along)))
    return found


def _strands(decided: Decided, area: int) -> list[Sign]:
    """That a part is cut as strands, or some deep inside, unless so much is open between them that there are some."""
    between = 0 if decided.open is None else int(np.count_nonzero(decided.open))
    if decided.strands is None or between >= SURELY_STRANDS * area:
        return []
    busy = decided.busy
    deep = busy.on_proxy(_deep(busy.of_proxy(decided.strands), busy.of_proxy(decided.product)))
    amounts = int(np.count_nonzero(decided.strands)) / (area * _STRANDS), int(np.count_nonzero(deep)) / (area * _DEEP_STRANDS)
    return [
        Sign("a part is cut as strands that nobody named", amounts[0], decided.strands),
        Sign("strands are cut deep inside", amounts[1], deep),
    ]


def _deep(strands: Mask, product: Mask) -> Mask:
    """What of strands (h, w) is far inside of what surrounds a product (h, w), whose own openings are not."""
    if not strands.any():
        return strands
    inside = (~outside_of(product)).astype(np.uint8)
    return np.asarray(strands & (cv2.distanceTransform(inside, cv2.DIST_L2, 3) > _DEEP_PX))


def _moves(decided: Decided, area: int) -> Sign:
    """That the outline moves: between neighbouring values, or to a looser and to a stricter one alike."""
    said, amount = "the outline moves a little with backdrop match", decided.unrest / _UNREST
    if decided.looser is None or decided.stricter is None:
        return Sign(said, amount, decided.moving)
    changed = min((decided.looser ^ decided.product, decided.stricter ^ decided.product), key=np.count_nonzero)
    both = int(np.count_nonzero(changed)) / (area * _BOTH_WAYS)
    return Sign(said, both, changed) if both > amount else Sign(said, amount, decided.moving)


def _unseen(decided: Decided) -> Mask:
    """Where on the outline (h, w of the busy part) no edge is seen, nor another colour, and no silhouette tells it either."""
    busy = decided.busy
    ring = outline_of(busy.of_proxy(decided.product)) & ~busy.closing.seen
    if ring.any():
        tone, around = np.clip(busy.evidence.tone, -2, 2), np.ones((2 * _ACROSS_PX + 1,) * 2, np.uint8)
        ring &= cv2.dilate(tone, around) - cv2.erode(tone, around) < _CONTRAST
    if busy.opaque is not None:
        ring &= ~outline_of(busy.opaque)
    return ring & ~of_another_colour(busy.evidence.tint) if ring.any() else ring


def _largest_part(mask: Mask, around: Mask, soft: Mask) -> tuple[Mask, int]:
    """What of a mask (H, W) is broad, borders on the backdrop `around` (H, W) and not, as a gap that is closed, on product alone,
    and is no shadow, which borders on `soft` backdrop (H, W); and the area of the largest part."""
    broad = cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, disc(_PART_PX))
    labels, stats = components(broad, 8)
    border = (broad > 0) & (cv2.erode(broad, np.ones((3, 3), np.uint8)) == 0)
    square = np.ones((2 * _BORDER_PX + 1,) * 2, np.uint8)
    along, along_soft = (cv2.dilate(other.astype(np.uint8), square) > 0 for other in (around, around & soft))
    chosen = part_of(labels, border, along_soft, len(stats)) < _SHADOWS_BORDER
    chosen &= part_of(labels, border, along, len(stats)) > _OPEN_BORDER
    chosen[0] = False
    return all_of(labels, chosen), int(stats[chosen, cv2.CC_STAT_AREA].max(initial=0))


def _longest(line: Mask) -> tuple[Mask, int]:
    """The longest piece of a line (H, W), and its length in pixels."""
    labels, stats = components(line, 8)
    areas = stats[:, cv2.CC_STAT_AREA]
    longest = int(np.argmax(areas))
    return np.asarray(labels == longest) & line, int(areas[longest])
