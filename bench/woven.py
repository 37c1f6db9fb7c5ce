"""More products drawn from nothing but numbers: bristles, feathers, leaves, nets, and striped and knitted cloth, which are none."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from bench.sheet import Sheet


def brush(sheet: Sheet) -> np.ndarray:
    """500 bristles, half a pixel to one and a half wide, in a ferrule."""
    sheet.polygon((0.46, 0.5), (0.54, 0.5), (0.53, 0.97), (0.47, 0.97))
    sheet.polygon((0.43, 0.4), (0.57, 0.4), (0.56, 0.52), (0.44, 0.52))
    for _ in range(500):
        x = sheet.rng.uniform(0.43, 0.57)
        end = x + (x - 0.5) * sheet.rng.uniform(0.2, 2.2) + sheet.rng.normal(0, 0.01)
        tip = (end, sheet.rng.uniform(0.03, 0.12))
        sheet.line([(x, 0.41), ((x + end) / 2, 0.22), tip], sheet.rng.integers(1, 4) / sheet.side)
    wood, bristles = sheet.paint(), sheet.paint() * sheet.rng.uniform(0.2, 1)
    bristly = bristles * (1 + 0.3 * sheet.rough(0.001))[..., None]
    return np.where((sheet.y > 0.41)[..., None], wood, bristly) * sheet.lit()


def feather(sheet: Sheet) -> np.ndarray:
    """520 barbs as wide as bristles on a shaft, with bands of light and dark; the backdrop is seen between them all over."""
    sheet.line([(0.5, 0.97), (0.48, 0.6), (0.5, 0.05)], 0.01)
    for at in np.linspace(0.08, 0.75, 260):
        length = 0.22 * np.sin(np.pi * min(1, (at - 0.05) / 0.75)) ** 0.6 * sheet.rng.uniform(0.7, 1.05)
        for side in (-1, 1):
            tip = (0.49 + side * length, at - 0.02 + sheet.rng.normal(0, 0.01))
            sheet.line(
                [(0.49, at + 0.08), (0.49 + side * length * 0.6, at + 0.03), tip], sheet.rng.choice([1, 1, 2, 3]) / sheet.side
            )
    return sheet.paint() * sheet.lit() * (1 + 0.3 * np.sin(40 * sheet.y))[..., None]


def plant(sheet: Sheet) -> np.ndarray:
    """22 leaves on thin stems in a pot."""
    sheet.polygon((0.35, 0.7), (0.65, 0.7), (0.6, 0.97), (0.4, 0.97))
    for _ in range(22):
        angle, length = sheet.rng.uniform(-2.6, -0.5), sheet.rng.uniform(0.25, 0.5)
        x, y = 0.5 + length * np.cos(angle), 0.7 + length * 1.3 * np.sin(angle)
        sheet.line([(0.5, 0.72), ((0.5 + x) / 2, (0.7 + y) / 2 - 0.05), (x, max(0.05, y))], 0.006)
        at = min(max(x, 0.07), 0.93), max(0.07, y)
        sheet.oval(*at, 0.06, 0.025, turned=float(np.degrees(angle)) + sheet.rng.uniform(-40, 40))
    pot, leaf = sheet.paint(), np.array([0.08, 0.3, 0.06]) * sheet.rng.uniform(0.4, 1.6)
    return np.where((sheet.y > 0.69)[..., None], pot, leaf * (1 + 0.4 * sheet.rough(0.01))[..., None]) * sheet.lit()


def net(sheet: Sheet) -> np.ndarray:
    """A bag of up to 24 meshes across, with a hoop."""
    outline = np.array([(0.15, 0.35), (0.85, 0.35), (0.8, 0.9), (0.5, 0.96), (0.2, 0.9)])
    meshes = int(sheet.rng.integers(10, 24))
    width = sheet.rng.uniform(0.12, 0.3) / meshes
    for i in range(-meshes, 2 * meshes):
        for lean in (0.6, -0.6):
            sheet.line([(i / meshes, 0.0), (i / meshes + lean, 1.0)], width)
    bag = np.zeros_like(sheet.cover)
    cv2.fillPoly(bag, [np.round(outline * sheet.side * 16).astype(np.int32)], 255, cv2.LINE_AA, 4)
    sheet.cover[:] = np.minimum(sheet.cover, bag)
    sheet.oval(0.5, 0.35, 0.22, 0.25, line=0.03)
    sheet.line([(0.14, 0.35), (0.86, 0.35)], 0.04)
    return sheet.paint() * sheet.lit()


def shirt(sheet: Sheet) -> np.ndarray:
    """Fine stripes of white and a colour, or checks of them."""
    half = ((0.58, 0.12), (0.7, 0.1), (0.95, 0.35), (0.82, 0.45), (0.74, 0.36), (0.74, 0.93))
    sheet.polygon(*((1 - x, y) for x, y in half[::-1]), *half)
    count, turned = sheet.rng.integers(30, 110), sheet.rng.uniform(0, np.pi)

    def stripes(along: float) -> np.ndarray:
        phase = np.cos(along) * sheet.x + np.sin(along) * sheet.y
        return np.clip(0.5 + 2 * np.sin(2 * np.pi * count * phase), 0, 1)[..., None]

    dyed = stripes(turned)
    if sheet.rng.random() < 0.4:
        dyed = np.maximum(dyed, stripes(turned + np.pi / 2))
    white = sheet.rng.uniform(0.6, 0.95)
    return (sheet.paint() * dyed + white * (1 - dyed)) * (1 + 0.08 * sheet.rough(0.03))[..., None] * sheet.lit()


def knit(sheet: Sheet) -> np.ndarray:
    """White shows between stitches of a colour."""
    sheet.polygon((0.2, 0.2), (0.4, 0.1), (0.6, 0.1), (0.8, 0.2), (0.85, 0.9), (0.15, 0.9))
    stitches = 0.25 + 0.25 * np.sin(2 * np.pi * 70 * sheet.x) * np.sin(2 * np.pi * 50 * sheet.y)
    white = np.clip(stitches + 0.1 * sheet.rough(0.003), 0, 1)[..., None]
    return (sheet.paint() * (1 - white) + 0.85 * white) * sheet.lit()


#: Every kind, in the order of the table.
STRANDS_AND_CLOTH: dict[str, Callable[[Sheet], np.ndarray]] = {
    "brush": brush,
    "feather": feather,
    "plant": plant,
    "net": net,
    "shirt": shirt,
    "knit": knit,
}
