"""Product over a ground, painted tile by tile; squares; sharpening."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from true_backdrop.core.arrays import Alpha, EncodedRGB, LinearRGB, Plane
from true_backdrop.core.channels import channel_min
from true_backdrop.core.colour import code_of
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.edge import BacklitLight, Behind, Light, View, cut_tiles, tile_rows
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.picture import Region
from true_backdrop.core.side_by_side import in_halves

#: The ground under a tile: (h, w) neutral light, (h, w, 3), one colour (1, 1, 3), or None for white.
Ground = Callable[[Region], Plane | LinearRGB | None]


def paint(
    frame: Light, backdrop: Behind, outline: Outline, view: View, ground: Ground, backlit: BacklitLight | None = None
) -> EncodedRGB:
    """What a view shows, cut and laid over a ground: (h, w, 3) sRGB, exact white where only white ground is."""
    shown = np.full((*view.shape, 3), 255, np.uint8)

    def lay(begin: int, end: int) -> None:
        for part in cut_tiles(frame, backdrop, outline, view, backlit, rows=(begin, end)):
            below = None if part.surely == 1 else ground(part.tile)
            if part.surely != 0 or below is not None:
                lay_over(part.colour, part.alpha, _WHITE if below is None else np.atleast_3d(below), shown[part.tile.slices])

    in_halves(lay, tile_rows(view))
    return shown


_WHITE = np.ones((1, 1, 1), np.float32)
#: Values from here on, on all channels, are meant as white where no product is.
NEARLY_WHITE = 252


@compiled
def lay_over(colour: LinearRGB, alpha: Alpha, ground: LinearRGB, out: EncodedRGB) -> None:
    """Straight product colour (h, w, 3) over a ground, in linear light, as sRGB into `out` (h, w, 3).

    Porter and Duff (1984), operator OVER. Exactly the ground where alpha is 0, the colour where it is 1.

    `colour`, `alpha` (h, w) and `ground` may be of one pixel, which then counts for all; a `ground` of one channel
    is neutral. What is mostly backdrop and came
    out a hair below white becomes exactly (255, 255, 255): a step of three code values at most, below what is
    seen. The product's own highlights keep their values.
    """
    none, full = np.float32(0), np.float32(1)
    neutral, even = ground.shape[2] == 1, ground.shape[0] == 1 and ground.shape[1] == 1
    bare = np.empty(3, np.uint8)
    for c in range(3):
        bare[c] = code_of(ground[0, 0, 0 if neutral else c])
    for y in range(out.shape[0]):
        ay, cy, gy = min(y, alpha.shape[0] - 1), min(y, colour.shape[0] - 1), min(y, ground.shape[0] - 1)
        for x in range(out.shape[1]):
            a = alpha[ay, min(x, alpha.shape[1] - 1)]
            cx, gx = min(x, colour.shape[1] - 1), min(x, ground.shape[1] - 1)
            for c in range(3):
                if a >= full:
                    out[y, x, c] = code_of(colour[cy, cx, c])
                elif a <= none and even:
                    out[y, x, c] = bare[c]
                else:
                    below = ground[gy, gx, 0 if neutral else c]
                    out[y, x, c] = code_of(below + a * (colour[cy, cx, c] - below))
            if a < HALF and (a > none or neutral) and min(out[y, x, 0], out[y, x, 1], out[y, x, 2]) >= NEARLY_WHITE:
                for c in range(3):
                    out[y, x, c] = 255


HALF = np.float32(0.5)


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


#: Nearer than this (pixels) to something plainly darker than `WHITE_ENOUGH` a faint pixel belongs to it.
_BESIDE_PX = 5
WHITE_ENOUGH = 245


def white_away_from_product(pixels: EncodedRGB) -> EncodedRGB:
    """On white ground without a shadow: what is nearly white and beside nothing darker becomes (255, 255, 255), in place.

    Such are the faintest parts of clear glass, and of paper that was not quite even.
    """
    darkest = channel_min(pixels)
    dark = cv2.morphologyEx((darkest < WHITE_ENOUGH).astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    beside = cv2.dilate(dark, np.ones((2 * _BESIDE_PX + 1, 2 * _BESIDE_PX + 1), np.uint8)) > 0
    pixels[(darkest < 255) & ~beside] = 255
    return pixels
