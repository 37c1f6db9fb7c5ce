"""Product colour read straight inwards from a pixel near the outline, in linear light.

So a dark stripe that meets the outline says nothing of the pale one beside it, nor does a corner of one side.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.compiled import compiled

#: What is read is product for sure from so far inside of the outline on (proxy pixels).
_INSIDE_PX = 1.0
#: After three pixels it is read on as long as it gets by so much more unlike the backdrop (squared).
_GROWS = 1.4


@compiled
def inwards(signed: Plane, y: int, x: int) -> tuple[float, float]:
    """The way into the product at a pixel: a unit vector down and across (Sobel; on the plane's rim the rim goes on)."""
    above, below = max(y - 1, 0), min(y + 1, signed.shape[0] - 1)
    left, right = max(x - 1, 0), min(x + 1, signed.shape[1] - 1)
    falling, rising = signed[below, right] - signed[above, left], signed[above, right] - signed[below, left]
    across = falling + rising + 2 * (signed[y, right] - signed[y, left])
    down = falling - rising + 2 * (signed[below, x] - signed[above, x])
    length = max(np.sqrt(across * across + down * down), 1e-6)
    return down / length, across / length


@compiled
def unlike_backdrop(
    frame: LinearRGB, backdrop: LinearRGB, shadow: Plane, gain: tuple[float, float, float], y: int, x: int
) -> np.float32:
    """Squared difference of a pixel from its backdrop, summed over the channels, relative to the backdrop's level."""
    level = away = np.float32(0)
    for c in range(3):
        behind = backdrop[y, x, c] * shadow[y, x] * np.float32(gain[c])
        level += behind / np.float32(3)
        away += (frame[y, x, c] - behind) ** 2
    level = max(level, np.float32(0.01))
    return away / (level * level)


@compiled
def read_inwards(
    frame: LinearRGB,
    backdrop: LinearRGB,
    shadow: Plane,
    gain: tuple[float, float, float],
    signed: Plane,
    y: int,
    x: int,
    begin: float,
    pixels: int,
    own: NDArray[np.float32],
) -> bool:
    """Mean colour of up to so many `pixels`, the first `begin` pixels inwards, into `own` (3,); False if none is product.

    Each weighs by the square of its squared difference from the backdrop: the purest leads.

    Parameters
    ----------
    frame, backdrop, shadow, gain, signed
        As in `own_colour`.
    y, x
        The pixel.
    """
    height, width = signed.shape
    down, across = inwards(signed, y, x)
    total = most = np.float32(0)
    own[:] = 0
    for i in range(pixels):
        far = begin + i
        there_y, there_x = int(np.rint(y + down * far)), int(np.rint(x + across * far))
        if min(there_y, there_x) < 0 or there_y >= height or there_x >= width or signed[there_y, there_x] < _INSIDE_PX:
            continue
        unlike = unlike_backdrop(frame, backdrop, shadow, gain, there_y, there_x)
        weight = unlike * unlike + np.float32(1e-5)
        total += weight
        for c in range(3):
            own[c] += weight * frame[there_y, there_x, c]
        if i > 1 and unlike < np.float32(_GROWS) * most:
            break
        most = max(most, unlike)
    if total <= 0:
        return False
    for c in range(3):
        own[c] /= total
    return True
