"""A decoded picture, kept small: sRGB-encoded pixels, turned to linear light where and when needed."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedPixels, LinearRGB
from true_backdrop.core.colour import decode_pixels, decode_pixels_16


@dataclass(frozen=True, slots=True)
class Region:
    """A rectangle of whole pixels, half open: rows top..bottom-1, columns left..right-1."""

    top: int
    left: int
    bottom: int
    right: int

    @property
    def height(self) -> int:
        return self.bottom - self.top

    @property
    def width(self) -> int:
        return self.right - self.left

    @property
    def slices(self) -> tuple[slice, slice]:
        return slice(self.top, self.bottom), slice(self.left, self.right)

    def grown(self, by: int, height: int, width: int) -> Region:
        """Larger by `by` pixels on every side, kept inside a frame of height x width."""
        return Region(max(0, self.top - by), max(0, self.left - by), min(height, self.bottom + by), min(width, self.right + by))

    def within(self, outer: Region) -> tuple[slice, slice]:
        """Slices that pick this region out of an array that holds `outer`."""
        return (
            slice(self.top - outer.top, self.bottom - outer.top),
            slice(self.left - outer.left, self.right - outer.left),
        )


@dataclass(frozen=True, slots=True)
class Picture:
    """Pixels with sRGB transfer and primaries, upright, with what the file said about itself.

    `pixels` (H, W, 3) uint8 or uint16. `source_profile` is the description of the profile that the
    file carried, converted from; None when it had none and sRGB was taken as read.
    """

    pixels: EncodedPixels
    format: str
    source_profile: str | None = None
    density_ppi: float | None = None

    @property
    def height(self) -> int:
        return int(self.pixels.shape[0])

    @property
    def width(self) -> int:
        return int(self.pixels.shape[1])

    @property
    def whole(self) -> Region:
        return Region(0, 0, self.height, self.width)

    def linear(self, region: Region | None = None, size: tuple[int, int] | None = None) -> LinearRGB:
        """Linear light of a region (default: all), area-averaged to `size` (height, width) if that is smaller.

        Averaging happens in linear light; in encoded values a fine bright-dark pattern would darken.
        """
        rows, columns = (region or self.whole).slices
        part = self.pixels[rows, columns]
        if size is None or size == part.shape[:2]:
            return decode_pixels(part)
        return _averaged(part, size)


def proxy_size(height: int, width: int, long_side: int) -> tuple[int, int]:
    """(height, width) with the longer one at most `long_side`, proportions kept, never enlarged."""
    factor = min(1.0, long_side / max(height, width))
    return max(1, round(height * factor)), max(1, round(width * factor))


def _averaged(part: EncodedPixels, size: tuple[int, int]) -> LinearRGB:
    # Linear light as uint16 on the way: half the memory of float32, and one step is a twentieth of the
    # darkest sRGB code value, so nothing is lost that the file held.
    light = decode_pixels_16(part)
    smaller = size[0] <= part.shape[0]
    out = cv2.resize(light, (size[1], size[0]), interpolation=cv2.INTER_AREA if smaller else cv2.INTER_CUBIC)
    return np.multiply(out, np.float32(1 / 65535), dtype=np.float32)
