"""What another backdrop match would change: more or less of the product, a part more, an opening more."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, median, near, outside_of
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.propose import VISIBLE_PART
from true_backdrop.core.cut.region import Busy

#: Where even between the two quietest values so much of the product changes, a person should look.
RESTLESS = 0.02


def at_other_matches(evidence: Evidence, decided: Decided) -> tuple[Found, ...]:
    """What speaks against the match that a cut (H, W of the proxy) stands on."""
    return _moved(decided), _one_part_more(evidence, decided), _one_part_less(decided), _one_opening_more(evidence, decided)


def _moved(decided: Decided) -> Found:
    """What the chosen match leaves over or loses against the proposed one, and whether no value keeps the outline where it is."""
    found = []
    area = max(1, int(np.count_nonzero(decided.proposed)))
    extra, missing = decided.at_match & ~decided.proposed, decided.proposed & ~decided.at_match
    leftover, lost = (int(np.count_nonzero(mask)) / area for mask in (extra, missing))
    if leftover > VISIBLE_PART * 2:
        at = places(extra, decided.product, "backdrop left over")
        said = f"at backdrop match {decided.match} some backdrop is left over, {named(at)} ({leftover:.1%} of the product's area)"
        found.append((said, at))
    if lost > VISIBLE_PART * 2:
        at = places(missing, decided.product, "product lost")
        said = f"at backdrop match {decided.match} some product is lost, {named(at)} ({lost:.1%} of its area)"
        found.append((said, at))
    if decided.unrest > RESTLESS:
        at = places(decided.moving, decided.product, "outline that moves with every value")
        said = f"the outline moves with every value of backdrop match, {named(at)}; compare the matte with the frame there"
        found.append((said, at))
    return found, 8 * (leftover + lost) + min(0.3, 6 * decided.unrest)


#: A part that only a stricter match keeps is worth a look where it is so large (of the product's area), so broad (pixels from its
#: middle to its edge), and of such a tint at least (log units), on bare backdrop and for each unit of a shadow's depth more: of
#: shadows it was at most 0.6 of that, of lost parts from 1.15 times on (on 430 composites and the demo). One that is so large
#: whatever its colour, if so much of its border lies so near (pixels) to an edge that is seen, as that of thrown light does not:
#: of the same 430 cuts two had such a part, and were off by more than 1 %.
_WHOLE_PART, _PART_PX, _TINTED, _TINTED_IN_SHADOW = 0.008, 2, 0.12, 0.2
_LARGE_PART, _BORDERED, _NEAR_PX = 0.04, 0.9, 2


def _one_part_more(evidence: Evidence, decided: Decided) -> Found:
    """Whether a stricter match would keep a part more, of a colour that a shadow hardly has or large with edges all around.

    At the strictest of all nearly everything is kept, so that there only colour tells.
    """
    product = decided.product | decided.at_match
    least, lost = _LARGE_PART * np.count_nonzero(product), np.zeros_like(product)
    for stricter, by_border in ((decided.stricter, True), (decided.strictest, False)):
        for part in () if stricter is None else _whole_parts(stricter & ~product, product):
            depth = median(np.clip(-evidence.tone[part], 0, 1))
            tinted = median(evidence.tint[part]) > _TINTED + _TINTED_IN_SHADOW * depth
            if tinted or (by_border and np.count_nonzero(part) > least and _is_bordered(decided.busy, part)):
                lost |= part
    if not lost.any():
        return [], 0.0
    at, share = places(lost, decided.product, "kept at a stricter match"), _share(lost, product)
    said = f"a stricter backdrop match would keep a part more, {named(at)} ({share:.1%} of the product's area); is it lost?"
    return [(said, at)], min(0.3, 2 * share)


def _is_bordered(busy: Busy, part: Mask) -> bool:
    """Whether nearly all of the border of a part (H, W of the proxy) lies at an edge that is seen."""
    inside = busy.of_proxy(part)
    return bool(near(busy.closing.seen, _NEAR_PX)[near(inside, 1) & ~inside].mean() > _BORDERED)


#: A stricter match keeps more. Where it takes so large a part all the same, nothing holds the outline: of 430 composites two had
#: such a part, both off by 2 % and more; of a white mug that was right it was 0.010.
_TAKEN_PART = 0.012


def _one_part_less(decided: Decided) -> Found:
    """Whether a stricter match takes a whole part of the product."""
    if decided.taken is None or decided.clear:
        return [], 0.0
    product = decided.product & decided.at_match
    parts = list(_whole_parts(decided.taken & product, product, _TAKEN_PART))
    if not parts:
        return [], 0.0
    taken = np.logical_or.reduce(parts)
    at, share = places(taken, decided.product, "taken at a stricter match"), _share(taken, product)
    said = f"a stricter backdrop match takes a part away, {named(at)} ({share:.1%} of the product's area); does it end there?"
    return [(said, at)], min(0.3, 2 * share)


#: An opening that only a looser match finds, as large and as broad, is worth a look where it has no more colour than that (median
#: tint, log units) and lies inside, so many pixels away from the outline: of 400 composites there was one such place, and it was
#: an opening. What a looser match takes of a product lies along its outline, or has a tint from 0.15 on.
_UNTINTED, _INSIDE_PX = 0.08, 2


def _one_opening_more(evidence: Evidence, decided: Decided) -> Found:
    """Whether a looser match would open a place inside the product that has no colour."""
    if decided.looser is None or decided.clear:
        return [], 0.0
    product = decided.product & decided.at_match
    neutral = [place for place in _whole_parts(product & ~decided.looser, product) if median(evidence.tint[place]) < _UNTINTED]
    outline = near(outside_of(product), _INSIDE_PX) if neutral else product
    opened = np.logical_or.reduce([np.zeros_like(product), *(place for place in neutral if not outline[place].any())])
    if not opened.any():
        return [], 0.0
    at, share = places(opened, decided.product, "opens at a looser match"), _share(opened, product)
    said = f"a looser backdrop match would open a place, {named(at)} ({share:.1%} of the product's area); is it backdrop?"
    return [(said, at)], min(0.3, 5 * share)


def _whole_parts(mask: Mask, product: Mask, part: float = _WHOLE_PART) -> Iterator[Mask]:
    """What of a mask (H, W) is broad and, as one part (H, W), large against a product (H, W)."""
    labels, stats = components(cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, disc(_PART_PX)), 4)
    least = part * np.count_nonzero(product)
    for label in np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] > least) + 1:
        yield labels == label


def _share(part: Mask, product: Mask) -> float:
    return int(np.count_nonzero(part)) / max(1, int(np.count_nonzero(product)))
