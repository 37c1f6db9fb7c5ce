"""What speaks for product at each pixel of the proxy: colour, step, thinness, depth of tone."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, Plane
from true_backdrop.core.channels import channel_max, channel_mean, rounded
from true_backdrop.core.cut.align import FLOOR, Aligned
from true_backdrop.core.cut.grain import Grain, along_rim
from true_backdrop.core.cut.paper import moments_along_rim, structure_along_rim
from true_backdrop.core.cut.transmission import BarePaper, bare_paper
from true_backdrop.core.picture import Region


@dataclass(frozen=True, slots=True)
class Evidence:
    """Planes (H, W) of one proxy, none of which depends on a setting.

    tone       smoothed log brightness against the backdrop; 0 backdrop, negative darker
    tint       how far the colour of the ratio is from neutral, in log units. A shadow is neutral.
    step       largest change over one pixel, in log units; soft shadows stay small
    thin       how much darker or brighter than everything a few pixels around; shadows are never thin
    relief     uint8, (H, W, 3): the ratio to the backdrop in steps of 1 / RELIEF_STEPS
    bare       log brightness of the backdrop frame, smoothed as `tone` is: its paper's own structure
    structure  how much of the paper's structure is seen again where the frame shows bare backdrop, 0 to 1 (paper.py)
    noise      standard deviation that the backdrop's own noise gives to `tone`
    long_side  of the whole proxy, also when this is a part of it
    grain      how its finest part is seen there, all light taken away (grain.py); None where it is not
    rounding   by so much (standard deviation) a coarse encoder moved the tone of whole places, 0 where none did
    paper      how much of the backdrop frame's structure is grain and how much noise (transmission.py); None without grain
    coloured   how far the backdrop frame is from grey as a whole, between its channels (log units)
    """

    tone: Plane
    tint: Plane
    step: Plane
    thin: Plane
    relief: EncodedRGB
    bare: Plane
    structure: float
    noise: float
    long_side: int
    grain: Grain | None = None
    rounding: float = 0.0
    paper: BarePaper | None = None
    coloured: float = 0.0

    @property
    def shape(self) -> tuple[int, int]:
        return int(self.tone.shape[0]), int(self.tone.shape[1])

    def part(self, where: tuple[slice, slice]) -> Evidence:
        """The same of a part of the proxy, in memory of its own: compiled loops are three times as fast on whole planes."""
        part = self.view(where)
        planes = part.tone, part.tint, part.step, part.thin, part.bare
        tone, tint, step, thin, bare = (np.ascontiguousarray(plane) for plane in planes)
        relief = np.ascontiguousarray(part.relief)
        return replace(self, tone=tone, tint=tint, step=step, thin=thin, bare=bare, relief=relief)

    def view(self, where: tuple[slice, slice]) -> Evidence:
        """The same of a part of the proxy, in this one's memory."""
        tone, tint, step, thin, bare = self.tone[where], self.tint[where], self.step[where], self.thin[where], self.bare[where]
        return replace(self, tone=tone, tint=tint, step=step, thin=thin, bare=bare, relief=self.relief[where])


def plainer(lit: Evidence, backlit: Evidence | None) -> Evidence:
    """What is seen in either light: the plainer step and the plainer thin detail of the two, all else of the first."""
    if backlit is None:
        return lit
    step, thin = cv2.max(lit.step, backlit.step), cv2.max(lit.thin, backlit.thin)
    return replace(lit, step=np.asarray(step, np.float32), thin=np.asarray(thin, np.float32))


#: Gaussian sigma before differences are taken, in proxy pixels.
SMOOTHING_PX = 0.9
#: A shadow has no detail narrower than this, in parts of the proxy's long side.
THIN_OF_SIDE = 0.011
#: Steps of `relief` for a ratio of 1.
RELIEF_STEPS = 210
#: Of the backdrop's colour as a whole every so many pixels say enough.
_EVERY = slice(None, None, 8)
#: 16-bit steps for one log unit.
_STEPS = 16000.0


def gather(aligned: Aligned, seen: Region | None = None) -> Evidence:
    """All evidence for a proxy. About ten passes of simple filters.

    `seen` is the part of it in which the frame is as shot, when a framing box has put backdrop in the place of the rest.
    """
    smooth = np.asarray(cv2.GaussianBlur(aligned.log_ratio, (0, 0), SMOOTHING_PX), np.float32)
    tone = channel_mean(smooth)
    tint = _tint(smooth)
    step = _step(smooth)
    side = max(3, round(THIN_OF_SIDE * max(tone.shape))) | 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    # As 16-bit steps, which OpenCV filters in half the time: from -2 to 2 log units.
    steps = rounded(tone + np.float32(2), _STEPS, cv2.CV_16U)
    dark = cv2.subtract(cv2.morphologyEx(steps, cv2.MORPH_CLOSE, kernel), steps)
    bright = cv2.subtract(steps, cv2.morphologyEx(steps, cv2.MORPH_OPEN, kernel))
    thin = np.asarray(cv2.max(dark, bright)) * np.float32(1 / _STEPS)
    noise = aligned.noise / (2 * np.sqrt(np.pi) * SMOOTHING_PX)  # of a white noise after that Gaussian
    # Not the logarithm: the ratio itself is steepest where the pixel is half covered.
    ratio = cv2.GaussianBlur(cv2.exp(aligned.log_ratio), (0, 0), 0.7)
    relief = rounded(np.asarray(ratio, np.float32), RELIEF_STEPS, cv2.CV_8U)
    level = cv2.log(cv2.add(channel_mean(aligned.backdrop), FLOOR))  # type: ignore[call-overload]
    bare = np.asarray(cv2.GaussianBlur(level, (0, 0), SMOOTHING_PX), np.float32)
    part = (slice(None), slice(None)) if seen is None else seen.slices
    along = moments_along_rim(tone[part], bare[part])
    structure = structure_along_rim(along)
    grain = along_rim(tone[part], bare[part])
    paper = None if grain is None else bare_paper(along)
    thin = np.asarray(thin, np.float32)
    channels = np.log(np.maximum(aligned.backdrop[_EVERY, _EVERY].mean(axis=(0, 1)), FLOOR))
    coloured = float(channels.max() - channels.min())
    known = (structure, float(noise), max(tone.shape), grain)
    return Evidence(tone, tint, step, thin, relief, bare, *known, paper=paper, coloured=coloured)


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
    return channel_max(np.asarray(length, np.float32))
