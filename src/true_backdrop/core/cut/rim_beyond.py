"""A rim of the product that was left outside: its own edge runs along the outline, some pixels away from it.

The bevel of a white panel may have just the light of the backdrop, or of a shadow; then the outline follows the panel's face. But
where the rim ends there is a faint edge (unrolled.py). Those that are surely rims have been put back (rims_seen.py). In a picture
of half the size broader rims are as narrow, as the grey frame of a display before grey paper.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, Mask
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.unrolled import surroundings
from true_backdrop.core.later import Later

#: So long a line, in parts of the outline's length, is worth a look (measured on composites, docs/cut.md).
WORTH_A_LOOK = 0.04
#: One that is farther away is longer: of some 400 composites one that was right had 0.11, and some more 0.04 to 0.07.
_FARTHER_WORTH_A_LOOK = 0.12


def line_of(decided: Decided) -> Later[tuple[Mask, float]]:
    """The longest line beside the outline of a decision; see `line_beside`."""
    busy = decided.busy
    return Later(lambda: line_beside(busy.evidence, busy.of_proxy(decided.product)))


def rim_beyond(decided: Decided, line: Later[tuple[Mask, float]]) -> Found:
    """Whether a line runs along an outline that nobody has touched, so that the product may go on up to it."""
    if not decided.by_itself:
        return [], 0.0
    along, length = line.get()
    if length <= WORTH_A_LOOK:
        along, length = farther_line(decided.busy.evidence, decided.busy.of_proxy(decided.product))
        if length <= _FARTHER_WORTH_A_LOOK:
            return [], 0.0
    at = places(decided.busy.on_proxy(along), decided.product, "a line beside the outline")
    return [(f"a line runs along beside the outline, {named(at)}; is a rim of the product lost there?", at)], 0.1


def line_beside(evidence: Evidence, product: Mask) -> tuple[Mask, float]:
    """The pixels (H, W) of a product's outline (H, W) that the longest such line is beside, and their part of all of it."""
    return _longest(evidence.relief, product)


def farther_line(evidence: Evidence, product: Mask) -> tuple[Mask, float]:
    """The same of lines that are up to twice as far away, told in a picture of half the size."""
    height, width = product.shape
    size = max(1, width // 2), max(1, height // 2)
    relief = np.asarray(cv2.resize(evidence.relief, size, interpolation=cv2.INTER_AREA), np.uint8)
    covered = cv2.resize(product.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    along, length = _longest(relief, np.asarray(covered > 0.5))
    return np.asarray(cv2.resize(along.astype(np.uint8), (width, height), interpolation=cv2.INTER_NEAREST) > 0), length


def _longest(relief: EncodedRGB, product: Mask) -> tuple[Mask, float]:
    found, longest, length = np.zeros_like(product), 0, 0
    for beside in surroundings(relief, product):
        length += len(beside.contour)
        for line in beside.lines(longest + 1)[:1]:
            longest = line.along.size
            found[:] = False
            found[beside.contour[line.along, 1], beside.contour[line.along, 0]] = True
    return found, longest / max(1, length)
