"""Opacity and product colour in the unknown band, at any size."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, LinearRGB, Plane
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.picture import Region

_TILE = 160
#: A band wider than this (proxy pixels) holds strands, not one edge: what is inside it is open.
_WIDE_BAND = 3.0

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


def cut_view(frame: LinearRGB, backdrop: LinearRGB, outline: Outline, view: View) -> CutOut:
    """Cut what a view shows.

    Parameters
    ----------
    frame, backdrop
        (h, w, 3) linear light of the view, the backdrop as shot (its gain is applied here).
    outline
        The decision, made on the proxy of the same frame.
    view
        Which part of the frame this is, at which size.

    Notes
    -----
    In the band alpha is the projection of I - sB on F - sB. F is the local mean of the frame, weighted by
    distance from the backdrop, so that the purest product colour nearby leads. Where F and sB are too alike
    for the noise, the distance to the outline decides in its place. F is then unmixed from I.
    """
    if frame.shape[:2] != view.shape or frame.shape != backdrop.shape:
        raise ValueError(f"frame {frame.shape} and backdrop {backdrop.shape} must both be of the view's shape {view.shape}")
    # Pixels of the view for one pixel of the proxy: lengths of the band are in proxy pixels.
    scale = view.shape[0] / view.window.height * view.frame_size[0] / outline.shape[0]
    alpha = np.empty(frame.shape[:2], np.float32)
    foreground = frame.copy()
    halo = int(np.ceil(4.0 * max(1.0, scale))) + 2
    height, width = view.shape
    for top in range(0, height, _TILE):
        for left in range(0, width, _TILE):
            tile = Region(top, left, min(top + _TILE, height), min(left + _TILE, width))
            wide = tile.grown(halo, height, width)
            part = _cut_tile(frame[wide.slices], backdrop[wide.slices], outline, view, wide, scale)
            inner = tile.within(wide)
            alpha[tile.slices] = part[0][inner]
            if part[1] is not None:
                foreground[tile.slices] = part[1][inner]
    return CutOut(alpha, foreground)


def _cut_tile(
    frame: LinearRGB, backdrop: LinearRGB, outline: Outline, view: View, tile: Region, scale: float
) -> tuple[Alpha, LinearRGB | None]:
    signed = resample(outline.signed, view, tile)
    band = np.maximum(resample(outline.band, view, tile), 1.2 / scale)
    unknown = np.abs(signed) < band
    if not unknown.any():
        return (signed > 0).astype(np.float32), None
    shade = resample(outline.shadow, view, tile)[..., None]
    behind = backdrop * (shade * np.asarray(outline.gain, np.float32))
    away = frame - behind
    level = np.maximum(cv2.transform(behind, _MEAN).reshape(signed.shape), np.float32(0.01))
    pure = _purest(frame, away, level, signed, band, scale)
    # From here on only the pixels of the band matter: (N,) and (N, 3).
    alpha = (signed > 0).astype(np.float32)
    a, product = _solve(
        frame[unknown], behind[unknown], pure[unknown], level[unknown], signed[unknown], band[unknown], outline.noise
    )
    alpha[unknown] = a
    foreground = frame.copy()
    foreground[unknown] = product
    return alpha, foreground


_MEAN = np.full((1, 3), 1 / 3, np.float32)


def _solve(
    frame: Pixels, behind: Pixels, pure: Pixels, level: Values, signed: Values, band: Values, noise: float
) -> tuple[Values, Pixels]:
    """Alpha (N,) and product colour (N, 3) of band pixels: frame I, backdrop sB, local product colour F."""
    away, span = frame - behind, pure - behind
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
    alpha = np.clip((alpha - 0.02) / 0.96, 0, 1).astype(np.float32)
    return alpha, _unmixed(frame, behind, pure, alpha)


def _purest(frame: LinearRGB, away: LinearRGB, level: Plane, signed: Plane, band: Plane, scale: float) -> LinearRGB:
    """Local mean of the frame weighted by distance from the backdrop and by being on the product's side."""
    distance = np.einsum("ijk,ijk->ij", away, away) / (level * level)
    side = _ramp(signed, -band, 0.6 * band)
    weight = (side * side * (distance * distance + 1e-5)).astype(np.float32)
    sigma = 1.3 * max(1.0, scale)
    total = cv2.GaussianBlur(frame * weight[..., None], (0, 0), sigma)
    part = cv2.GaussianBlur(weight, (0, 0), sigma)
    return np.asarray(total / np.maximum(part, 1e-12)[..., None], dtype=np.float32)


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
