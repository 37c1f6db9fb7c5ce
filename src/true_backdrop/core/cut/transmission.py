"""How much of the backdrop a clear place lets through: its grain says so, whatever the place reflects or tints.

Glass adds light of its own (reflections) and takes light away; both change how bright the backdrop looks through it. Only what
comes through carries the backdrop's grain, so the regression of the grain in the frame on that in the backdrop frame is the
transmission itself: I = R + T s B, with T s the slope and R what is left.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.masks import MIXED_PX, median, shrunk
from true_backdrop.core.cut.paper import ALIKE_PX, LEAST_STRUCTURE, Moments, moments


@dataclass(frozen=True, slots=True)
class BarePaper:
    """What of the backdrop frame's fine structure is grain and what is noise, along the rim, where no product is.

    grain, noise  variances (log units squared) of a pixel: what comes back in the frame, and what does not
    level         log brightness there; the noise of light falls with it
    """

    grain: float
    noise: float
    level: float


def bare_paper(along: Sequence[tuple[Moments, float]]) -> BarePaper | None:
    """All of `moments_along_rim` together; None where the backdrop has no grain to see."""
    own, common = sum(one.own for one, _ in along), sum(one.common for one, _ in along)
    pixels = sum(one.pixels for one, _ in along)
    if not pixels or common < LEAST_STRUCTURE * own:
        return None
    level = sum(one.pixels * level for one, level in along)
    return BarePaper(common / pixels, max(0.0, own - common) / pixels, level / pixels)


@dataclass(frozen=True, slots=True)
class Grained:
    """How strong the backdrop's grain is in a place against the light there.

    share  1 on bare backdrop, lit or in shadow; less where light is added, as a reflection on glass does
    error  its standard error
    """

    share: float
    error: float


def grain_against_light(tone: Plane, bare: Plane, where: Mask, paper: BarePaper) -> Grained | None:
    """Of a place (h, w) of such planes, without its edges; None where that is too small or the backdrop has no grain there.

    Noise in the backdrop frame makes a regression's slope smaller; it is known, and taken out of the variance (Fuller 1987,
    Measurement Error Models, from memory).
    """
    found = moments(tone, bare, where)
    if found is None:
        return None
    noise = paper.noise * float(np.exp(paper.level - bare[where].mean()))
    grain = found.own / found.pixels - noise
    if grain <= _LEAST_GRAIN * paper.grain:
        return None
    unexplained = max(0.0, found.other - found.common**2 / found.own) / found.pixels
    error = float(np.sqrt(unexplained / grain * ALIKE_PX / found.pixels))
    return Grained(found.common / found.pixels / grain, error)


#: With less grain than this, in parts of what the rim has, the backdrop has none there.
_LEAST_GRAIN = 0.25
#: So much less than all is light that was added, and no shadow.
_ADDED = 0.025


def light_added(tone: Plane, bare: Plane, where: Mask, paper: BarePaper, errors: float) -> bool:
    """Whether light lies over the backdrop that is seen in a place (h, w), beyond so many standard errors: a pane's reflection.

    A shadow adds none.
    """
    found = grain_against_light(tone, bare, where, paper)
    return found is not None and found.share < 1 - max(_ADDED, errors * found.error)


#: A place is as large as this at least (pixels of the proxy), and its transmission is known so well (standard error).
_LEAST_PX, _WELL = 200, 0.06
#: As far as this (log units to the next pixel) light may change within a place.
_EDGE = 0.02


def opacity_by_grain(tone: Plane, step: Plane, bare: Plane, clear: Plane, shadow: Plane, paper: BarePaper) -> Plane | None:
    """How much of the backdrop's light clear places stop, 0..1, (H, W); None where no place is large enough to say.

    `tone`, `step` and `bare` are as in `Evidence`, `clear` is where the product is clear and `shadow` what lies on the backdrop
    behind it, (H, W) each. A place between edges has one value; what is clear beside such places has that of the nearest.
    """
    left, top, across, down = cv2.boundingRect((clear > 0).astype(np.uint8))
    if across == 0:
        return None
    box = slice(top, top + down), slice(left, left + across)
    tone, bare, shadow = (np.ascontiguousarray(plane[box]) for plane in (tone, bare, shadow))
    inner = shrunk(np.asarray((clear[box] > 0.5) & (step[box] < _EDGE)), MIXED_PX // 2)
    labels, stats = components(inner, 4)
    values = np.full(len(stats), -1, np.float32)
    for label in range(1, len(stats)):
        x, y, width, height, area = stats[label]
        if area < _LEAST_PX:
            continue
        here = slice(y, y + height), slice(x, x + width)
        place = labels[here] == label
        found = grain_against_light(tone[here], bare[here], place, paper)
        if found is None:
            continue
        light = np.exp(median(tone[here][place])) / max(median(shadow[here][place]), 1e-3)
        if found.error * light < _WELL:
            values[label] = min(max(1 - found.share * light, 0.0), 1.0)
    known = values[labels] >= 0
    if not known.any():
        return None
    whole = np.zeros(clear.shape, np.float32)
    _, nearest = cv2.distanceTransformWithLabels((~known).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    of = np.zeros(int(nearest.max()) + 1, np.float32)
    of[nearest[known]] = values[labels[known]]
    whole[box] = of[nearest]
    return whole
