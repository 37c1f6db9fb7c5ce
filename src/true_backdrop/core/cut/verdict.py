"""What the program thinks of a cut: clean, look again or redo, each with its reason in words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.propose import SMALLEST_PART, VISIBLE_PART, Proposal

#: Along this part of the outline product and backdrop may look the same before a person should look.
PALE_OUTLINE_PART = 0.12
#: A step below this (log units per proxy pixel) cannot be told from a soft shadow's own slope.
FAINT_STEP = 0.03
#: Where even between the two quietest values so much of the product changes, a person should look.
RESTLESS = 0.02


class Verdict(StrEnum):
    """Ordered from good to bad."""

    CLEAN = "clean"
    LOOK_AGAIN = "look_again"
    REDO = "redo"


@dataclass(frozen=True, slots=True)
class Judgement:
    """A verdict, its reasons as sentences, and a number to put doubtful shots first (0 sure, 1 hopeless)."""

    verdict: Verdict
    reasons: tuple[str, ...]
    doubt: float


def judge(aligned: Aligned, evidence: Evidence, outline: Outline, proposal: Proposal, proposed: Mask, match: int) -> Judgement:
    """Judge a cut from the decision of its proxy; `proposed` is the product (H, W) at the proposed match."""
    redo = _reasons_to_redo(outline.product)
    if redo:
        return Judgement(Verdict.REDO, tuple(redo), 1.0)
    faint = _faint_part(evidence, outline.product)
    leftover, lost = _against(proposed, outline.product)
    reasons: list[str] = []
    if faint > PALE_OUTLINE_PART:
        reasons.append(f"along {faint:.0%} of its outline the product is as bright as the backdrop; look at the edge there")
    if leftover > VISIBLE_PART * 2:
        reasons.append(f"at backdrop match {match} some backdrop is left over ({leftover:.1%} of the product's area)")
    if lost > VISIBLE_PART * 2:
        reasons.append(f"at backdrop match {match} some product is lost ({lost:.1%} of its area)")
    if proposal.unrest > RESTLESS:
        reasons.append("the outline moves with every value of backdrop match; compare the matte with the frame")
    if aligned.clipped_backdrop > 0.25:
        reasons.append(
            f"{aligned.clipped_backdrop:.0%} of the backdrop frame is blown out, so bright edges cannot be told apart; "
            "expose a third of a stop less"
        )
    if abs(aligned.drift_ev) > 0.25:
        reasons.append(f"the light changed by {aligned.drift_ev:+.2f} EV since the backdrop frame; the cut corrects this")
    doubt = min(0.99, faint + 8 * (leftover + lost) + min(0.3, 6 * proposal.unrest))
    return Judgement(Verdict.LOOK_AGAIN if reasons else Verdict.CLEAN, tuple(reasons), round(doubt, 4))


#: What is said of a cut for which no empty set was shot.
GUESSED = "cut against a guessed backdrop; shoot the empty set, and it is cut again against that"


def guessed(judgement: Judgement) -> Judgement:
    """The judgement of a cut against a guessed backdrop: however it looks, a person should look."""
    return with_complaint(judgement, GUESSED)


def with_complaint(judgement: Judgement, said: str) -> Judgement:
    """The same with one more thing that a person should look at."""
    verdict = Verdict.LOOK_AGAIN if judgement.verdict is Verdict.CLEAN else judgement.verdict
    return replace(judgement, verdict=verdict, reasons=(*judgement.reasons, said), doubt=max(judgement.doubt, 0.1))


def _against(proposed: Mask, product: Mask) -> tuple[float, float]:
    """Leftover backdrop and lost product against the proposed cut, as parts of its area."""
    area = max(1, int(np.count_nonzero(proposed)))
    return np.count_nonzero(product & ~proposed) / area, np.count_nonzero(proposed & ~product) / area


def touched_sides(product: Mask) -> list[str]:
    """The sides of the frame that the product reaches."""
    edges = {"left": product[:, 0], "right": product[:, -1], "top": product[0], "bottom": product[-1]}
    return [side for side, line in edges.items() if int(line.sum()) >= 3]


def _reasons_to_redo(product: Mask) -> list[str]:
    part = float(product.mean())
    if part < SMALLEST_PART:
        return ["no product was found: the frame looks like the empty set"]
    sides = touched_sides(product)
    if sides:
        where = sides[0] if len(sides) == 1 else ", ".join(sides[:-1]) + " and " + sides[-1]
        return [f"the product touches the {where} edge of the frame; step back or move it, and shoot again"]
    return []


def _faint_part(evidence: Evidence, product: Mask) -> float:
    """The part of the outline along which there is hardly a step to see."""
    cross = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
    mask = product.astype(np.uint8)
    ring = mask > cv2.erode(mask, cross)
    if not ring.any():
        return 0.0
    near = cv2.dilate(evidence.step, cross)[ring]
    return float((near < FAINT_STEP + 2 * evidence.noise).mean())
