"""What the program thinks of a cut: clean, look again or redo, each with its reason in words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial
from typing import Literal

import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.doubt import (
    BESIDE_WORTH_A_LOOK,
    OPENING_IN_SHADOW,
    BackdropLike,
    backdrop_like,
    lost_beside,
    product_like,
)
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.glass import might_be_glass
from true_backdrop.core.cut.hue_doubt import hue_beside
from true_backdrop.core.cut.notched import notched
from true_backdrop.core.cut.other_match import at_other_matches
from true_backdrop.core.cut.outline_doubt import at_the_foot, edges, nearly_backdrop, softness
from true_backdrop.core.cut.pale_openings import pale_openings
from true_backdrop.core.cut.places import Place, named, places
from true_backdrop.core.cut.propose import SMALLEST_PART
from true_backdrop.core.cut.rim_beyond import line_of, rim_beyond
from true_backdrop.core.cut.small_signs import small_signs
from true_backdrop.core.cut.stepped import stepped
from true_backdrop.core.cut.stumps import stumps
from true_backdrop.core.cut.twins import twins
from true_backdrop.core.cut.woven import woven


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


def judge(aligned: Aligned, evidence: Evidence, plainly: Evidence, decided: Decided) -> Judgement:
    """Judge a cut from the decision of its proxy.

    `plainly` is the evidence with what a silhouette shows as well (`plainer`): an edge is seen if either light shows it. What
    may be lost or left over is asked of the front light alone, since the shadows of the other one are not in the picture.
    """
    product = decided.product
    redo, at_edge = _reasons_to_redo(product)
    if redo:
        return Judgement(Verdict.REDO, tuple(redo), 1.0, at_edge)
    of_the_edge = edges(evidence, plainly, decided), softness(evidence, decided), stumps(evidence, decided)
    of_what_is_inside = nearly_backdrop(evidence, decided), at_the_foot(evidence, decided)
    of_the_match = at_other_matches(evidence, decided)
    inside = _backdrop_inside(decided)
    of_openings = _between(evidence, decided, inside), _beside(decided), woven(decided)
    asked = (*of_the_edge, *of_what_is_inside, *of_the_match, *of_openings)
    found = [reason for reasons, _ in asked for reason in reasons]
    found += [(said, ()) for said in _about_the_light(aligned)]
    doubt = min(0.99, sum(amount for _, amount in asked))
    line = line_of(decided)
    signs = (
        partial(notched, evidence, decided),
        partial(stepped, evidence, decided),
        partial(rim_beyond, decided, line),
        partial(hue_beside, decided),
        partial(twins, decided),
        partial(small_signs, evidence, decided, inside.openings, line),
    )
    for sign in signs:
        if not found:
            found, more = sign()
            doubt = min(0.99, doubt + more)
    verdict = Verdict.LOOK_AGAIN if found else Verdict.CLEAN
    return Judgement(verdict, tuple(said for said, _ in found), round(doubt, 4), tuple(p for _, at in found for p in at))


def _backdrop_inside(decided: Decided) -> BackdropLike:
    """What in the product may be backdrop, in masks (H, W) of the proxy: none of it where it was cut open or taken for glass."""
    product, busy = decided.product, decided.busy
    if decided.clear:
        return BackdropLike(np.zeros_like(product), False, np.zeros_like(product), 1.0)
    found = backdrop_like(busy.evidence, busy.of_proxy(product))
    asked = product if decided.open is None else product & ~decided.open
    if decided.through is not None:
        asked = asked & ~decided.through
    return replace(found, places=busy.on_proxy(found.places) & asked, openings=busy.on_proxy(found.openings) & asked)


def _between(evidence: Evidence, decided: Decided, inside: BackdropLike) -> Found:
    """Whether backdrop is seen inside the product. Through glass it is by right."""
    found: list[tuple[str, tuple[Place, ...]]] = []
    if decided.clear:
        return found, 0.0
    product = decided.product
    busy = decided.busy
    if decided.through is not None:
        at = places(decided.through & product, product, "taken for glass")
        said = f"the backdrop is seen through the product, {named(at)}, and goes there; if that is no glass, say solid"
        found.append((said, at))
    glass = might_be_glass(evidence, product) if decided.unsaid else None
    if glass is not None:
        at = places(glass, product, "pale card or glass")
        found.append(
            (f"a place as light and as even as glass would be, {named(at)}, was left solid; if it is glass, say clear", at)
        )
    area = max(1, int(np.count_nonzero(product)))
    mask = inside.places | inside.openings
    share = int(np.count_nonzero(mask)) / area
    if np.count_nonzero(inside.places) > inside.least * area or np.count_nonzero(inside.openings) > OPENING_IN_SHADOW * area:
        at = places(mask, product, "backdrop may show between the parts")
        found.append((f"backdrop may show between the parts of the product, {named(at)} ({share:.1%} of its area)", at))
    # Where somebody has put product since, there is nothing left to ask.
    pale = busy.on_proxy(pale_openings(busy.evidence, busy.of_proxy(decided.at_match))) & ~product
    if pale.any():
        at = places(pale, product, "pale part or opening")
        found.append((f"taken for an opening, but a pale part would look the same, {named(at)}; is a part lost?", at))
    return found, min(0.3, 5 * share)


def _beside(decided: Decided) -> Found:
    """Whether something that is no backdrop was left out."""
    # What was taken away by hand was taken away on purpose.
    busy = decided.busy
    product = busy.of_proxy(decided.product | decided.at_match)
    beside, much = product_like(busy.evidence, product, busy.closing)
    doubt = min(0.3, 2 * much)
    if much <= BESIDE_WORTH_A_LOOK:
        beside = lost_beside(busy.evidence, busy.closing, product)
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
