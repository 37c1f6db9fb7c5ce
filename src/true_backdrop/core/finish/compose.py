"""Product over white ground, on a square, sharpened."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Alpha, EncodedRGB, LinearRGB, Plane
from true_backdrop.core.colour import encode_pixels


def over(foreground: LinearRGB, alpha: Alpha, ground: LinearRGB | Plane) -> LinearRGB:
    """Straight-alpha foreground over a ground, in linear light (Porter and Duff 1984, operator OVER).

    `ground` is (h, w, 3), or (h, w) for a neutral one. Exactly the ground where alpha is 0, exactly the
    foreground where it is 1.
    """
    a = alpha[..., None]
    below = ground[..., None] if ground.ndim == 2 else ground
    return np.asarray(foreground * a + below * (1 - a), dtype=np.float32)


def on_square(part: EncodedRGB, offset: tuple[int, int], side_px: int) -> EncodedRGB:
    """Add white canvas (255, 255, 255) around a part to make a square."""
    square = np.full((side_px, side_px, 3), 255, np.uint8)
    top, left = offset
    square[top : top + part.shape[0], left : left + part.shape[1]] = part
    return square


def unsharp_mask(pixels: EncodedRGB, amount: float, radius_of_side: float) -> EncodedRGB:
    """Add `amount` times the difference to a Gaussian blur of sigma `radius_of_side` times the longer side.

    Works on encoded values: equal steps there look equal, so light and dark edges gain alike. White ground
    stays exactly white, since it equals its own blur and values are clipped at 255.
    """
    if amount == 0:
        return pixels
    sigma = max(0.4, radius_of_side * max(pixels.shape[:2]))
    blurred = cv2.GaussianBlur(pixels, (0, 0), sigma)
    return np.asarray(cv2.addWeighted(pixels, 1 + amount, blurred, -amount, 0), dtype=np.uint8)


#: Values from here on, on all channels, are meant as white where no product is.
NEARLY_WHITE = 252


def exact_white(pixels: EncodedRGB, alpha: Alpha) -> EncodedRGB:
    """Backdrop that came out a hair below white becomes exactly (255, 255, 255).

    Only where alpha says backdrop (below one half): the product's own highlights keep their values. The
    step of three code values at most is below what is seen.
    """
    red, green, blue = cv2.split(pixels)
    snap = (cv2.min(cv2.min(red, green), blue) >= NEARLY_WHITE) & (alpha < 0.5)
    out = pixels.copy()
    out[snap] = 255
    return out


def encode_over(foreground: LinearRGB, alpha: Alpha, ground: LinearRGB | Plane) -> EncodedRGB:
    """`over`, as sRGB pixels."""
    return encode_pixels(over(foreground, alpha, ground))
