"""Streaks of shadow: however narrow they are, their outline is less sharp than the product's own.

Both go through one lens; the shadow's edge is as soft as the lamp is wide besides.
"""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, outline_of, percentiles, shrunk

#: A shadow's outline is less sharp than the product's by such a factor: contact shadows of drawn products and composites 0.65 to
#: 0.86, neutral parts of products 0.88 to 1.2. Three quarters of it are (of shadows 0.96 at most): the rounded side of a grey
#: handle ends softly, its other one does not.
_LESS_SHARP, _MOSTLY, _MOST_OF_IT = 0.87, 75, 0.97
#: A streak of shadow is so dark (median tone, log units, from and to), has no more colour than that (median tint), and has so
#: many pixels at least; it is so large at most, in parts of the product. Of streaks on composites the tint was 0.02 to 0.114, of
#: parts that stand apart 0.17 and more.
_DARKEST, _LIGHTEST, COLOURLESS, _LEAST_PX, _LARGEST = -1.4, -0.12, 0.12, 6, 0.1


def streaks(evidence: Evidence, closing: Closing, places: Mask, product: Mask, box: tuple[slice, slice] | None = None) -> Mask:
    """Which of some places (h, w) are streaks of shadow: dark, without colour, and less sharp than a product's outline (h, w).

    The evidence is a box of that of `closing`, or all of it.
    """
    found = np.zeros_like(places)
    most = _LARGEST * np.count_nonzero(product)
    small = ((here, place) for here, place in places_of(places, 8, _LEAST_PX) if np.count_nonzero(place) < most)
    grey = [(here, place) for here, place in small if is_grey(evidence, here, place)]
    outline = outline_of(product) if grey else found
    if not outline.any():
        return found
    sharp = closing.sharp if box is None else closing.sharp[box]
    usual = sharp[outline]
    for here, place in grey:
        if less_sharp(sharp[here][place & ~shrunk(place, 1)], usual):
            found[here] |= place
    return found


def less_sharp(sharp: Plane, usual: Plane) -> bool:
    """Whether n pixels of an outline are as sharp as a shadow's and not as m pixels of the product's."""
    typical, (mostly,) = median(usual), percentiles(sharp, _MOSTLY)
    return median(sharp) < _LESS_SHARP * typical and mostly < _MOST_OF_IT * typical


def is_grey(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether a place, a mask (h, w) of a box, is as dark as a shadow and as free of colour."""
    return _DARKEST < median(evidence.tone[here][place]) < _LIGHTEST and median(evidence.tint[here][place]) < COLOURLESS
