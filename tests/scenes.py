"""Scenes of known opacity, colour and shadow. Shares no formula with the code that it judges: coverage comes from
drawing at eight times the size and averaging, light is added up in float64."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

OVER = 8


@dataclass(frozen=True)
class Scene:
    """A frame, the empty set and the truth: uint8 sRGB pictures, alpha (H, W) float."""

    frame: np.ndarray
    backdrop: np.ndarray
    alpha: np.ndarray


def _encode(linear: np.ndarray) -> np.ndarray:
    linear = np.clip(linear, 0, 1)
    low = linear < 0.0031308
    return np.round(255 * np.where(low, 12.92 * linear, 1.055 * np.power(np.maximum(linear, 1e-9), 1 / 2.4) - 0.055)).astype(
        np.uint8
    )


def _covered(shape: str, height: int, width: int, centre: tuple[float, float]) -> np.ndarray:
    big = np.zeros((height * OVER, width * OVER), np.uint8)
    x, y = int(centre[0] * width * OVER), int(centre[1] * height * OVER)
    unit = int(height * OVER * 0.22)
    if shape == "disc":
        cv2.circle(big, (x, y), unit, 255, -1)
    elif shape == "ring":
        cv2.circle(big, (x, y), unit, 255, -1)
        cv2.circle(big, (x, y), unit // 2, 0, -1)
    elif shape == "box":
        cv2.rectangle(big, (x - unit, y - unit), (x + unit, y + unit), 255, -1)
    elif shape == "strands":
        cv2.circle(big, (x, y), unit // 2, 255, -1)
        for k in range(60):
            a = 2 * np.pi * k / 60
            cv2.line(big, (x, y), (int(x + unit * np.cos(a)), int(y + unit * np.sin(a))), 255, OVER * 2)
    elif shape != "nothing":
        raise ValueError(shape)
    return big.reshape(height, OVER, width, OVER).mean(axis=(1, 3)) / 255.0


def scene(
    shape: str = "disc",
    colour: tuple[float, float, float] = (0.05, 0.18, 0.25),
    *,
    size: tuple[int, int] = (480, 720),
    centre: tuple[float, float] = (0.5, 0.5),
    gain: float = 1.0,
    shadow: float = 0.35,
    seed: int = 5,
    on_table: Callable[[np.ndarray, np.ndarray], np.ndarray] | None = None,
    surface: Callable[[np.ndarray, np.ndarray], np.ndarray] | None = None,
) -> Scene:
    """A product of one colour on an uneven bright backdrop, with a soft shadow below it and sensor noise.

    `on_table` and `surface` give factors of the light on the backdrop and on the product, from x and y in parts of the frame.
    """
    rng = np.random.default_rng(seed)
    height, width = size
    y, x = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j]
    light = 0.80 - 0.12 * (x - 0.5) ** 2 - 0.10 * (y - 0.4) ** 2
    backdrop = light[..., None] * np.array([1.0, 0.99, 0.97])
    alpha = _covered(shape, height, width, centre)
    depth = 0.0 if shape == "nothing" else shadow
    dim = 1 - depth * np.exp(-(((x - centre[0]) / 0.22) ** 2 + ((y - centre[1] - 0.22 * height / height) / 0.09) ** 2))
    dim = dim if on_table is None else dim * on_table(x, y)
    shaded = np.array(colour) * (1.0 + 0.15 * (0.5 - y))[..., None]
    shaded = shaded if surface is None else shaded * surface(x, y)[..., None]
    frame = alpha[..., None] * shaded + (1 - alpha[..., None]) * backdrop * dim[..., None]

    def shot(light: np.ndarray) -> np.ndarray:
        noisy = light * gain + rng.normal(0, 1, light.shape) * np.sqrt(np.maximum(light, 0) * gain / 20000 + 1e-6)
        return _encode(noisy)

    return Scene(shot(frame), shot(backdrop), alpha)


def png(pixels: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


def jpeg(pixels: np.ndarray, **options: object) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=95, subsampling=0, **options)
    return out.getvalue()
