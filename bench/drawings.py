"""Products drawn from nothing but numbers, for what outside pictures lack: grilles, fur, chains, cups on white, legs of chairs.

Each is drawn at twice its size and reduced: alpha (S, S) from 0 to 1 and linear colour (S, S, 3), which goes on beyond the edge.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from bench.sheet import Sheet
from bench.woven import STRANDS_AND_CLOTH

#: Drawn so many times as large.
_OVER = 2


def cup(sheet: Sheet) -> np.ndarray:
    """White, its sides in shade, with an ear; some have a print."""
    sheet.polygon((0.15, 0.15), (0.72, 0.15), (0.68, 0.95), (0.2, 0.95))
    sheet.oval(0.44, 0.95, 0.24, 0.04)
    cv2.ellipse(sheet.cover, *_ear(sheet.side), 0, -95, 95, 255, round(0.05 * sheet.side), cv2.LINE_AA)
    round_it = np.clip(1 - 0.35 * np.abs((sheet.x - 0.43) / 0.3) ** 2.2, 0.3, 1)[..., None]
    white = np.array([0.78, 0.78, 0.76]) * sheet.rng.uniform(0.85, 1.12) * round_it
    white = white * (1 - 0.25 * np.exp(-(((sheet.y - 0.17) / 0.01) ** 2)))[..., None]
    if sheet.rng.random() < 0.6:
        disc = sheet.in_oval(0.43, 0.55, 0.12, 0.12)
        white = white * (1 - disc) + disc * sheet.rng.uniform(0.02, 0.6, 3)
    return white


def _ear(side: int) -> tuple[tuple[int, int], tuple[int, int]]:
    return (round(0.71 * side), round(0.5 * side)), (round(0.17 * side), round(0.2 * side))


def ring(sheet: Sheet) -> np.ndarray:
    tall, turned, line = sheet.rng.uniform(0.25, 0.42), sheet.rng.uniform(0, 180), sheet.rng.uniform(0.03, 0.14)
    sheet.oval(0.5, 0.5, 0.42, tall, turned=turned, line=line)
    return sheet.paint() * sheet.lit() * (1 + 0.5 * np.sin(9 * sheet.x + 7 * sheet.y + sheet.rng.uniform(0, 6)))[..., None]


def grille(sheet: Sheet) -> np.ndarray:
    """As many as 225 openings, turned a little."""
    bars = int(sheet.rng.integers(5, 16))
    width = sheet.rng.uniform(0.25, 0.6) / bars
    for at in 0.06 + 0.88 * np.arange(bars + 1) / bars:
        sheet.line([(at, 0.06), (at, 0.94)], width)
        sheet.line([(0.06, at), (0.94, at)], width)
    turn = cv2.getRotationMatrix2D((sheet.side / 2, sheet.side / 2), sheet.rng.uniform(-20, 20), 0.85)
    sheet.cover[:] = cv2.warpAffine(sheet.cover, turn, sheet.cover.shape, flags=cv2.INTER_CUBIC)
    return sheet.paint() * sheet.lit()


def fur(sheet: Sheet) -> np.ndarray:
    """A ball with 1400 curved hairs of its own colour, of a quarter of a pixel to two in width."""
    sheet.oval(0.5, 0.55, 0.28, 0.28)
    for _ in range(1400):
        around = sheet.rng.uniform(0, 2 * np.pi)
        length, bend = sheet.rng.uniform(0.04, 0.17), sheet.rng.normal(0, 0.02)
        angles = around + sheet.rng.normal(0, 0.4) + bend * np.arange(20)
        steps = length / 20 * np.stack([np.cos(angles), np.sin(angles)], axis=1)
        root = np.array([0.5, 0.55]) + 0.27 * np.array([np.cos(around), np.sin(around)])
        sheet.line(root + np.concatenate([[[0.0, 0.0]], np.cumsum(steps, axis=0)]), sheet.rng.integers(1, 4) / sheet.side)
    return sheet.paint() * sheet.rng.uniform(0.2, 0.7) * (1 + 0.35 * sheet.rough(0.001))[..., None] * sheet.lit()


def chair(sheet: Sheet) -> np.ndarray:
    """Four thin legs, a back of bars, painted in bands."""
    legs = (((0.2, 0.1), (0.2, 0.95)), ((0.75, 0.55), (0.75, 0.95)), ((0.35, 0.1), (0.35, 0.88)), ((0.6, 0.5), (0.6, 0.88)))
    for begin, end in legs:
        sheet.line([begin, end], 0.03 * sheet.rng.uniform(0.6, 1.2))
    for bar in 0.15 + 0.08 * np.arange(4):
        sheet.line([(0.2, bar), (0.36, bar - 0.03)], 0.02)
    sheet.polygon((0.18, 0.52), (0.35, 0.46), (0.78, 0.5), (0.76, 0.58))
    return sheet.paint() * sheet.lit() * (1 + 0.2 * np.sin(60 * sheet.y + 3 * sheet.rough(0.02)))[..., None]


def chain(sheet: Sheet) -> np.ndarray:
    for at in np.linspace(0, 2 * np.pi, int(sheet.rng.integers(40, 90))):
        x, y = 0.5 + 0.38 * np.cos(at), 0.5 + 0.3 * np.sin(at) + 0.08 * np.sin(2 * at)
        sheet.oval(x, y, 0.025, 0.013, turned=float(np.degrees(at)) + 90, line=0.006)
    sheet.oval(0.5, 0.82, 0.06, 0.06)
    return np.array([0.75, 0.55, 0.2]) * np.clip(0.6 + 0.4 * sheet.rough(0.003), 0.02, 1)[..., None]


def bottle(sheet: Sheet) -> np.ndarray:
    """Dark, with a white label that is in shade at its sides."""
    outline = ((0.4, 0.04), (0.6, 0.04), (0.6, 0.25), (0.74, 0.38), (0.74, 0.96), (0.26, 0.96), (0.26, 0.38), (0.4, 0.25))
    sheet.polygon(*outline)
    off = np.abs(sheet.x - 0.5) / 0.25
    label = ((sheet.y > 0.5) & (sheet.y < 0.8))[..., None]
    glass = 0.4 * sheet.paint() * np.clip(1 - 0.75 * off**2, 0.2, 1)[..., None]
    return np.where(label, 0.8 * np.clip(1 - 0.6 * off**3, 0.2, 1)[..., None] * np.array([1, 1, 0.97]), glass)


def plates(sheet: Sheet) -> np.ndarray:
    """Seven white and grey ones, one on another."""
    colour = np.zeros((*sheet.cover.shape, 3))
    for level in 0.9 - 0.07 * np.arange(7):
        sheet.oval(0.5, level, 0.42, 0.06)
        there = sheet.in_oval(0.5, level, 0.42, 0.06)
        white = sheet.rng.choice([0.82, 0.7, 0.55]) * sheet.rng.uniform(0.85, 1.1) * np.array([1, 0.99, 0.96])
        rounded = 0.75 + 0.25 * np.exp(-(((sheet.y - level) / 0.03) ** 2))
        colour = np.where(there > 0, white * rounded[..., None], colour)
    return colour


#: Every kind of product, in the order of the table.
PRODUCTS: dict[str, Callable[[Sheet], np.ndarray]] = {
    "cup": cup,
    "ring": ring,
    "grille": grille,
    "fur": fur,
    "chair": chair,
    "chain": chain,
    "bottle": bottle,
    "plates": plates,
    **STRANDS_AND_CLOTH,
}


def drawn(kind: str, side: int, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Alpha (side, side) and linear colour (side, side, 3) of a product of some kind."""
    large = _OVER * side
    y, x = np.mgrid[0 : 1 : large * 1j, 0 : 1 : large * 1j]
    sheet = Sheet(rng, np.zeros((large, large), np.uint8), x, y)
    colour = np.clip(PRODUCTS[kind](sheet), 0.004, 1).astype(np.float32)
    small = cv2.resize(np.broadcast_to(colour, (large, large, 3)).copy(), (side, side), interpolation=cv2.INTER_AREA)
    return cv2.resize(sheet.cover, (side, side), interpolation=cv2.INTER_AREA).astype(np.float32) / 255, small
