"""What a verdict is made from, and what speaks against a cut."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.places import Place
from true_backdrop.core.cut.region import Busy

#: What speaks against a cut, in words and with its places, and how much doubt there is, told or not.
Found = tuple[list[tuple[str, tuple[Place, ...]]], float]


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
    stricter  at a stricter match, where one was tried
    strictest at the strictest that was tried, where that is none of the first values
    looser    at the next looser one that was tried
    strands   what of the product is cut as strands without anybody saying that there are any; None where all is said
    open      what of the product shows the backdrop between its strands, and is cut so
    veiled    where the product's colour alone says that the backdrop is seen between strands (veil.py), unless they were named
    printed   where print or weave was told from strands (strands.py), unless they were named
    taken     what a stricter match takes of the product, where one was tried
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
    stricter: Mask | None = None
    looser: Mask | None = None
    strands: Mask | None = None
    veiled: Mask | None = None
    printed: Mask | None = None
    taken: Mask | None = None
    strictest: Mask | None = None

    @property
    def by_itself(self) -> bool:
        """Whether the program decided it by itself, of a product that is not clear: through glass what speaks against others is
        usual, and what somebody has touched they have looked at."""
        return not self.clear and np.array_equal(self.product, self.at_match)
