"""What the program thinks of a cut: clean, look again or redo, each with its reason in words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.doubt import (
    BESIDE_WORTH_A_LOOK,
    WORTH_A_LOOK,
    WORTH_AN_OPENING,
    backdrop_like,
    lost_beside,
    pale_openings,
    product_like,
)
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.glass import might_be_glass
from true_backdrop.core.cut.places import Place, named, places
from true_backdrop.core.cut.propose import SMALLEST_PART, VISIBLE_PART
from true_backdrop.core.cut.region import Busy
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
#: Where even between the two quietest values so much of the product changes, a person should look.
RESTLESS = 0.02


class Verdict(StrEnum):
    """Ordered from good to bad."""

    CLEAN = "clean"
    LOOK_AGAIN = "look_again"
    REDO = "redo"


@dataclass(frozen=True, slots=True)
class Judgement:
    """A verdict, its reasons as sentences, a number to put doubtful shots first (0 sure, 1 hopeless), and where doubt is."""

    verdict: Verdict
    reasons: tuple[str, ...]
    doubt: float
    places: tuple[Place, ...] = ()


@dataclass(frozen=True, slots=True)
class Decided:
    """What a verdict is made from, beside the evidence: masks (H, W) of the proxy.

    product   as it is cut, with what was done by hand
    at_match  at the chosen backdrop match, before anything was done by hand
    proposed  at the proposed match
    moving    where the outline moves between neighbouring values
    busy      the part of the proxy outside which nothing is to be decided, and the evidence there
    hinted    where there is at least a hint of an edge
    clear     whether the product is said to be clear
    unsaid    whether nobody said what the product is made of
    open      what of the product shows the backdrop between its strands, and is cut so
    through   where the backdrop was seen through it without anybody saying so (glass.py); None where nowhere
    """

    product: Mask
    at_match: Mask
    proposed: Mask
    moving: Mask
    match: int
    unrest: float
    busy: Busy
    hinted: Mask
    clear: bool = False
    unsaid: bool = True
    through: Mask | None = None
    open: Mask | None = None


def judge(aligned: Aligned, evidence: Evidence, plainly: Evidence, decided: Decided) -> Judgement:
    """Judge a cut from the decision of its proxy.

    `plainly` is the evidence with what a silhouette shows as well (`plainer`): an edge is seen if either light shows it. What
    may be lost or left over is asked of the front light alone, since the shadows of the other one are not in the picture.
    """
    product = decided.product
    redo, at_edge = _reasons_to_redo(product)
    if redo:
        return Judgement(Verdict.REDO, tuple(redo), 1.0, at_edge)
    of_the_edge = _edges(evidence, plainly, decided), _softness(evidence, decided)
    asked = (*of_the_edge, _match(decided), _between(evidence, decided), _beside(decided))
    found = [reason for reasons, _ in asked for reason in reasons]
    found += [(said, ()) for said in _about_the_light(aligned)]
    doubt = min(0.99, sum(amount for _, amount in asked))
    verdict = Verdict.LOOK_AGAIN if found else Verdict.CLEAN
    return Judgement(verdict, tuple(said for said, _ in found), round(doubt, 4), tuple(p for _, at in found for p in at))


#: What speaks against a cut, in words and with its places, and how much doubt there is, told or not.
_Found = tuple[list[tuple[str, tuple[Place, ...]]], float]


def _edges(evidence: Evidence, plainly: Evidence, decided: Decided) -> _Found:
    """Whether the outline is seen."""
    product = decided.product
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + down, left + across).grown(2, *product.shape).slices
    ring = _ring(product[box])
    by_nature = _ring(decided.at_match[box])  # what was drawn by hand need not be seen
    coloured = _of_another_colour(evidence.tint[box])
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


def _softness(evidence: Evidence, decided: Decided) -> _Found:
    """Whether the outline is that of a shadow: neutral, a little darker than the backdrop and softer than a lens draws."""
    busy = decided.busy
    product, by_nature = busy.of_proxy(decided.product), busy.of_proxy(decided.at_match)
    ring = _ring(product)
    length = max(1, int(np.count_nonzero(ring)))
    ring &= _ring(by_nature) & busy.closing.soft
    if np.count_nonzero(ring) <= _SOFT_OUTLINE * length:
        return [], 0.0
    around = np.ones((2 * _BOTH_SIDES_PX + 1,) * 2, np.uint8)
    dark = cv2.erode(busy.evidence.tone, around)
    limits = Tolerances.of(_SHADOWS_MATCH, evidence.noise, evidence.long_side)
    neutral = cv2.dilate(busy.evidence.tint, around) < limits.tint + limits.tint_in_shadow * np.clip(-dark, 0, 1)
    runs = _long_runs(ring & neutral & (dark > _DARKEST) & (dark < _LIGHTEST), _SOFT_RUN * length)
    share = int(np.count_nonzero(runs)) / length
    if share <= _SOFT_OUTLINE:
        return [], 0.0
    at = places(busy.on_proxy(runs), decided.product, "as soft as a shadow")
    return [(f"as soft as a shadow's edge along {share:.0%} of the outline, {named(at)}; is a shadow left over?", at)], share


def _match(decided: Decided) -> _Found:
    """What another backdrop match would change."""
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


def _between(evidence: Evidence, decided: Decided) -> _Found:
    """Whether backdrop is seen inside the product. Through glass it is by right."""
    found: list[tuple[str, tuple[Place, ...]]] = []
    if decided.clear:
        return found, 0.0
    product = decided.product
    busy = decided.busy
    alike = backdrop_like(busy.evidence, busy.of_proxy(product))
    asked = product if decided.open is None else product & ~decided.open
    if decided.through is not None:
        asked = asked & ~decided.through
        at = places(decided.through & product, product, "taken for glass")
        said = f"the backdrop is seen through the product, {named(at)}, and goes there; if that is no glass, say solid"
        found.append((said, at))
    glass = might_be_glass(evidence, product) if decided.unsaid else None
    if glass is not None:
        at = places(glass, product, "pale card or glass")
        found.append(
            (f"a place as light and as even as glass would be, {named(at)}, was left solid; if it is glass, say clear", at)
        )
    like, openings = busy.on_proxy(alike.places) & asked, busy.on_proxy(alike.openings) & asked
    area = max(1, int(np.count_nonzero(product)))
    mask = like | openings
    share = int(np.count_nonzero(mask)) / area
    if np.count_nonzero(like) > WORTH_A_LOOK[alike.by_grain] * area or np.count_nonzero(openings) > WORTH_AN_OPENING * area:
        at = places(mask, product, "backdrop may show between the parts")
        found.append((f"backdrop may show between the parts of the product, {named(at)} ({share:.1%} of its area)", at))
    # Where somebody has put product since, there is nothing left to ask.
    pale = busy.on_proxy(pale_openings(busy.evidence, busy.of_proxy(decided.at_match))) & ~product
    if pale.any():
        at = places(pale, product, "pale part or opening")
        found.append((f"taken for an opening, but a pale part would look the same, {named(at)}; is a part lost?", at))
    return found, min(0.3, 5 * share)


def _beside(decided: Decided) -> _Found:
    """Whether something that is no backdrop was left out."""
    # What was taken away by hand was taken away on purpose.
    busy = decided.busy
    product = busy.of_proxy(decided.product | decided.at_match)
    beside, much = product_like(busy.evidence, product)
    doubt = min(0.3, 2 * much)
    if much <= BESIDE_WORTH_A_LOOK:
        beside = lost_beside(busy.closing, product)
        if not beside.any():
            return [], doubt
    at = places(busy.on_proxy(beside), decided.product, "something beside the product")
    said = f"something beside the product was taken for backdrop and does not look like it, {named(at)}; is a part of it lost?"
    return [(said, at)], doubt


def _about_the_light(aligned: Aligned) -> list[str]:
    reasons = []
    if aligned.clipped_backdrop > 0.25:
        reasons.append(
            f"{aligned.clipped_backdrop:.0%} of the backdrop frame is blown out, so bright edges cannot be told apart; "
            "expose a third of a stop less"
        )
    if abs(aligned.drift_ev) > 0.25:
        reasons.append(f"the light changed by {aligned.drift_ev:+.2f} EV since the backdrop frame; the cut corrects this")
    return reasons


#: What is said of a cut for which no empty set was shot.
GUESSED = "cut against a guessed backdrop; shoot the empty set, and it is cut again against that"
#: Where nothing around the product is a backdrop that could be guessed.
PROPOSED = (
    "no plain backdrop lies around the product, so this is only a proposal; touch where it is wrong, or shoot the empty set"
)

#: What stands for a backdrop frame that was not shot.
Guess = Literal["plain", "patterned"]


def guessed(judgement: Judgement, guess: Guess) -> Judgement:
    """The judgement of a cut against a guessed backdrop: however it looks, a person should look."""
    found = with_complaint(judgement, GUESSED if guess == "plain" else PROPOSED)
    return found if guess == "plain" else replace(found, doubt=max(found.doubt, 0.5))


def by_retoucher(product: Mask) -> Judgement:
    """The judgement of a matte that somebody made by hand: it is as they wanted it, if there is anything on it."""
    redo, at = _reasons_to_redo(product)
    return Judgement(Verdict.REDO, tuple(redo), 1.0, at) if redo else Judgement(Verdict.CLEAN, (), 0.0)


def with_complaint(judgement: Judgement, said: str) -> Judgement:
    """The same with one more thing that a person should look at."""
    verdict = Verdict.LOOK_AGAIN if judgement.verdict is Verdict.CLEAN else judgement.verdict
    return replace(judgement, verdict=verdict, reasons=(*judgement.reasons, said), doubt=max(judgement.doubt, 0.1))


def touched_sides(product: Mask) -> list[str]:
    """The sides of the frame that the product reaches."""
    edges = {"left": product[:, 0], "right": product[:, -1], "top": product[0], "bottom": product[-1]}
    return [side for side, line in edges.items() if int(line.sum()) >= 3]


def _reasons_to_redo(product: Mask) -> tuple[list[str], tuple[Place, ...]]:
    if float(product.mean()) < SMALLEST_PART:
        return ["no product was found: the frame looks like the empty set"], ()
    sides = touched_sides(product)
    if not sides:
        return [], ()
    where = sides[0] if len(sides) == 1 else ", ".join(sides[:-1]) + " and " + sides[-1]
    rim = np.zeros_like(product)
    rim[[0, -1]], rim[:, 0], rim[:, -1] = product[[0, -1]], product[:, 0], product[:, -1]
    at = places(rim, product, "touches the edge of the frame")
    return [f"the product touches the {where} edge of the frame; step back or move it, and shoot again"], at


def _faint(step: Plane, noise: float) -> Mask:
    """Where (h, w) there is hardly a step to see."""
    return np.asarray(cv2.dilate(step, cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))) < FAINT_STEP + 2 * noise)


#: An edge may be as soft as a shadow, at a foot that is out of focus; but no shadow changes its tint by so much (log units)
#: within so many pixels.
_TINT_BEYOND_SHADOW, _SOFT_PX = 0.3, 7


def _of_another_colour(tint: Plane) -> Mask:
    """Where (h, w) there is plainly another colour on one side than on the other, however softly the two meet."""
    around = np.ones((2 * _SOFT_PX + 1,) * 2, np.uint8)
    return np.asarray(cv2.dilate(tint, around) - cv2.erode(tint, around) > _TINT_BEYOND_SHADOW)


def _whole(mask: Mask, box: tuple[slice, slice], shape: tuple[int, ...]) -> Mask:
    """A mask of a box, as (H, W) of the proxy."""
    found = np.zeros(shape, bool)
    found[box] = mask
    return found


def _ring(product: Mask) -> Mask:
    mask = product.astype(np.uint8)
    return np.asarray(mask > cv2.erode(mask, cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))))


def _long_runs(line: Mask, least: float) -> Mask:
    """What of a line (H, W) is longer at a stretch than so many pixels."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats(line.astype(np.uint8), connectivity=8)
    long = stats[:, cv2.CC_STAT_AREA] > least
    long[0] = False
    return np.asarray(long[labels]) if long.any() else np.zeros_like(line)
