"""Bring the backdrop frame to the frame's exposure, and say when it cannot serve."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_max, channel_mean, channel_min, halved
from true_backdrop.core.cut.bounced_light import hue_of
from true_backdrop.core.errors import BackdropDoesNotFit

#: Below this light a ratio says nothing: read noise and 8-bit steps rule (1/255 of sRGB is 0.0003 linear).
FLOOR = 0.002
#: More than this between the two exposures and highlights no longer match (a stop is a factor of two).
ALLOWED_DRIFT_EV = 1.0
#: At least this part of the frame's rim must look like the backdrop frame; products fill less than the rest.
NEEDED_RIM = 0.35
RIM_OF_SIDE = 0.04
#: Where less of it agrees pixel by pixel, means of several are looked at (sigma in pixels).
_ALL, _EVEN_PX = 0.98, 2.0
#: So near to the backdrop (log units) noise is measured.
BARE = 0.12


@dataclass(frozen=True, slots=True)
class Aligned:
    """A frame held against the backdrop frame, which was brought to its exposure.

    Both pictures are as shot. `log_ratio` (H, W, 3) is ln(frame / (gain * backdrop)); 0 where the frame shows the bare backdrop;
    `half_tone` is its mean over the channels at half the size, `hue` what else it has, at a quarter (bounced_light.py).
    `shift` is how far (pixels right, down) the set lies off the backdrop frame as it was shot, None where that cannot be seen;
    with `corrected`, `backdrop` has been moved after it. `noise` is that of the ratio on bare backdrop, `pixel_noise` the same at
    the frame's own size, 0 where it is not known.
    """

    frame: LinearRGB
    backdrop: LinearRGB
    log_ratio: NDArray[np.float32]
    half_tone: Plane
    hue: NDArray[np.float32]
    gain: tuple[float, float, float]
    noise: float
    clipped_backdrop: float
    shift: tuple[float, float] | None = None
    corrected: bool = False
    pixel_noise: float = 0.0

    @property
    def drift_ev(self) -> float:
        return float(np.log2(np.mean(self.gain)))


def _rim_px(height: int, width: int, part: float = RIM_OF_SIDE) -> int:
    return max(2, round(part * min(height, width)))


def rim_mask(height: int, width: int, part: float = RIM_OF_SIDE) -> Mask:
    """A frame of pixels along the four sides."""
    by = _rim_px(height, width, part)
    mask = np.ones((height, width), dtype=bool)
    mask[by:-by, by:-by] = False
    return mask


def _log_ratio(frame: LinearRGB, backdrop: LinearRGB) -> NDArray[np.float32]:
    ratio = cv2.divide(cv2.add(frame, (FLOOR,) * 3), cv2.add(backdrop, (FLOOR,) * 3))  # type: ignore[call-overload]
    return np.asarray(cv2.log(ratio), dtype=np.float32)


def _mode(values: NDArray[np.float32], width: float = 0.04) -> float:
    """The centre of the fullest window of a given width: the backdrop's own ratio, whatever stands before it."""
    ordered = np.sort(values[:: max(1, values.size // 20000)])
    count = np.searchsorted(ordered, ordered + width) - np.arange(ordered.size)
    best = int(np.argmax(count))
    return float(np.median(ordered[best : best + int(count[best])]))


def _along_rim(log_ratio: NDArray[np.float32]) -> tuple[NDArray[np.float32], float]:
    """The backdrop's own log ratio (3,), and which part of the rim agrees with it."""
    by = _rim_px(*log_ratio.shape[:2])
    sides = np.concatenate([log_ratio[by:-by, :by], log_ratio[by:-by, -by:]], axis=1)
    along = np.concatenate([part.reshape(-1, 3) for part in (log_ratio[:by], sides, log_ratio[-by:])])
    shift = np.array([_mode(along[:, c]) for c in range(3)], dtype=np.float32)
    return shift, float((channel_max(np.abs(along - shift)[None]) < BARE).mean())


def _evened(light: LinearRGB) -> LinearRGB:
    return np.asarray(cv2.GaussianBlur(light, (0, 0), _EVEN_PX), np.float32)


def align(frame: LinearRGB, backdrop: LinearRGB) -> Aligned:
    """Estimate one gain for each channel and divide it out.

    The gain is the mode of the ratio along the rim, where the product is not. Products, shadows and
    a rim that they touch shift a mean; the mode they leave alone.

    Raises
    ------
    BackdropDoesNotFit
        When the sizes differ, the exposures differ by more than a stop, or too little of the rim agrees.
    """
    if frame.shape != backdrop.shape:
        raise BackdropDoesNotFit(
            f"the frame is {frame.shape[1]} x {frame.shape[0]} px but the backdrop frame is "
            f"{backdrop.shape[1]} x {backdrop.shape[0]} px; shoot both with the same camera setting"
        )
    log_ratio = _log_ratio(frame, backdrop)
    shift, agreeing = _along_rim(log_ratio)
    if agreeing < _ALL:  # noise, as on dark paper, or something that is no backdrop: the mean of several pixels tells
        shift, agreeing = _along_rim(_log_ratio(_evened(frame), _evened(backdrop)))
    gain = np.exp(shift)
    drift_ev = float(np.log2(gain.mean()))
    if abs(drift_ev) > ALLOWED_DRIFT_EV:
        raise BackdropDoesNotFit(
            f"the frame is {abs(drift_ev):.1f} EV {'brighter' if drift_ev > 0 else 'darker'} than the backdrop frame; "
            "shoot the empty set again with this exposure"
        )
    log_ratio = np.asarray(cv2.subtract(log_ratio, (*shift.tolist(), 0.0)), np.float32)  # type: ignore[call-overload]
    if agreeing < NEEDED_RIM:
        raise BackdropDoesNotFit(
            f"only {agreeing:.0%} of the frame's rim looks like the backdrop frame; it shows another scene or "
            "the camera was moved. Choose the backdrop frame of this set-up or shoot the empty set again"
        )
    clipped = float((channel_min(backdrop) > 0.985).mean())
    parts = halved(channel_mean(log_ratio)), hue_of(log_ratio)
    gains = float(gain[0]), float(gain[1]), float(gain[2])
    return Aligned(frame, backdrop, log_ratio, *parts, gains, _noise(log_ratio), clipped)


def _noise(log_ratio: NDArray[np.float32]) -> float:
    """Standard deviation of the log ratio on bare backdrop, from neighbour differences (robust: MAD)."""
    # Every fourth row is plenty for a median.
    brightness = channel_mean(np.ascontiguousarray(log_ratio[::4]))
    near = np.abs(brightness) < BARE
    sigma = sigma_of_steps((brightness[:, 1:] - brightness[:, :-1])[near[:, 1:] & near[:, :-1]])
    # A floor for pictures without any noise.
    return 0.01 if sigma is None else max(0.002, sigma)


def sigma_of_steps(steps: NDArray[np.float32]) -> float | None:
    """Standard deviation of a channel from differences (n,) between neighbours' means of three channels; None for too few."""
    if steps.size < 100:
        return None
    # 1.4826 turns a median absolute deviation into sigma; sqrt(2) for the difference of two, sqrt(3) for the mean of three.
    return float(1.4826 * np.median(np.abs(steps)) / np.sqrt(2) * np.sqrt(3))
