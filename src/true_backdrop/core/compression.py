"""What a coarse JPEG encoder leaves of even light: flat blocks of 8 x 8 pixels with steps between them, evened out again.

A slope that is fainter than the encoder's steps becomes a stair, and its noise is gone: each step then looks like an edge.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedPixels, LinearRGB
from true_backdrop.core.channels import rounded
from true_backdrop.core.colour import ENCODE_STEPS, decode_pixels, linear_to_srgb
from true_backdrop.core.cut.evidence import Evidence

#: Side of a block in pixels (ITU-T T.81, 1992).
_BLOCK = 8
#: So many rows and columns are looked at for the grid, and about so many blocks for the step.
_LINES, _BLOCKS = 48, 4096
#: Larger differences between neighbours (code values) are edges of the picture itself.
_EVEN = 8
#: Neighbours across the grid's lines differ so many times as much as others, if a picture was compressed coarsely.
_GRID_SEEN = 1.6
#: Luma of full-range YCbCr (ITU-T T.871, 2011, clause 7).
_LUMA = np.array([0.299, 0.587, 0.114], np.float32)
#: A block is flat if its luma spans no more than this, and says something below such a value (code values); so many must be.
_FLAT, _BELOW_WHITE, _FLAT_PART = 1.2, 250, 0.15
#: Where more of them are, no grain is left.
_HIDES_GRAIN = 0.4
#: A step between flat blocks is no less and no more than this (code values).
_STEP = (0.4, 12.0)
#: From such a step on stairs are seen (code values): JPEG quality 85 and below, as most encoders count it.
_LEAST_STEP = 0.7
#: What differs by a few such steps over so many pixels (sigma) of a proxy is evened out, and no more than so much (code values).
_STEPS, _AROUND_PX, _MOST = 9.0, 4.0, 16.0


@dataclass(frozen=True, slots=True)
class Rounding:
    """What a coarse encoder did: the step (code values, root mean square) from one flat block to the next, 0 where it was not
    coarse; and which part of the blocks is flat, 0 to 1."""

    step: float = 0.0
    flat: float = 0.0

    @property
    def hides_grain(self) -> bool:
        """Whether nothing of a paper's structure can be left, and steps that lie alike in two pictures be taken for it."""
        return self.flat > _HIDES_GRAIN


def rounding_of(pixels: EncodedPixels) -> Rounding:
    """How coarsely pixels (H, W, 3) were rounded, block by block.

    A grid of blocks is told by the differences across its lines. Of fine settings, or much noise, no block is flat.
    """
    if pixels.dtype != np.uint8 or min(pixels.shape[:2]) < 4 * _BLOCK:
        return Rounding()
    green = np.asarray(pixels[..., 1], np.uint8)
    down, right = _grid(green[:, _spread(green.shape[1], _LINES)].T), _grid(green[_spread(green.shape[0], _LINES)])
    if down is None or right is None:
        return Rounding()
    rows, columns = (pixels.shape[0] - down) // _BLOCK, (pixels.shape[1] - right) // _BLOCK
    tops = down + _BLOCK * _spread(rows, max(1, _BLOCKS // columns))
    bands = pixels[(tops[:, None] + np.arange(_BLOCK)).ravel(), right : right + _BLOCK * columns]
    luma = np.asarray(cv2.transform(bands.astype(np.float32), _LUMA[None]), np.float32)
    flat = _of_blocks(np.max, luma) - _of_blocks(np.min, luma) < _FLAT
    flat &= _of_blocks(np.max, bands.reshape(len(bands), -1), _BLOCK * 3) < _BELOW_WHITE
    if flat.mean() < _FLAT_PART:
        return Rounding()
    steps = np.abs(np.diff(_of_blocks(np.mean, luma), axis=1))[flat[:, 1:] & flat[:, :-1]]
    steps = steps[(steps > _STEP[0]) & (steps < _STEP[1])]
    step = float(np.sqrt(np.mean(steps**2))) if steps.size else 0.0
    return Rounding(step, float(flat.mean())) if step >= _LEAST_STEP else Rounding()


def _of_blocks(measure: Callable[..., NDArray[np.generic]], rows: NDArray[np.generic], wide: int = _BLOCK) -> NDArray[np.float32]:
    """A measure of each block of rows (8 n, wide m), as (n, m): first down its columns, which lie side by side in memory."""
    down = measure(rows.reshape(-1, _BLOCK, rows.shape[1]), axis=1)
    return np.asarray(measure(down.reshape(len(down), -1, wide), axis=2), np.float32)


def _spread(length: int, most: int) -> NDArray[np.intp]:
    return np.linspace(0, length - 1, min(most, length)).astype(np.intp)


def _grid(lines: NDArray[np.uint8]) -> int | None:
    """Where blocks begin along some lines (n, length): the first one that is whole; None where no grid is seen.

    Along lines that do not change at all it may begin anywhere.
    """
    differences = np.abs(np.diff(lines.astype(np.int16), axis=1))
    even = differences < _EVEN
    across = [(differences[:, at::_BLOCK], even[:, at::_BLOCK]) for at in range(_BLOCK)]
    found = np.array([float(steps[here].mean()) if here.any() else 0.0 for steps, here in across])
    if 0 < found.max() <= _GRID_SEEN * np.median(found):
        return None
    return (int(np.argmax(found)) + 1) % _BLOCK


#: Code values, 0 to 255 and between, of linear light in steps of the encoding table.
_CODE_VALUES = (255 * linear_to_srgb(np.arange(ENCODE_STEPS + 1) / ENCODE_STEPS)).astype(np.float32)


def evened(light: LinearRGB, step: float) -> LinearRGB:
    """Linear light (H, W, 3) of a proxy with what is within a few steps (code values) evened out, and edges kept.

    A bilateral filter (Tomasi and Manduchi 1998) in encoded values, where the encoder's steps are equal.
    """
    encoded = _CODE_VALUES[rounded(np.ascontiguousarray(light), ENCODE_STEPS, cv2.CV_16U)]
    size = 2 * round(1.5 * _AROUND_PX) + 1
    smooth = cv2.bilateralFilter(encoded, size, min(_MOST, _STEPS * step), _AROUND_PX)
    return decode_pixels(np.asarray(rounded(np.asarray(smooth, np.float32), 65535 / 255, cv2.CV_16U), np.uint16))


def rounding_error(light: LinearRGB, step: float) -> float:
    """Standard deviation (log units) of the ratio of two pictures of such light that were both rounded to such a step.

    Rounding is off by step / sqrt(12) (uniform). By how much that moves the logarithm of light is told by the slope of the sRGB
    encoding (IEC 61966-2-1) at the median of linear light (H, W, 3).
    """
    code = 255 * float(linear_to_srgb(np.asarray(np.median(light[::4, ::4]), np.float64)))
    return float(np.sqrt(2 / 12) * step * 2.4 / (code + 0.055 * 255))


def with_rounding(evidence: Evidence, frame: LinearRGB, rounding: Rounding | None) -> Evidence:
    """The evidence of a proxy (H, W, 3) with the doubt that a coarse encoder leaves about it."""
    if rounding is None or not rounding.step:
        return evidence
    evidence = replace(evidence, rounding=rounding_error(frame, rounding.step))
    return replace(evidence, structure=0.0, grain=None, paper=None) if rounding.hides_grain else evidence
