"""Product over a ground, painted tile by tile; squares; sharpening."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, EncodedRGB, LinearRGB, Plane
from true_backdrop.core.channels import channel_min
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.edge import CutTile, Light, View, cut_tiles
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.picture import Region

#: The ground under a tile: (h, w) neutral light, (h, w, 3), one colour (1, 1, 3), or None for white.
Ground = Callable[[Region], Plane | LinearRGB | None]


def over(foreground: LinearRGB, alpha: Alpha, ground: LinearRGB | Plane) -> LinearRGB:
    """Straight-alpha foreground over a ground, in linear light (Porter and Duff 1984, operator OVER).

    `ground` is (h, w, 3), or (h, w) for a neutral one. Exactly the ground where alpha is 0, exactly the
    foreground where it is 1.
    """
    a = alpha[..., None]
    below = ground[..., None] if ground.ndim == 2 else ground
    return np.asarray(foreground * a + below * (1 - a), dtype=np.float32)


def paint(frame: Light, backdrop: Light, outline: Outline, view: View, ground: Ground) -> EncodedRGB:
    """What a view shows, cut and laid over a ground: (h, w, 3) sRGB, exact white where only white ground is."""
    shown = np.full((*view.shape, 3), 255, np.uint8)
    for part in cut_tiles(frame, backdrop, outline, view):
        here = shown[part.tile.slices]
        if isinstance(part.alpha, float):
            below = None if part.alpha == 1 else ground(part.tile)
            if part.alpha == 1:
                here[:] = encode_pixels(frame(part.tile))
            elif below is not None:
                here[:] = _bare(below)
            continue
        below = ground(part.tile)
        pixels = encode_pixels(frame(part.tile))
        bare = np.empty_like(pixels)
        bare[:] = 255 if below is None else _bare(below)
        here[:] = cv2.copyTo(bare, (part.alpha == 0).astype(np.uint8), pixels)
        if part.unknown is not None:
            here[part.unknown] = _mixed(part, below)
    return shown


def _mixed(part: CutTile, ground: Plane | LinearRGB | None) -> NDArray[np.uint8]:
    """The pixels along the outline (N, 3), laid over their ground."""
    assert isinstance(part.alpha, np.ndarray) and part.unknown is not None
    alpha = part.alpha[part.unknown]
    if ground is None:
        below = np.ones((1, 1), np.float32)
    elif ground.ndim == 3:
        below = ground.reshape(-1, 3) if ground.shape[:2] == (1, 1) else ground[part.unknown]
    else:
        below = ground[part.unknown][:, None]
    # A row of pixels is a picture one pixel high.
    mixed = exact_white(encode_pixels(over(part.colour[None], alpha[None], below[None])), alpha[None])
    return np.asarray(mixed[0], np.uint8)


def _bare(ground: Plane | LinearRGB) -> EncodedRGB:
    """A piece of ground with nothing on it, as pixels that can be assigned to a tile (h, w, 3)."""
    encoded = encode_pixels(ground)
    if ground.ndim == 3:
        return encoded
    encoded[encoded >= NEARLY_WHITE] = 255
    return encoded[..., None]


def on_square(part: EncodedRGB, offset: tuple[int, int], side_px: int) -> EncodedRGB:
    """Add white canvas (255, 255, 255) around a part to make a square."""
    square = np.full((side_px, side_px, 3), 255, np.uint8)
    top, left = offset
    square[top : top + part.shape[0], left : left + part.shape[1]] = part
    return square


def unsharp_mask(pixels: EncodedRGB, amount: float, sigma_px: float) -> EncodedRGB:
    """Add `amount` times the difference to a Gaussian blur.

    Works on encoded values: equal steps there look equal, so light and dark edges gain alike. White ground
    stays exactly white, since it equals its own blur and values are clipped at 255.
    """
    if amount == 0:
        return pixels
    blurred = cv2.GaussianBlur(pixels, (0, 0), max(0.4, sigma_px))
    return np.asarray(cv2.addWeighted(pixels, 1 + amount, blurred, -amount, 0), dtype=np.uint8)


#: Lone spots up to this part of the square's side across are grains of the backdrop, not product;
SPECK_OF_SIDE = 0.002
#: so are larger ones, if they are so faint.
FAINT_SPOT_OF_SIDE = 0.006
FAINT = 235


def without_specks(pixels: EncodedRGB, side_px: int) -> EncodedRGB:
    """Lone spots on white ground, too small to be product, become white (255, 255, 255), in place."""
    darkest = channel_min(pixels)
    height, width = (length // 2 for length in darkest.shape)
    # What hangs together is found at half the size; a pixel there is shown if any of its four is.
    dark = 255 - darkest[: 2 * height, : 2 * width]
    shown = np.asarray(cv2.resize(np.minimum(dark, 1) * np.uint8(255), (width, height), interpolation=cv2.INTER_AREA)) > 0
    _, labels, stats, _ = cv2.connectedComponentsWithStats(shown.astype(np.uint8), connectivity=8)
    areas = stats[:, cv2.CC_STAT_AREA].copy()
    areas[0] = pixels.size
    speck = max(4, round((SPECK_OF_SIDE * side_px) ** 2))
    for label in np.flatnonzero(areas <= max(4, round((FAINT_SPOT_OF_SIDE * side_px) ** 2))):
        left, top, across, down, _ = stats[label]
        spot = np.repeat(np.repeat(labels[top : top + down, left : left + across] == label, 2, axis=0), 2, axis=1)
        here = slice(2 * top, 2 * (top + down)), slice(2 * left, 2 * (left + across))
        values = darkest[here][spot]
        if np.count_nonzero(values < 255) <= speck or values.min() >= FAINT:
            pixels[here][spot] = 255
    return pixels


#: Values from here on, on all channels, are meant as white where no product is.
NEARLY_WHITE = 252


def exact_white(pixels: EncodedRGB, alpha: Alpha) -> EncodedRGB:
    """Backdrop that came out a hair below white becomes exactly (255, 255, 255).

    Only where alpha says backdrop (below one half): the product's own highlights keep their values. The
    step of three code values at most is below what is seen.
    """
    snap = (channel_min(pixels) >= NEARLY_WHITE) & (alpha < 0.5)
    out = pixels.copy()
    out[snap] = 255
    return out
