"""What speaks for product at each pixel of the proxy: colour, step, thinness, depth of tone."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Plane
from true_backdrop.core.cut.align import Aligned, brightness


@dataclass(frozen=True, slots=True)
class Evidence:
    """Planes (H, W) of one proxy, none of which depends on a setting.

    tone       smoothed log brightness against the backdrop; 0 backdrop, negative darker
    tint       how far the colour of the ratio is from neutral, in log units. A shadow is neutral.
    step       largest change over one pixel, in log units; soft shadows stay small
    thin       how much darker or brighter than everything a few pixels around; shadows are never thin
    noise      standard deviation that the backdrop's own noise gives to `tone`
    """

    tone: Plane
    tint: Plane
    step: Plane
    thin: Plane
    noise: float
    watershed_relief: np.ndarray


#: Gaussian sigma before differences are taken, in proxy pixels.
SMOOTHING_PX = 0.9
#: A shadow has no detail narrower than this, in parts of the proxy's long side.
THIN_OF_SIDE = 0.011


def gather(aligned: Aligned) -> Evidence:
    """All evidence for a proxy. About ten passes of simple filters."""
    smooth = np.asarray(cv2.GaussianBlur(aligned.log_ratio, (0, 0), SMOOTHING_PX), np.float32)
    tone = brightness(smooth)
    tint = _tint(smooth)
    step = _step(smooth)
    side = max(3, round(THIN_OF_SIDE * max(tone.shape))) | 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    bounded = np.maximum(tone, -2.0)
    dark = cv2.morphologyEx(bounded, cv2.MORPH_CLOSE, kernel) - bounded
    bright = bounded - cv2.morphologyEx(bounded, cv2.MORPH_OPEN, kernel)
    noise = aligned.noise / (2 * np.sqrt(np.pi) * SMOOTHING_PX)  # of a white noise after that Gaussian
    # Not the logarithm: the ratio itself is steepest where the pixel is half covered.
    ratio = cv2.GaussianBlur(cv2.exp(aligned.log_ratio), (0, 0), 0.7)
    relief = np.clip(210 * np.asarray(ratio), 0, 255).astype(np.uint8)
    return Evidence(tone, tint, step, np.maximum(dark, bright), float(noise), relief)


def _tint(smooth: np.ndarray) -> Plane:
    red_green = smooth[..., 0] - smooth[..., 1]
    blue_green = smooth[..., 2] - smooth[..., 1]
    return np.asarray(cv2.magnitude(red_green, blue_green), dtype=np.float32)


def _step(smooth: np.ndarray) -> Plane:
    """Length of the gradient, the largest of the channels (central differences)."""
    bounded = np.maximum(smooth, -2.5)
    across = cv2.Sobel(bounded, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8)
    down = cv2.Sobel(bounded, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8)
    length = cv2.magnitude(across.reshape(-1), down.reshape(-1)).reshape(smooth.shape)
    red, green, blue = cv2.split(length)
    return np.asarray(cv2.max(cv2.max(red, green), blue), dtype=np.float32)
