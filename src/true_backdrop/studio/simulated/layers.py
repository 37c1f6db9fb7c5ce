"""A small camera: linear light layers to a frame, at any lamp setting.

Light adds, so a frame is a weighted sum of the layers of the lamp groups. On it: white balance, vignetting,
point spread, shot and read noise, sRGB transfer. Values are in units of the sensor's full scale.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray

Layer = NDArray[np.float32]
#: Full scale of the stored layers; they hold the square root of light / FULL_SCALE as 16 bit.
FULL_SCALE = 4.0


@dataclass(frozen=True)
class Shutter:
    """One press: lamp dimmers (1 as rendered), exposure in EV, colour gains, optics and noise."""

    front: float = 2.0
    backdrop: float = 1.0
    exposure_ev: float = 0.34
    red: float = 1.0
    blue: float = 1.0
    vignetting: float = 0.10
    point_spread_px: float = 0.55
    full_well: float = 22000.0
    read_noise: float = 0.0009


def read_layer(path: Path) -> Layer:
    """A rendered layer (H, W, 3), scene-linear."""
    coded = np.asarray(imagecodecs.jpegxl_decode(path.read_bytes()), dtype=np.float32)
    return np.asarray((coded / 65535) ** 2 * FULL_SCALE, np.float32)


def read_plane(path: Path) -> NDArray[np.float32]:
    """True alpha (H, W), 0 to 1."""
    return np.asarray(np.asarray(imagecodecs.jpegxl_decode(path.read_bytes())).squeeze() / np.float32(65535), np.float32)


def exposed(
    front: Layer, backdrop: Layer, shutter: Shutter, rng: np.random.Generator, size: tuple[int, int] | None = None
) -> NDArray[np.uint8]:
    """An sRGB frame (H, W, 3) uint8; `size` (height, width) enlarges the light first."""
    light = shutter.front * front + shutter.backdrop * backdrop
    if size is not None:
        light = cv2.resize(light, (size[1], size[0]), interpolation=cv2.INTER_CUBIC)
    height, width = light.shape[:2]
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j].astype(np.float32)
    light = light * (1 - shutter.vignetting * (0.69 * x * x + 0.31 * y * y))[..., None]
    light = light * np.array([shutter.red, 1.0, shutter.blue], np.float32) * np.float32(2.0**shutter.exposure_ev)
    light = np.maximum(cv2.GaussianBlur(light, (0, 0), shutter.point_spread_px * max(1.0, width / 1500)), 0)
    sigma = np.sqrt(light / shutter.full_well + shutter.read_noise**2)
    light = light + rng.standard_normal(light.shape, dtype=np.float32) * sigma
    light = np.clip(light, 0, 1)
    coded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return np.asarray(np.round(coded * 255), np.uint8)
