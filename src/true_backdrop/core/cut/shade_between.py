"""The light that is left between strands, read off pixels that have none of the strands' colour.

Strands throw their shadow on what is between them, and where they touch the table it is darkest; nothing seen outside of them
tells how dark. But a shadow dims the backdrop's light and adds no colour, so what has none is backdrop, however dark it is.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_mean, doubled, halved, squared_length
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.picture import Region

#: From so wide on (proxy pixels) a band is one of strands.
_WIDE = 3.0
#: Strands have a colour from and to such a deviation of their channels (parts of the backdrop's light), and from so many times
#: the noise on; that of the purest within so many pixels counts.
_COLOURED, _COLOURED_NOISE, _COLOUR_PX = (0.02, 0.06), 1.2, 25
#: Up to such a share of the strands' light in a pixel the rest is read off it, and what counts so much may be the lightest.
_SHARE, _COUNTS = 0.3, 0.1
#: Nothing between strands is so much darker or lighter than the shadow that is seen around (log units).
_DARKER, _LIGHTER = 0.7, 0.2
#: What is so much darker than the lightest within so many pixels is not read off, in log units and in multiples of the noise:
#: strands cover it in part. A shadow is even, as they are not: one that deviates so little, in parts of its light and in
#: multiples of the noise, may be so much darker.
_BELOW, _BELOW_NOISE, _AROUND_PX, _EVEN, _EVEN_NOISE, _EVEN_BELOW = 0.12, 3.0, 9, 0.045, 1.0, 0.4
#: So far from the product (proxy pixels) the shadow that is seen is not mixed with anything; what is read off is smoothed by so
#: much (sigma).
_SEEN_PX, _SMOOTH_PX = 5, 2.5
#: So many pixels around the band are looked at.
_MARGIN_PX = 12


def shade_between(
    frame: LinearRGB,
    backdrop: LinearRGB,
    reaching: tuple[Plane, tuple[float, float, float]],
    signed: Plane,
    band: Plane,
    colour: LinearRGB,
    bare: Mask,
    noise: float,
) -> Plane | None:
    """The light that reaches the backdrop (h, w), as in `Outline`, with what is read off between strands; None where nothing is.

    Parameters are as in `own_colour`, with the `colour` that it found, what is `bare` of product (h, w), and the noise of the
    backdrop, relative. A pixel's light is u times the strands' colour and v times the backdrop's (as in veil.py); where u is
    small v / (1 - u) is the light that is left.
    """
    shadow, gain = reaching
    wide = (band > _WIDE) & (np.abs(signed) < band)
    left, top, across, down = cv2.boundingRect(wide.view(np.uint8))
    if not across:
        return None
    here = Region(top, left, top + down, left + across).grown(_MARGIN_PX, *shadow.shape).slices
    wide = wide[here] & (cv2.erode(bare[here].view(np.uint8), disc(_SEEN_PX), borderValue=1) == 0)
    behind = np.maximum(backdrop[here] * np.asarray(gain, np.float32), np.float32(1e-3))
    light, own = (np.asarray(each[here] / behind, np.float32) for each in (frame, colour))
    off, weight = _read_off(light, own, wide, shadow[here], noise)
    if not weight.any():
        return None
    total = cv2.GaussianBlur(off * weight, (0, 0), _SMOOTH_PX)
    part = np.asarray(cv2.GaussianBlur(weight, (0, 0), _SMOOTH_PX), np.float32)
    known = np.asarray(total / np.maximum(part, np.float32(1e-4)), np.float32)
    change = doubled(spread(halved(known), halved(part)), (int(part.shape[0]), int(part.shape[1])))
    found = shadow.copy()
    found[here][wide] *= np.exp(change[wide])
    return found


def _read_off(light: LinearRGB, own: LinearRGB, wide: Mask, shadow: Plane, noise: float) -> tuple[Plane, Plane]:
    """How far the light that is left is off a shadow (log units), and what that counts, (h, w) each.

    `light` and the strands' `own` colour (h, w, 3) are parts of the backdrop's light; what counts lies in what is `wide` (h, w).
    """
    tone, side = channel_mean(light), (_COLOUR_PX, _COLOUR_PX)
    pure = np.maximum(squared_length(own) - 3 * channel_mean(own) ** 2, 0) * wide
    own = cv2.blur(own * pure[..., None], side) / np.maximum(cv2.blur(pure, side), np.float32(1e-9))[..., None]
    level = channel_mean(own)
    hue = own - level[..., None]
    colour = squared_length(hue)
    # The hue's channels add up to nothing, so the tone drops out.
    share = np.clip(3 * channel_mean(light * hue) / np.maximum(colour, np.float32(1e-6)), 0, 1)
    rest = (tone - share * level) / np.maximum(1 - share, np.float32(0.5))
    off = np.asarray(np.log(np.maximum(rest, np.float32(1e-3)) / shadow), np.float32)
    told = (np.sqrt(colour / 3) - max(_COLOURED[0], _COLOURED_NOISE * noise)) / (_COLOURED[1] - _COLOURED[0])
    weight = np.clip(told, 0, 1) * np.clip(1 - share / _SHARE, 0, 1) ** 2
    weight *= wide & (off > -_DARKER) & (off < _LIGHTER)
    lightest = cv2.dilate(np.where(weight > _COUNTS, off, np.float32(-_DARKER)), np.ones((_AROUND_PX, _AROUND_PX), np.uint8))
    below = np.where(_uneven(tone) < _EVEN + _EVEN_NOISE * noise, _EVEN_BELOW, _BELOW) + _BELOW_NOISE * noise
    weight *= off > lightest - below
    return np.where(wide, off, np.float32(0)), np.asarray(weight, np.float32)


def _uneven(tone: Plane) -> Plane:
    """Standard deviation over three by three pixels, in parts of their mean (h, w)."""
    mean, square = cv2.blur(tone, (3, 3)), cv2.blur(tone * tone, (3, 3))
    return np.asarray(np.sqrt(np.maximum(square - mean * mean, 0)) / np.maximum(mean, np.float32(0.05)), np.float32)
