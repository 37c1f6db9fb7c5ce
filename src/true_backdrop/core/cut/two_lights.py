"""One opacity and colour of a tile from two lights: that from the front and that of the silhouette frame."""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import Alpha, LinearRGB
from true_backdrop.core.cut.adjust import shifted
from true_backdrop.core.cut.interpolation import Place
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.solve import LitBackdrop, contrast_of, join_lights, solve_tile, unmix

#: Where a silhouette alone tells the edge it is pulled in by this much (frame pixels), which needs so many pixels around; and
#: the contrast (mean square, relative) from the front at which it no longer does.
PULLED_IN_PX, PULL_MARGIN = 0.5, 2
_TOLD_FROM_THE_FRONT = 0.002

#: A tile in one light (h, w, 3), and the backdrop behind it.
Shot = tuple[LinearRGB, LitBackdrop]


def join_silhouette(
    outline: Outline,
    lit: Shot,
    dark: Shot,
    at: Place,
    narrowest: float,
    noises: tuple[float, float],
    inwards_px: float,
    alpha: Alpha,
    colour: LinearRGB,
) -> None:
    """Change a tile's alpha (h, w) and colour (h, w, 3) after what the silhouette frame says of the same pixels.

    Light of the wall goes round a product's edge; where nothing but the silhouette tells it, it is taken in by `inwards_px`.
    `noises` are those of the frame and of the silhouette frame in this view; `at` and `narrowest` are as in `solve_tile`.
    """
    backlit = outline.backlit
    if backlit is None:
        return
    other, unused = np.empty_like(alpha), np.empty_like(colour)
    solve_tile(*dark, outline.signed, outline.band, backlit.colour, at, noises[1], narrowest, other, unused)
    contrast, contrast_lit = np.empty_like(alpha), np.empty_like(alpha)
    contrast_of(lit[1], outline.colour, at, contrast)
    contrast_of(dark[1], backlit.colour, at, contrast_lit)
    alone = 1 / (1 + contrast / np.float32(_TOLD_FROM_THE_FRONT))
    other += alone * (shifted(other, -inwards_px) - other)
    join_lights(alpha, contrast, noises[0], other, contrast_lit, noises[1])
    unmix(*lit, outline.colour, at, alpha, colour)
