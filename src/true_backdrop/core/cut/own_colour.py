"""The product's own colour along its outline: what a mixed pixel is unmixed with."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.colour_around import MARGIN, WIDE, among_strands, mean_around
from true_backdrop.core.cut.inwards import read_inwards
from true_backdrop.core.picture import Region
from true_backdrop.core.side_by_side import in_halves

#: Straight inwards colour is read from so far inside of the outline on (proxy pixels), from so many pixels.
_FROM_PX, _PIXELS = 0.8, 3
#: So far around a wide band colour is taken from, in proxy pixels.
_AROUND = 64


def own_colour(
    frame: LinearRGB, backdrop: LinearRGB, light: tuple[Plane, tuple[float, float, float]], signed: Plane, band: Plane
) -> LinearRGB:
    """The frame's colour straight inwards from each pixel; in a wide band, where strands are, its local mean around.

    Both lean to what is most unlike the backdrop: so the purest product colour nearby leads.

    Parameters
    ----------
    frame, backdrop
        (H, W, 3) linear light, the backdrop as shot.
    light
        The shadow (H, W) and the gain of each channel, which together bring the backdrop to the frame's light.
    signed, band
        (H, W) distance to the outline and half width of the unknown band, in pixels.

    Returns
    -------
    (H, W, 3) linear light, within the band and two pixels around it; 0 elsewhere.
    """
    shadow, gain = light
    read, colour = np.zeros((*signed.shape, 4), np.float32), np.zeros(frame.shape, np.float32)
    in_halves(lambda begin, end: _read(frame, backdrop, shadow, gain, signed, band, begin, end, read), len(signed))
    _mean_of_neighbours(read, colour)
    wide = _wide_part(signed, band)
    if wide is not None:
        part = wide.slices
        among_strands(frame[part], backdrop[part], (shadow[part], gain), signed[part], band[part], colour[part])
    return colour


def _wide_part(signed: Plane, band: Plane) -> Region | None:
    """Where the band is wide, and as much around it as matters for continuing colour; None where it never is."""
    wide = ((band > WIDE[0]) & (np.abs(signed) < band)).astype(np.uint8)
    left, top, across, down = cv2.boundingRect(wide)
    return Region(top, left, top + down, left + across).grown(_AROUND, *band.shape) if across else None


@compiled
def _read(
    frame: LinearRGB,
    backdrop: LinearRGB,
    shadow: Plane,
    gain: tuple[float, float, float],
    signed: Plane,
    band: Plane,
    begin_row: int,
    end_row: int,
    read: NDArray[np.float32],
) -> None:
    """The colour straight inwards of each pixel in and around a band that is not wide, and 1 where there is any: (H, W, 4).

    Of some rows only.
    """
    own = np.empty(3, np.float32)
    width = signed.shape[1]
    for y in range(begin_row, end_row):
        for x in range(width):
            if abs(signed[y, x]) > band[y, x] + np.float32(MARGIN) or band[y, x] > np.float32(WIDE[0]):
                continue
            begin = max(_FROM_PX - signed[y, x], 0.0)
            found = read_inwards(frame, backdrop, shadow, gain, signed, y, x, begin, _PIXELS, own)
            # Beside a tip or a thread no pixel straight inwards is product for sure.
            if found or mean_around(frame, backdrop, shadow, gain, signed, band, y, x, own):
                read[y, x, 0], read[y, x, 1], read[y, x, 2], read[y, x, 3] = own[0], own[1], own[2], 1


@compiled
def _mean_of_neighbours(read: NDArray[np.float32], colour: LinearRGB) -> None:
    """Mean of three by three pixels, as far as they are read, into `colour` (H, W, 3)."""
    height, width = colour.shape[:2]
    for y in range(height):
        for x in range(width):
            if read[y, x, 3] == 0:
                continue
            red = green = blue = count = np.float32(0)
            for i in range(max(y - 1, 0), min(y + 2, height)):
                for j in range(max(x - 1, 0), min(x + 2, width)):
                    red += read[i, j, 0]
                    green += read[i, j, 1]
                    blue += read[i, j, 2]
                    count += read[i, j, 3]
            colour[y, x, 0], colour[y, x, 1], colour[y, x, 2] = red / count, green / count, blue / count
