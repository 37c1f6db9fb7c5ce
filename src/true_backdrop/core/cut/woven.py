"""What was cut as strands and may be print or weave: a pattern of the product's own in the backdrop's colour looks the same."""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.channels import halved
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.ragged import ragged

#: So much of the product's area cut as strands by its colour alone is worth a look. So is so much that is open between strands,
#: and so much that may be, if so little of the outline there is ragged: of printed shirts 0.05 to 0.18, of fur 0.35 and more.
_VEILED, _OPEN, _MAY_BE, _RAGGED_PART = 0.1, 0.02, 0.03, 0.2
#: So much of the product's area along its outline is print that looks like strands.
_PRINTED = 0.006


def woven(decided: Decided) -> Found:
    """Whether what was cut as strands, which nobody said there are, may be a pattern of the product's own."""
    area = max(1, int(np.count_nonzero(decided.product)))
    asked = np.zeros_like(decided.product)
    if decided.veiled is not None and np.count_nonzero(decided.veiled) > _VEILED * area:
        asked |= decided.veiled
    if decided.strands is not None and _firm_in_part(decided.product, decided.strands, area):
        asked |= decided.strands
    if decided.strands is not None and decided.open is not None:
        between_them = decided.open & decided.strands
        if np.count_nonzero(between_them) > _OPEN * area and _firm(decided.product, between_them):
            asked |= between_them
    printed = _printed(decided, area) if not asked.any() else None
    if printed is not None:
        at, share = places(printed, decided.product, "print or weave"), int(np.count_nonzero(printed)) / area
        said = f"a pattern in the backdrop's light runs out over the outline, {named(at)}; is the product whole along its edge?"
        return [(said, at)], min(0.3, share)
    if not asked.any():
        return [], 0.0
    at, share = places(asked, decided.product, "cut as strands"), int(np.count_nonzero(asked)) / area
    of = f"{named(at)} ({share:.1%} of the product's area)"
    said = f"cut as strands with the backdrop between them, {of}; is it print or weave?"
    return [(said, at)], min(0.3, 2 * share)


def _printed(decided: Decided, area: int) -> Mask | None:
    """Where print was told from strands along the outline, if that is worth a look: it may be notched there."""
    if decided.printed is None or np.count_nonzero(decided.printed) <= _PRINTED * area:
        return None
    return decided.printed


def _firm_in_part(product: Mask, strands: Mask, area: int) -> bool:
    return bool(np.count_nonzero(strands) > _MAY_BE * area) and _firm(product, strands)


def _firm(product: Mask, strands: Mask) -> bool:
    """Whether the outline of a product (H, W) is firm where it was cut as strands, or opened between them (H, W)."""
    inside, there = halved(product.astype(np.float32)) > 0.5, halved(halved(strands.astype(np.float32))) > 0
    return bool((ragged(inside, max(product.shape)) & there).sum() < _RAGGED_PART * there.sum())
