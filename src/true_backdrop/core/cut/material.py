"""What a product seems to be made of, for a person to agree with: solid, strands, clear or pale."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Plane
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.glass import might_be_glass
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.strands import FIRM_BAND
from true_backdrop.core.treatment import Material

#: So much of the outline is loose (its band so many times as wide as a firm one) where the product is of strands.
_STRANDS_SHARE, _LOOSE = 0.3, 3.0
#: What lies so far inside the outline (proxy pixels) is looked at: nearer the lens mixes it with the backdrop.
_INSIDE_PX = (2.0, 8.0)
#: A product is pale where it differs by no more than this from the backdrop there (log units), along so much of its outline.
_PALE, _PALE_SHARE = 0.3, 0.5


def seems_made_of(evidence: Evidence, outline: Outline) -> Material | None:
    """The material that an outline speaks for which was found without one; None where there is no product.

    All planes are of one proxy.
    """
    along = np.abs(outline.signed) < 1
    if not (outline.product.any() and along.any()):
        return None
    if outline.by_hand is not None and outline.by_hand.clear is not None:
        return "clear"
    if float((outline.band[along] > _LOOSE * FIRM_BAND).mean()) > _STRANDS_SHARE:
        return "strands"
    within = (outline.signed > _INSIDE_PX[0]) & (outline.signed < _INSIDE_PX[1])
    pale = within & (_unlike(evidence, outline) < _PALE)
    if np.count_nonzero(pale) > _PALE_SHARE * np.count_nonzero(within):
        return "pale"
    return "solid" if might_be_glass(evidence, outline.product) is None else "clear"


def _unlike(evidence: Evidence, outline: Outline) -> Plane:
    """Difference to the backdrop in its shadow (H, W), tone and tint together, in log units."""
    shade = np.asarray(cv2.log(outline.shadow), np.float32)
    return np.asarray(cv2.absdiff(evidence.tone, shade) + evidence.tint, np.float32)
