"""Glass: what shines through it belongs to the backdrop, and goes with it."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Alpha, LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_max, channel_mean, channel_min
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.components import hanging_together
from true_backdrop.core.cut.masks import median
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import ClearSettings

#: Glass that stops so much light is solid, at sensitivity 0 and 1.
_SOLID_FROM = (0.25, 0.85)
#: So much colour (log units between channels) glass may give, at sensitivity 0 and 1; brass gives more.
_TINTED = (0.08, 0.5)
#: Less opacity than this is not seen, and not told from noise.
_LEAST_SEEN = 0.025
#: So much of a pixel's noise (standard deviations) is taken off; on composites of glass more took reflections with it.
_NOISE_SIGMAS = 1.0
#: Sigma of the smoothing at full strength, and the smallest clear place, in parts of the long side.
_SMOOTH, _SMALLEST = 0.004, 0.006


def clear_parts(
    aligned: Aligned, shadow: Plane, product: Mask, settings: ClearSettings, within: Mask | None = None
) -> Plane | None:
    """Where the product (H, W) is clear, 0..1; None when nowhere.

    Rims and everything that stops the light of the backdrop stay solid; with `within` (H, W) all that lies away from it, too.
    """
    behind = aligned.backdrop * np.asarray(aligned.gain, np.float32) * shadow[..., None]
    stops = channel_max(np.asarray(least_alpha(aligned.frame, behind), np.float32))
    low, high = _SOLID_FROM
    long_side = max(product.shape)
    side = max(3, round(_SMALLEST * long_side)) | 1
    calm = np.asarray(cv2.medianBlur(stops, 5), np.float32)
    most_tint = _TINTED[0] + (_TINTED[1] - _TINTED[0]) * settings.sensitivity
    ratio = cv2.GaussianBlur(aligned.log_ratio, (0, 0), 1.0)
    tint = channel_max(np.asarray(ratio, np.float32)) - channel_min(np.asarray(ratio, np.float32))
    clear = product & (calm < low + (high - low) * settings.sensitivity) & (tint < most_tint)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    if within is not None:
        clear &= within_reach(within, side) | _goes_on(clear, within, calm, _FAR * side)
    opened = cv2.morphologyEx(clear.astype(np.uint8), cv2.MORPH_OPEN, kernel)
    # An opening stops short of rims: glass goes on to them.
    opened = cv2.dilate(opened, kernel) & clear.astype(np.uint8)
    # Highlights lie on glass: what is bright and between clear parts is closed; dark rims and wires are not.
    bright = channel_mean(np.asarray(ratio, np.float32)) > 0
    closed = cv2.morphologyEx(opened, cv2.MORPH_CLOSE, kernel, iterations=2)
    opened = np.maximum(opened, closed * (product & bright & (tint < most_tint)))
    if not opened.any():
        return None
    sigma = max(0.7, _SMOOTH * settings.smoothing * long_side)
    soft, there = (np.asarray(cv2.GaussianBlur(mask.astype(np.float32), (0, 0), sigma), np.float32) for mask in (opened, product))
    # Away from solid parts only: those stay so to their edge, and glass goes on to its own.
    return np.asarray(np.clip(2 * soft / np.maximum(there, np.float32(1e-3)) - 1, 0, 1) * (there > 0.02), np.float32)


#: From where glass was told it goes on so far (in sides of its smallest place), as far as it stops as much light (to this).
_FAR, _AS_MUCH = 8, 0.03


def _goes_on(clear: Mask, within: Mask, stops: Plane, by: int) -> Mask:
    """What of clear pixels (H, W) hangs together with the places told to be glass, and stops as much light as those do."""
    told = stops[within & clear]
    if told.size == 0:
        return np.zeros_like(clear)
    like = clear & (np.abs(stops - median(told)) < _AS_MUCH)
    left, top, width, height = cv2.boundingRect(within.astype(np.uint8))
    box = Region(top, left, top + height, left + width).grown(by, *clear.shape).slices
    found = np.zeros_like(clear)
    found[box] = hanging_together(like[box], within[box], 4)
    return found


def within_reach(places: Mask, by: int) -> Mask:
    """Places (H, W) and what is at most so many pixels away."""
    return np.asarray(cv2.dilate(places.astype(np.uint8), np.ones((2 * by + 1,) * 2, np.uint8)) > 0)


def least_alpha(frame: LinearRGB, behind: LinearRGB) -> LinearRGB:
    """For each channel the smallest opacity with which some colour in 0..1 over `behind` gives the frame, (H, W, 3)."""
    darker = (behind - frame) / np.maximum(behind, np.float32(1e-3))
    lighter = (frame - behind) / np.maximum(1 - behind, np.float32(1e-3))
    return np.asarray(np.clip(np.maximum(darker, lighter), 0, 1), np.float32)


#: What is off the backdrop is evened out so far around (pixels); what varies by more than so many times the noise is kept.
CALM_PX, _KEPT_SIGMAS = 4, 3.0


def calm_light(shot: LinearRGB, behind: LinearRGB, noise: float) -> LinearRGB:
    """The light (h, w, 3) of glass without its noise, which a bright backdrop makes many times as large in the opacity.

    What is off the backdrop behind it is filtered with itself as the guide (He et al. 2010), so that reflections and rims stay.
    `noise` is that of a pixel over the backdrop, relative.
    """
    off, size = shot - behind, (2 * CALM_PX + 1,) * 2
    mean = cv2.blur(off, size)
    spread = np.maximum(cv2.blur(off * off, size) - mean * mean, 0)
    kept = spread / (spread + (np.float32(_KEPT_SIGMAS * noise) * behind) ** 2 + np.float32(1e-9))
    return np.asarray(behind + cv2.blur(kept, size) * off + cv2.blur((1 - kept) * mean, size), np.float32)


#: Where opacity falls by so much (from, to) from a rim to the glass beside it, the light itself says where the one ends.
_RIM = (0.25, 0.45)
#: Glass so far, and no further, is clear for sure; its highlights are its own.
_WHOLLY = 0.98


def up_to_rims(clear: Plane, calm: LinearRGB, behind: LinearRGB, alpha: Alpha, reach: int) -> Plane:
    """How far each pixel of a tile is clear, (h, w), sharp where glass meets a rim.

    `clear` (h, w) was found on the proxy and ends softly. Up to `reach` pixels beside it a pixel that lies between glass and rim
    in the least opacity that gives its light is as solid as that says. At the product's own edge `alpha` says it already.
    """
    least = channel_max(least_alpha(calm, behind))
    kernel = np.ones((2 * reach + 1,) * 2, np.uint8)
    high, low, beside = cv2.dilate(least, kernel), cv2.erode(least, kernel), cv2.dilate(clear, kernel)
    rim = np.clip((high - low - _RIM[0]) / (_RIM[1] - _RIM[0]), 0, 1)
    sharp = (high - least) / np.maximum(high - low, np.float32(1e-3))
    asked = (beside > 0.5) & (clear < _WHOLLY) & (alpha > 0.99)
    return np.asarray(np.where(asked, clear + rim * (sharp - clear), clear), np.float32)


@compiled
def see_through(
    shot: LinearRGB,
    calm: LinearRGB,
    behind: LinearRGB,
    clear: Plane,
    stopped: Plane,
    opacity: float,
    noise: float,
    alpha: Alpha,
    colour: LinearRGB,
) -> None:
    """Change alpha (h, w) and straight colour (h, w, 3) of a tile where `clear` (h, w) is more than 0.

    I = a F + (1 - a) B has a solution for every a from the least one on; the least is the clearest, and what is left of
    the light is reflection and tint. `behind` (h, w, 3) is B with its shadow, `calm` the light without its noise (`calm_light`),
    which counts for as much as shines through; `noise` is that of a pixel over B, relative. Where the backdrop's grain told how
    much of its light is `stopped` (h, w), that is the least.
    """
    floor = max(_LEAST_SEEN, _NOISE_SIGMAS * noise)
    for y in range(alpha.shape[0]):
        for x in range(alpha.shape[1]):
            if clear[y, x] <= 0 or alpha[y, x] <= 0:
                continue
            least = 0.0
            for c in range(3):
                b = behind[y, x, c]
                off = calm[y, x, c] - b
                share = -off / max(b, 1e-3) if off < 0 else off / max(1 - b, 1e-3)
                least = max(least, share)
            # What noise alone makes of it is none; so much less all the way up, that nothing steps.
            least = min(max((least - floor) / (1 - floor), stopped[y, x]), 1.0)
            wanted = least + opacity * (1 - least)
            through = alpha[y, x] * (1 - clear[y, x] * (1 - wanted))
            a = min(alpha[y, x], max(through, least))
            alpha[y, x] = a
            for c in range(3):
                if a > 0:
                    light = calm[y, x, c] + a * (shot[y, x, c] - calm[y, x, c])
                    colour[y, x, c] = min(max((light - (1 - a) * behind[y, x, c]) / max(a, 1e-3), 0.0), 1.0)
