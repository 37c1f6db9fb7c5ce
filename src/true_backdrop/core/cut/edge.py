"""Opacity and product colour in the unknown band, at any size."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_mean, squared_length
from true_backdrop.core.cut.outline import FIRM_BAND, Outline
from true_backdrop.core.picture import Region

_TILE = 128
#: A band wider than this (proxy pixels) holds strands, not one edge: what is inside it is open.
_WIDE_BAND = 3.0

#: Linear light of a tile of a view: what is not asked for is never computed.
Light = Callable[[Region], LinearRGB]

#: A difference of so many standard deviations of the backdrop's noise is none.
_NOISE_SIGMAS = 4.0

Pixels = NDArray[np.float32]
Values = NDArray[np.float32]


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

    def part(self, tile: Region) -> tuple[float, float, float, float]:
        """Origin (y, x) and step (y, x) of a tile's pixels, in pixels of the whole frame."""
        down, across = self.window.height / self.shape[0], self.window.width / self.shape[1]
        return self.window.top + (tile.top + 0.5) * down, self.window.left + (tile.left + 0.5) * across, down, across


def resample(plane: NDArray[np.float32], view: View, tile: Region | None = None) -> NDArray[np.float32]:
    """A proxy plane (H, W[, C]) as seen through `view` (or one tile of it), linear between pixel centres."""
    tile = tile or Region(0, 0, *view.shape)
    top, left, down, across = view.part(tile)
    fy, fx = plane.shape[0] / view.frame_size[0], plane.shape[1] / view.frame_size[1]
    place = np.array([[across * fx, 0, left * fx - 0.5], [0, down * fy, top * fy - 0.5]], np.float32)
    return np.asarray(
        cv2.warpAffine(
            plane,
            place,
            (tile.width, tile.height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        dtype=np.float32,
    )


def held(light: LinearRGB) -> Light:
    """The light of a view that is there as a whole, (h, w, 3)."""
    return lambda tile: light[tile.slices]


def cut_view(frame: Light, backdrop: Light, outline: Outline, view: View) -> CutOut:
    """Cut what a view shows, as a whole; see `cut_tiles`."""
    alpha = np.empty(view.shape, np.float32)
    foreground = np.empty((*view.shape, 3), np.float32)
    for part in cut_tiles(frame, backdrop, outline, view):
        alpha[part.tile.slices] = part.alpha
        foreground[part.tile.slices] = frame(part.tile)
        if part.unknown is not None:
            foreground[part.tile.slices][part.unknown] = part.colour
    return CutOut(alpha, foreground)


@dataclass(frozen=True, slots=True)
class CutTile:
    """One tile of a cut.

    alpha    (h, w), or one number, 0.0 or 1.0, for the whole tile
    unknown  (h, w) the pixels along the outline, or None where there are none
    colour   (N, 3) straight product colour of those pixels; all others have the frame's
    """

    tile: Region
    alpha: Alpha | float
    unknown: Mask | None
    colour: Pixels


def cut_tiles(frame: Light, backdrop: Light, outline: Outline, view: View) -> Iterator[CutTile]:
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
    In the band alpha is the projection of I - sB on F - sB, with F the product's own colour nearby. Where F
    and sB are too alike for the noise, the distance to the outline decides in its place. F is then unmixed
    from I. Each pixel depends on itself and the proxy alone, so a part equals the same part of the whole.
    """
    height, width = view.shape
    # Pixels of the view for one pixel of the proxy: lengths of the band are in proxy pixels.
    scale = height / view.window.height * view.frame_size[0] / outline.shape[0]
    narrowest = np.float32(1.2 / scale)
    clearance = np.abs(outline.signed) - np.maximum(outline.band, narrowest)
    geometry = np.asarray(cv2.merge([outline.signed, outline.band, outline.shadow]), np.float32)
    for top in range(0, height, _TILE):
        for left in range(0, width, _TILE):
            tile = Region(top, left, min(top + _TILE, height), min(left + _TILE, width))
            there = proxy_part(outline, view, tile)
            if clearance[there].min() > 0:
                yield CutTile(tile, float(outline.signed[there][0, 0] > 0), None, _NONE)
                continue
            signed, band, light = (np.asarray(p, np.float32) for p in cv2.split(resample(geometry, view, tile)))
            band = np.maximum(band, narrowest)
            alpha = (signed > 0).astype(np.float32)
            light_here = cv2.merge([light * np.float32(gain) for gain in outline.gain])
            behind = np.asarray(cv2.multiply(backdrop(tile), light_here), np.float32)
            shot = frame(tile)
            unknown = (np.abs(signed) < band) & ((signed > -FIRM_BAND) | _differs(shot, behind, outline.noise))
            index = np.flatnonzero(unknown)
            if index.size == 0:
                yield CutTile(tile, alpha, None, _NONE)
                continue
            own = _at(resample(outline.colour, view, tile), index)
            distance, reach = signed.ravel()[index], band.ravel()[index]
            solved = _solve(_at(shot, index), _at(behind, index), own, distance, reach, outline.noise)
            alpha.ravel()[index], colour = solved
            yield CutTile(tile, alpha, unknown, colour)


_NONE = np.empty((0, 3), np.float32)


def _differs(frame: LinearRGB, behind: LinearRGB, noise: float) -> Mask:
    """Whether a pixel differs from its backdrop by more than noise; outside the outline the others have no opacity."""
    level = np.maximum(channel_mean(behind), np.float32(0.01))
    away = squared_length(np.asarray(cv2.subtract(frame, behind), np.float32))
    return np.asarray(away > np.float32(3 * (_NOISE_SIGMAS * noise) ** 2) * level * level)


def _at(pixels: LinearRGB, index: NDArray[np.intp]) -> Pixels:
    """Some pixels of (h, w, 3) by their running number; much faster than by a mask."""
    return pixels.reshape(-1, 3)[index]


def proxy_part(outline: Outline, view: View, tile: Region) -> tuple[slice, slice]:
    """Slices of the proxy that hold every pixel which `resample` reads for a tile."""
    top, left, down, across = view.part(tile)
    fy, fx = outline.shape[0] / view.frame_size[0], outline.shape[1] / view.frame_size[1]

    def span(begin: float, step: float, count: int, length: int) -> slice:
        first = min(length - 1, max(0, int(np.floor(begin - 0.5))))
        return slice(first, max(first + 1, min(length, int(np.floor(begin - 0.5 + step * (count - 1))) + 2)))

    return (
        span(top * fy, down * fy, tile.height, outline.shape[0]),
        span(left * fx, across * fx, tile.width, outline.shape[1]),
    )


def _solve(frame: Pixels, behind: Pixels, pure: Pixels, signed: Values, band: Values, noise: float) -> tuple[Values, Pixels]:
    """Alpha (N,) and product colour (N, 3) of band pixels: frame I, backdrop sB, local product colour F."""
    away, span = frame - behind, pure - behind
    level = np.maximum(behind.mean(axis=1), np.float32(0.01))
    span_sq = np.einsum("ij,ij->i", span, span)
    projected = np.clip(np.einsum("ij,ij->i", away, span) / np.maximum(span_sq, 1e-8), 0, 1)
    geometric = _ramp(signed, -0.75, 0.75)
    contrast = span_sq / (3 * level * level)
    # Below a contrast of about 3 % or four times the noise the projection says nothing.
    trust = contrast / (contrast + (4 * noise) ** 2 + 0.0009)
    alpha = trust * projected + (1 - trust) * geometric
    # Off the line between backdrop and product colour: no mixture, so another colour of the product.
    off_line = np.linalg.norm(away - projected[:, None] * span, axis=-1) / (np.sqrt(3) * level)
    alpha = np.maximum(alpha, _ramp(off_line, 0.06 + 3 * noise, 0.16 + 4 * noise) * _ramp(signed, -0.8, 0.2))
    # Far enough from the outline for its kind, it is one or the other.
    begins = np.where(band > _WIDE_BAND, 0.6 * band, 0.4 * band).astype(np.float32)
    alpha = np.clip(alpha, _ramp(signed, begins, band), 1 - _ramp(-signed, 0.75 * begins, band + 0.5 * begins))
    # What the backdrop's noise alone makes of alpha is none; nor is what is so near to all.
    floor = np.clip(_NOISE_SIGMAS * noise / np.sqrt(np.maximum(contrast, 1e-6)), 0.02, 0.12)
    alpha = np.clip((alpha - floor) / (0.98 - floor), 0, 1).astype(np.float32)
    return alpha, _unmixed(frame, behind, pure, alpha)


def _unmixed(frame: Pixels, behind: Pixels, pure: Pixels, alpha: Values) -> Pixels:
    """F = (I - (1 - a) s B) / a where that is steady, the local product colour where alpha is small."""
    a = alpha[:, None]
    solved = np.clip((frame - (1 - a) * behind) / np.maximum(a, 0.05), 0, 1)
    steady = _ramp(a, 0.5, 0.95)
    mixed = steady * solved + (1 - steady) * np.clip(pure, 0, 1)
    return np.where(a < 1, mixed, frame).astype(np.float32)


def _ramp(value: NDArray[np.float32], low: float | Plane, high: float | Plane) -> NDArray[np.float32]:
    """0 below `low`, 1 above `high`, smooth between (cubic)."""
    t = np.clip((value - low) / np.maximum(np.subtract(high, low), 1e-6), 0, 1)
    return np.asarray(t * t * (3 - 2 * t), dtype=np.float32)
