"""Opacity and product colour of what a view shows, tile by tile, at any size."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, LinearRGB
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.cut.solve import Place, solve_tile
from true_backdrop.core.picture import Region

_TILE = 128


@dataclass(frozen=True, slots=True)
class CutOut:
    """Alpha (h, w) and straight product colour (h, w, 3) in linear light, of one region at one size."""

    alpha: Alpha
    foreground: LinearRGB


@dataclass(frozen=True, slots=True)
class View:
    """A window of a frame at some size: `window` in pixels of the whole frame, shown as `shape` (h, w)."""

    window: Region
    shape: tuple[int, int]
    frame_size: tuple[int, int]

    def place(self, tile: Region, size: tuple[int, int]) -> Place:
        """Where a tile's pixels lie in a picture of the whole frame that has another size (H, W)."""
        fy, fx = size[0] / self.frame_size[0], size[1] / self.frame_size[1]
        down, across = self.window.height / self.shape[0], self.window.width / self.shape[1]
        top, left = self.window.top + (tile.top + 0.5) * down, self.window.left + (tile.left + 0.5) * across
        return np.array([down * fy, top * fy - 0.5, across * fx, left * fx - 0.5])


#: Linear light of a tile of a view: what is not asked for is never computed.
Light = Callable[[Region], LinearRGB]
#: The backdrop for a tile of a view: a picture of any size (H, W, 3), and where the tile lies in it.
Behind = Callable[[Region], tuple[LinearRGB, Place]]

_ITSELF = np.array([1.0, 0.0, 1.0, 0.0])


def held(light: LinearRGB) -> Light:
    """The light of a view that is there as a whole, (h, w, 3)."""
    return lambda tile: light[tile.slices]


def as_seen(light: Light) -> Behind:
    """A backdrop whose pixels are those of the view."""
    return lambda tile: (light(tile), _ITSELF)


def enlarged(proxy: LinearRGB, view: View) -> Behind:
    """A backdrop that is there as the proxy of the whole frame."""
    size = (int(proxy.shape[0]), int(proxy.shape[1]))
    return lambda tile: (proxy, view.place(tile, size))


def resample(plane: NDArray[np.float32], view: View, tile: Region | None = None) -> NDArray[np.float32]:
    """A proxy plane (H, W[, C]) as seen through `view` (or one tile of it), linear between pixel centres."""
    tile = tile or Region(0, 0, *view.shape)
    down, top, across, left = view.place(tile, (int(plane.shape[0]), int(plane.shape[1])))
    return np.asarray(
        cv2.warpAffine(
            plane,
            np.array([[across, 0, left], [0, down, top]], np.float32),
            (tile.width, tile.height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        dtype=np.float32,
    )


@dataclass(frozen=True, slots=True)
class CutTile:
    """One tile of a cut.

    alpha   (h, w), or (1, 1) where it is the same everywhere
    colour  (h, w, 3) straight product colour, or (1, 1, 3) black where there is none
    surely  0 where all is backdrop, 1 where all is product, None where it is mixed
    """

    tile: Region
    alpha: Alpha
    colour: LinearRGB
    surely: Literal[0, 1] | None = None


_NONE, _ALL = np.zeros((1, 1), np.float32), np.ones((1, 1), np.float32)
_BLACK = np.zeros((1, 1, 3), np.float32)


def cut_view(frame: Light, backdrop: Behind, outline: Outline, view: View) -> CutOut:
    """Cut what a view shows, as a whole; see `cut_tiles`."""
    alpha = np.zeros(view.shape, np.float32)
    foreground = np.zeros((*view.shape, 3), np.float32)
    for part in cut_tiles(frame, backdrop, outline, view):
        if part.surely != 0:
            alpha[part.tile.slices], foreground[part.tile.slices] = part.alpha, part.colour
    return CutOut(alpha, foreground)


def cut_tiles(frame: Light, backdrop: Behind, outline: Outline, view: View) -> Iterator[CutTile]:
    """Cut what a view shows, tile by tile.

    Parameters
    ----------
    frame, backdrop
        Linear light of the view's tiles, the backdrop as shot (its gain is applied here).
    outline
        The decision, made on the proxy of the same frame.
    view
        Which part of the frame this is, at which size.

    Notes
    -----
    Each pixel depends on itself and the proxy alone, so a part equals the same part of the whole.
    """
    height, width = view.shape
    # Pixels of the view for one pixel of the proxy: lengths of the band are in proxy pixels.
    narrowest = 1.2 / (height / view.window.height * view.frame_size[0] / outline.shape[0])
    for top in range(0, height, _TILE):
        for left in range(0, width, _TILE):
            tile = Region(top, left, min(top + _TILE, height), min(left + _TILE, width))
            there = proxy_part(outline, view, tile)
            side = _side(outline.signed[there], outline.band[there], narrowest)
            if side < 0:
                yield CutTile(tile, _NONE, _BLACK, 0)
            elif side > 0:
                yield CutTile(tile, _ALL, frame(tile), 1)
            else:
                yield _solved(frame(tile), backdrop(tile), outline, view, tile, narrowest)


def _solved(
    shot: LinearRGB, backdrop: tuple[LinearRGB, Place], outline: Outline, view: View, tile: Region, narrowest: float
) -> CutTile:
    alpha, colour = np.empty(shot.shape[:2], np.float32), np.empty(shot.shape, np.float32)
    planes = outline.signed, outline.band, outline.shadow, outline.colour
    at = view.place(tile, outline.shape)
    solve_tile(shot, *backdrop, *planes, at, outline.gain, outline.noise, narrowest, alpha, colour)
    return CutTile(tile, alpha, colour)


@compiled
def _side(signed: NDArray[np.float32], band: NDArray[np.float32], narrowest: float) -> int:
    """1 when all of a part of the proxy is product for sure, -1 when all of it is backdrop, else 0."""
    side = 1 if signed[0, 0] > 0 else -1
    for y in range(signed.shape[0]):
        for x in range(signed.shape[1]):
            if side * signed[y, x] <= max(band[y, x], narrowest):
                return 0
    return side


def proxy_part(outline: Outline, view: View, tile: Region) -> tuple[slice, slice]:
    """Slices of the proxy that hold every pixel which a tile depends on."""
    down, top, across, left = view.place(tile, outline.shape)

    def span(begin: float, step: float, count: int, length: int) -> slice:
        first = min(length - 1, max(0, int(np.floor(begin))))
        return slice(first, max(first + 1, min(length, int(np.floor(begin + step * (count - 1))) + 2)))

    return span(top, down, tile.height, outline.shape[0]), span(left, across, tile.width, outline.shape[1])
