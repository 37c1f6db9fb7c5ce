"""Noise of single pixels of a frame at its own size: the proxy's is that of means of many."""

from __future__ import annotations

import numpy as np

from true_backdrop.core.cut.align import BARE, FLOOR, Aligned, sigma_of_steps
from true_backdrop.core.picture import Picture, Region

#: So many rows of the frame are looked at, spread over its height.
_ROWS = 16


def pixel_noise(frame: Picture, aligned: Aligned, shot: Region | None = None) -> float:
    """Standard deviation of a pixel of the frame over one of the backdrop frame, on bare backdrop, relative to its light.

    Both are as noisy as the frame's own neighbouring pixels differ, where the proxy shows bare backdrop. It is no less than the
    noise of the proxy. `shot` is the part of the proxy in which the frame is as shot, where a framing box leaves out the rest.
    """
    height, width = aligned.log_ratio.shape[:2]
    rows = np.linspace(0, frame.height, _ROWS, endpoint=False, dtype=int)
    there = aligned.log_ratio[rows * height // frame.height].mean(axis=-1)
    bare = np.abs(there) < BARE
    if shot is not None:
        left_out = np.ones((height, width), bool)
        left_out[shot.slices] = False
        bare &= ~left_out[rows * height // frame.height]
    bare = bare[:, np.arange(frame.width) * width // frame.width]
    light = np.concatenate([frame.linear(Region(row, 0, row + 1, frame.width)) for row in rows]).mean(axis=-1)
    step = np.diff(light, axis=1) / (light[:, 1:] + np.float32(FLOOR))
    sigma = sigma_of_steps(step[bare[:, 1:] & bare[:, :-1]])
    return max(aligned.noise, 0.0 if sigma is None else float(np.sqrt(2)) * sigma)


def at_scale(noise: float, of_pixels: float, shrunk: float, scale: float) -> float:
    """Noise of a picture between the proxy's size and the frame's.

    `noise` is that of the proxy, `of_pixels` that of the frame, which is `shrunk` times as long; the picture is `scale` times as
    long as the proxy. A mean of n pixels has less noise by a power of n, -1/2 where every pixel has its own and nearer to 0
    where neighbours share it (as after a JPEG encoder): whatever fits both ends.
    """
    if shrunk <= 1 or of_pixels <= noise or scale <= 1:
        return noise
    power = np.log(of_pixels / noise) / np.log(shrunk)
    return float(noise * min(scale, shrunk) ** power)
