"""Between strands: where the backdrop is seen, wholly or in part, and where it is a surface of the product after all."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import squared_length
from true_backdrop.core.cut.components import all_of, beside, components, hanging_together
from true_backdrop.core.cut.evidence import RELIEF_STEPS, Evidence
from true_backdrop.core.cut.masks import disc, near
from true_backdrop.core.cut.tolerances import Tolerances

#: Tone of a strand against what is around it (log units).
_STRAND_TONE = 0.15
#: So much of a place must be strands, in parts of the product there.
_STRANDS_SHARE = 0.15
#: Bare backdrop between strands is so near to the next (proxy pixels, twice this), in a chain from outside of them all: what is
#: like backdrop inside of a face is none. Where somebody said that there are strands they may stand closer.
_CHAIN_PX, _SAID_CHAIN_PX = 3, 10
#: So near to it (proxy pixels) there are pixels that are covered in part.
_IN_PART_PX = 6
#: A pixel of strands that is so much less unlike the backdrop than the most unlike one around it is not wholly covered.
_HALF_COVERED = 0.6
#: Farther off the line from the backdrop to the colour of the strands (parts of the backdrop's light) a pixel is no mixture of
#: the two, but of another colour.
_OFF_LINE = 0.1
#: How far around the colour of the strands is looked for, in parts of the long side.
_COLOUR_AROUND = 0.012


def off_line(evidence: Evidence, expected: Plane) -> Plane:
    """How far (H, W) a pixel is off the line from the backdrop to the strands around, in parts of the backdrop's light.

    `expected` is the tone of the backdrop there. A pixel that strands cover in part is a mixture of the two lights, and lies on
    that line; the strands' colour is that of what is most unlike the backdrop.
    """
    light = evidence.relief.astype(np.float32) * (np.float32(1 / RELIEF_STEPS) * cv2.exp(-np.minimum(expected, 0.5)))[..., None]
    taken = np.asarray(1 - light, np.float32)
    unlike = squared_length(taken)
    side = round(_COLOUR_AROUND * evidence.long_side) | 1
    towards = np.asarray(cv2.blur(taken * (unlike * np.sqrt(unlike))[..., None], (side, side)), np.float32)
    towards /= np.maximum(np.sqrt(squared_length(towards)), np.float32(1e-9))[..., None]
    along = np.einsum("hwc,hwc->hw", taken, towards)
    return np.asarray(np.sqrt(np.maximum(unlike - along * along, 0) / 3), np.float32)


def half_covered(evidence: Evidence, expected: Plane) -> Mask:
    """Where (H, W) strands, if it is strands, leave a good part of a pixel open."""
    unlike = np.abs(1 - np.exp(np.minimum(evidence.tone - expected, 1))) + evidence.tint
    side = round(_COLOUR_AROUND * evidence.long_side) | 1
    return np.asarray(unlike < _HALF_COVERED * cv2.dilate(unlike, np.ones((side, side), np.uint8)))


def opened(evidence: Evidence, limits: Tolerances, product: Mask, expected: Plane, surface: Mask | None = None) -> Mask:
    """A product (H, W) of strands without the bare backdrop between them; `expected` is the tone of the backdrop there.

    With what is `surface` (H, W), what strands cover in part goes as well, as far as it is none.

    Where thin dark or bright structure is dense the watershed cannot follow every strand; it draws a line
    around them all. Highlights on metal and lines in glass look the same, and product would be lost.
    """
    bare = product & (_bare(evidence, limits, expected) | _in_deeper_shadow(evidence, limits, expected))
    strands = product & (evidence.thin > _STRAND_TONE)
    if not (bare.any() and strands.any()):
        return product
    side = round(0.016 * evidence.long_side) | 1
    dense = cv2.blur(strands.astype(np.float32), (side, side))
    inside = cv2.blur(product.astype(np.float32), (side, side))
    crowded = dense > _STRANDS_SHARE * np.maximum(inside, np.float32(0.05))
    bare &= crowded
    seen = _chained(bare, ~product, _SAID_CHAIN_PX if surface is None else _CHAIN_PX)
    bare &= seen
    if surface is not None:
        bare |= product & ~surface & crowded & near(seen, _IN_PART_PX) & half_covered(evidence, expected)
    return np.asarray(product & ~bare)


#: In a shadow (log units) the backdrop between strands may be so much lighter than what is seen of it around.
_IN_SHADOW, _LIGHTER = -0.1, 0.25


def _bare(evidence: Evidence, limits: Tolerances, expected: Plane) -> Mask:
    """Where (H, W) it is as bright and as neutral as the backdrop, or lies between its shadow and the light."""
    above = np.where(expected < _IN_SHADOW, np.minimum(_LIGHTER, -expected), 0) + limits.brighter
    off = evidence.tone - expected
    return np.asarray((evidence.tint < limits.tint) & (off > -limits.brighter) & (off < above))


#: Strands throw a shadow on what is between them: it may be so much darker than the backdrop around, where that lies in shadow
#: (log units), if the strands nearby are so much darker or of so much more colour, and nothing as neutral is lighter by so much.
_DEEPER, _UNLIKE_STRANDS, _AS_THE_LIGHTEST = 0.45, 0.4, 0.15
#: How far around strands are looked for, in parts of the long side.
_STRANDS_AROUND = 0.012


def _in_deeper_shadow(evidence: Evidence, limits: Tolerances, expected: Plane) -> Mask:
    """Where (H, W) something between strands is as neutral as backdrop in a shadow deeper than that around, and the lightest."""
    shaded = expected < _IN_SHADOW
    if not shaded.any():
        return np.asarray(shaded)
    tone, tint = evidence.tone, evidence.tint
    neutral = tint < limits.tint
    around = np.ones((round(_STRANDS_AROUND * evidence.long_side) | 1,) * 2, np.uint8)
    unlike = np.maximum(tone - cv2.erode(tone, around), cv2.dilate(tint, around) - tint)
    lightest = cv2.dilate(np.where(neutral, tone, np.float32(-9)), around)
    deeper = shaded & neutral & (tone > expected - _DEEPER) & (tone < expected) & (unlike > _UNLIKE_STRANDS)
    return np.asarray(deeper & (tone > lightest - _AS_THE_LIGHTEST))


def _chained(bare: Mask, outside: Mask, reach: int) -> Mask:
    """What is outside, and the bare backdrop (H, W) that hangs together with it over steps of twice the reach at most."""
    seen = bare | outside
    return seen & hanging_together(cv2.dilate(seen.astype(np.uint8), disc(reach)), outside, 8)


#: A surface of another colour is so broad at least, and goes on so much farther; both are radii in proxy pixels.
_COLOURED_PX, _GROWN_PX = 2, 2
#: One of the colour of strands is as even (log units a pixel), as broad everywhere (radius) and as large (proxy pixels).
_EVEN, _EVEN_PX, _LARGE = 0.05, 3, 300
#: The seams between surfaces are narrower than twice this, in proxy pixels.
_SEAM_PX = 3


def surfaces(evidence: Evidence, limits: Tolerances, product: Mask, expected: Plane) -> Mask:
    """Where (H, W) a product among strands is covered wholly, whatever its colour: it has another one, or is even and large.

    A face behind hair is as light as hair that covers half of a pixel. `expected` is the tone of the backdrop there.
    """
    coloured = product & (off_line(evidence, expected) > _OFF_LINE + 3 * evidence.noise)
    even = product & (evidence.step < _EVEN + 2 * evidence.noise) & ~_bare(evidence, limits, expected)
    broad = cv2.morphologyEx(coloured.astype(np.uint8), cv2.MORPH_OPEN, disc(_COLOURED_PX))
    large = _large(cv2.morphologyEx(even.astype(np.uint8), cv2.MORPH_OPEN, disc(_EVEN_PX)))
    grown = cv2.dilate(cv2.bitwise_or(broad, large), disc(_GROWN_PX))
    return np.asarray((cv2.morphologyEx(grown, cv2.MORPH_CLOSE, disc(_SEAM_PX)) > 0) & product)


#: What is like backdrop, by looser tolerances, is a surface all the same where it was not reached and is so broad (radius).
_LOOSE_MATCH, _UNREACHED_PX = 25, 3
#: Such a part of what is beside it is no product: it is where strands end.
_AT_THE_END = 0.08


def unreached(evidence: Evidence, inside: Mask, product: Mask, expected: Plane) -> Mask:
    """Places (H, W) in what is `inside` still, once it is open between strands, that are as light as the backdrop: white product.

    From strand to strand the backdrop is reached from outside; the white of an eye is not. A place that ends where the `product`
    (H, W) does is a gap that nothing was seen across. `expected` is the tone of the backdrop there.
    """
    limits = Tolerances.of(_LOOSE_MATCH, evidence.noise, evidence.long_side)
    white = (inside & _bare(evidence, limits, expected)).astype(np.uint8)
    broad = cv2.morphologyEx(white, cv2.MORPH_OPEN, disc(_UNREACHED_PX)) > 0
    if not broad.any():
        return broad
    labels, _ = components(white, 8)
    broad &= all_of(labels, beside(labels, ~product) < _AT_THE_END)
    return np.asarray((cv2.dilate(broad.astype(np.uint8), disc(_GROWN_PX)) > 0) & inside)


def _large(places: np.ndarray) -> np.ndarray:
    """What of some places (h, w) of 0 and 1 hangs together over many pixels."""
    labels, stats = components(places, 8)
    return all_of(labels, stats[:, cv2.CC_STAT_AREA] >= _LARGE).view(np.uint8)
