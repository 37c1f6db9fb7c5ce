"""A decoded picture, kept small: sRGB-encoded pixels, turned to linear light where and when needed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedPixels, LinearRGB
from true_backdrop.core.averaging import area_mean
from true_backdrop.core.colour import decode_pixels, decode_pixels_16, light_of

#: Top, left, bottom, right in pixels, between them too.
Box = tuple[float, float, float, float]


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

    def joined(self, other: Region) -> Region:
        """The smallest rectangle that holds both."""
        return Region(
            min(self.top, other.top), min(self.left, other.left), max(self.bottom, other.bottom), max(self.right, other.right)
        )

    def moved(self, down: int, right: int) -> Region:
        """The same rectangle elsewhere."""
        return Region(self.top + down, self.left + right, self.bottom + down, self.right + right)

    def within(self, outer: Region) -> tuple[slice, slice]:
        """Slices that pick this region out of an array that holds `outer`."""
        return (
            slice(self.top - outer.top, self.bottom - outer.top),
            slice(self.left - outer.left, self.right - outer.left),
        )


@dataclass(frozen=True)
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
        region = region or self.whole
        rows, columns = region.slices
        if size is None or size == (region.height, region.width):
            return decode_pixels(self.pixels[rows, columns])
        edges = (region.top, region.left, region.bottom, region.right, self.height, self.width)
        if 2 * size[0] <= region.height and 2 * size[1] <= region.width and not any(edge % 2 for edge in edges):
            halves = slice(region.top // 2, region.bottom // 2), slice(region.left // 2, region.right // 2)
            light = self._half[halves]
            while 2 * size[0] <= light.shape[0] and 2 * size[1] <= light.shape[1] and not any(n % 2 for n in light.shape[:2]):
                light = np.asarray(cv2.resize(light, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.uint16)
            return _resized(np.multiply(light, np.float32(1 / 65535), dtype=np.float32), size)
        return _resized(decode_pixels(self.pixels[rows, columns]), size)

    def averaged(self, window: Region, shape: tuple[int, int]) -> Callable[[Region], LinearRGB]:
        """Linear light of tiles of a window that is shown smaller, as `shape` (height, width): area averages.

        Only the tiles that are asked for are computed. From half size downwards they are averages of averages.
        """
        down, across = window.height / shape[0], window.width / shape[1]
        if min(down, across) < 1:
            whole = self.linear(window, shape)
            return lambda tile: whole[tile.slices]
        halves = min(down, across) >= 2
        base, light = (self._half, _LINEAR_16) if halves else (self.pixels, light_of(self.pixels.dtype))
        by = 2 if halves else 1

        def part(tile: Region) -> LinearRGB:
            out = np.empty((tile.height, tile.width, 3), np.float32)
            top, left = (window.top + tile.top * down) / by, (window.left + tile.left * across) / by
            area_mean(base, light, top, left, down / by, across / by, out)
            return out

        return part

    @cached_property
    def _half(self) -> NDArray[np.uint16]:
        """Linear light (H/2, W/2, 3), 0 to 65535, each the mean of 2 x 2 pixels: the base of everything smaller.

        As uint16 it takes half the memory of float32, and a step is a twentieth of the darkest sRGB code value.
        """
        out = np.empty((self.height // 2, self.width // 2, 3), np.uint16)
        for top in range(0, self.height, _BAND):
            light = decode_pixels_16(self.pixels[top : top + _BAND])
            rows = slice(top // 2, (top + light.shape[0]) // 2)
            cv2.resize(light, (out.shape[1], light.shape[0] // 2), dst=out[rows], interpolation=cv2.INTER_AREA)
        return out


#: Light of the value 1 of linear uint16.
_LINEAR_16 = np.array([1 / 65535], np.float32)
#: Rows that are worked on at a time; even, and small enough to stay in the processor's cache.
_BAND = 32


def proxy_size(height: int, width: int, long_side: int) -> tuple[int, int]:
    """(height, width) with the longer one at most `long_side`, proportions kept, never enlarged."""
    factor = min(1.0, long_side / max(height, width))
    return max(1, round(height * factor)), max(1, round(width * factor))


def _resized(light: LinearRGB, size: tuple[int, int]) -> LinearRGB:
    if size[0] <= light.shape[0]:
        return np.asarray(cv2.resize(light, size[::-1], interpolation=cv2.INTER_AREA), np.float32)
    return np.asarray(np.clip(cv2.resize(light, size[::-1], interpolation=cv2.INTER_CUBIC), 0, 1), np.float32)
