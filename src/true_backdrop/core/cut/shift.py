"""A camera that was touched between take and backdrop frame: how far the set lies off, and the backdrop brought after it."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import fft

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_max, channel_mean, doubled, halved
from true_backdrop.core.cut.align import FLOOR, Aligned, align

#: Percent of the long side: up to the first there is nothing to correct, beyond the second the view is another one.
SHIFT_LIMITS = (0.03, 1.0)
#: Log units from the backdrop frame up to which a pixel, a little smoothed, may be bare backdrop; and a margin (pixels).
_BARE, _MARGIN = 0.06, 9


def aligned_with(frame: LinearRGB, backdrop: LinearRGB, *, long_side: int | None = None) -> tuple[Aligned, LinearRGB]:
    """`align`, with the backdrop frame moved after a camera that was touched; and that backdrop frame (H, W, 3).

    A shift of less than 0.03 % of the long side (that of the whole frame, when this is a part), or one that cannot be
    seen, moves nothing.

    Raises
    ------
    BackdropDoesNotFit
        As `align`.
    """
    first = align(frame, backdrop)
    shift = shift_of(frame, backdrop, _bare(first.log_ratio))
    if shift is None or 100 * np.hypot(*shift) / (long_side or max(frame.shape)) <= SHIFT_LIMITS[0]:
        return replace(first, shift=shift), backdrop
    after = moved(backdrop, shift)
    return replace(align(frame, after), shift=shift, corrected=True), after


def moved(picture: LinearRGB, shift: tuple[float, float]) -> LinearRGB:
    """(H, W, 3) shifted to the right and down by pixels; its rim is repeated."""
    height, width = picture.shape[:2]
    matrix = np.array([[1, 0, shift[0]], [0, 1, shift[1]]])
    out = cv2.warpAffine(picture, matrix, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.clip(out, 0, 1), np.float32)


def _bare(log_ratio: NDArray[np.float32]) -> Mask:
    """Where nothing but the backdrop is seen, as far as the first comparison can tell."""
    off = channel_max(np.abs(cv2.GaussianBlur(log_ratio, (0, 0), 1.5)))
    return np.asarray(cv2.erode((off < _BARE).astype(np.uint8), np.ones((_MARGIN, _MARGIN), np.uint8)) > 0)


#: Covariance of the two pictures' slopes (log units a pixel, squared) below which a shift leaves no trace.
_STRUCTURE = 4e-8
#: Part of the picture that must be bare backdrop.
_NEEDED = 0.05
#: A camera that was touched moves by no more than such a part of the long side, and the peak is so many standard deviations high
#: at least: of noise it was 4.0 at most so near, on 14 sets without grain, and of 440 independent values once in ten thousand.
_LIKELY, _BEYOND_NOISE = 0.02, 5.0
#: Sigmas (pixels) of the band of detail that is looked at.
_FINE_PX, _BROAD_PX = 1.2, 6.0
#: Rounds of refinement after the first guess, and the step (pixels) that is not worth another one.
_ROUNDS, _SMALL_STEP = 4, 0.02


def shift_of(frame: LinearRGB, backdrop: LinearRGB, free: Mask) -> tuple[float, float] | None:
    """How far the set lies to the right and down in `frame` against `backdrop`, in pixels; None when too plain to see.

    Phase correlation for the first guess (Kuglin and Hines 1975), then least squares of the difference on the
    slopes (Lucas and Kanade 1981). Only what is finer than the light's own changes counts, so that a dimmed
    lamp is not taken for a shift. The slopes of the backdrop frame weigh, which know nothing of the product's shadow;
    those of the take are the slopes: their noise is independent, so it does not pull the result towards zero
    (instrumental variables, Wald 1940).
    """
    seen, bare = _fine(frame), _fine(backdrop)
    weight = free.astype(np.float32)
    right, down = first_guess(seen * weight, bare * weight, _LIKELY * max(free.shape))
    weight[:8] = weight[-8:] = 0
    weight[:, :8] = weight[:, -8:] = 0
    pixels = cv2.countNonZero(weight)
    if pixels < _NEEDED * weight.size:
        return None
    seen_slopes = _slopes(seen)
    for _ in range(_ROUNDS):
        moved = cv2.warpAffine(
            bare, np.array([[1, 0, right], [0, 1, down]]), bare.shape[::-1], flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
        )
        weighing = [cv2.multiply(slope, weight) for slope in _slopes(np.asarray(moved, np.float32))]
        difference = cv2.subtract(seen, moved)
        normal = np.array([[one.ravel() @ other.ravel() for other in seen_slopes] for one in weighing], np.float64) / pixels
        if min(normal[0, 0], normal[1, 1]) < _STRUCTURE:
            return None
        step = -np.linalg.solve(normal, np.array([one.ravel() @ difference.ravel() for one in weighing], np.float64) / pixels)
        right, down = right + float(step[0]), down + float(step[1])
        if np.abs(step).max() < _SMALL_STEP:
            break
    return right, down


def first_guess(seen: Plane, bare: Plane, most: float) -> tuple[float, float]:
    """The highest peak of phase correlation that is no more than `most` pixels away; none, (0, 0), where that may be noise.

    Farther off there may be a higher one, of noise or of a product's edge. Whole pixels at half the size are near enough for
    what follows and cost a quarter.
    """
    halves = halved(seen), halved(bare)
    padded = [fft.next_fast_len(length, real=True) for length in halves[0].shape]
    one, other = (fft.rfft2(plane, padded) for plane in halves)
    product = one * np.conj(other)
    peaks = fft.irfft2(product / np.maximum(np.abs(product), np.float32(1e-12)), padded)
    reach = [min(int(most / 2), (length - 1) // 2) for length in padded]
    near = np.roll(peaks, reach, axis=(0, 1))[: 2 * reach[0] + 1, : 2 * reach[1] + 1]
    if near.max() < _BEYOND_NOISE * peaks.std():
        return 0.0, 0.0
    down, right = np.unravel_index(np.argmax(near), near.shape)
    return 2.0 * float(right - reach[1]), 2.0 * float(down - reach[0])


def _fine(picture: LinearRGB) -> Plane:
    """Log brightness without what is broader than some pixels, and without the noise of single ones."""
    level = np.asarray(cv2.log(cv2.add(channel_mean(picture), FLOOR)), np.float32)  # type: ignore[call-overload]
    # At half the size the broad one costs an eighth.
    broad = doubled(np.asarray(cv2.GaussianBlur(halved(level), (0, 0), _BROAD_PX / 2), np.float32), level.shape)
    return np.asarray(cv2.subtract(cv2.GaussianBlur(level, (0, 0), _FINE_PX), broad), np.float32)


def _slopes(plane: Plane) -> tuple[Plane, Plane]:
    across, down = (cv2.Sobel(plane, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1)))
    return np.asarray(across, np.float32), np.asarray(down, np.float32)
