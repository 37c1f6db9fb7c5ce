"""What is table although the outline runs around it: paper, gaps, wedges, contact shadows, soft shadows; and rims it left out."""

from __future__ import annotations

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.contact import off_the_contact
from true_backdrop.core.cut.crease import off_the_crease
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import near
from true_backdrop.core.cut.pockets import bays, paper_beside, wedges
from true_backdrop.core.cut.rims import pale_rims
from true_backdrop.core.cut.soft_shadows import soft_shadows, streaks_apart
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.watershed import watershed
from true_backdrop.core.treatment import Material

#: So near to a shadow that goes (pixels) the step to the product is looked for.
_STEP_PX = 5


def without_table(
    evidence: Evidence,
    product: Mask,
    soft: Mask,
    firm: Mask,
    closing: Closing,
    box: tuple[slice, slice],
    limits: Tolerances,
    material: Material,
) -> Mask:
    """A product (h, w) without the table and the shadows that its outline runs around, and with its pale rims.

    `soft` looks like backdrop in shadow, `firm` is product for sure, (h, w) each; the evidence is a box of that of `closing`.
    """
    paper = paper_beside(evidence, product, closing.seen[box])
    if material != "clear":
        paper |= bays(evidence, product & ~paper, soft)
    inside = product & (~paper | firm)
    if material != "strands":
        off_the_crease(inside, evidence.tone, evidence.tint, limits.tint, evidence.long_side)
        off_the_contact(inside, evidence.tone, evidence.tint, limits.tint, evidence.noise)
    if material not in ("strands", "clear"):
        inside &= ~wedges(evidence, inside, limits) | firm
        shadows = soft_shadows(evidence, inside, closing, box, limits) & ~firm
        if shadows.any():
            inside = watershed(evidence, ~inside | shadows, inside & ~near(shadows, _STEP_PX))
            # The end of a shadow is left where its middle has gone.
            inside &= ~streaks_apart(evidence, inside, closing, box) | firm
    return inside if material == "clear" else inside | pale_rims(evidence, inside)
