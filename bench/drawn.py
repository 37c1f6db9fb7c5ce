"""Products that are drawn (drawings.py) before papers, grey card, tents and tables, with shadows, noise, drift and JPEG."""

from __future__ import annotations

import cv2
import numpy as np

from bench.composites import Composite, encoded
from bench.compressed import saved
from bench.drawings import PRODUCTS, drawn
from bench.outside import heading, judged

SETS = ("white", "grey", "tent", "gradient", "cloth", "coloured", "table")
#: Frames of each kind of product.
EACH = 5
_SEED = 91000


def table() -> list[str]:
    lines = [
        "## Products that are drawn",
        "",
        f"{EACH} each of {len(PRODUCTS)} kinds, 600 to 1400 px high, on sets of {len(SETS)} kinds (bench/drawn.py), a third of them with "
        "a camera that was touched, and a third saved as JPEG of quality 92 to 98. MSE x 10,000, mean and median; automatic settings "
        "only. Other drawings of the same kinds were worked on; of these the cups were looked at.",
        "",
        *heading("product"),
    ]
    cv2.setRNGSeed(1)
    for number, kind in enumerate(PRODUCTS):
        found = judged([photographed(kind, _SEED + number * EACH + i) for i in range(EACH)])
        lines.append(found.row(kind))
    return lines


def photographed(kind: str, seed: int) -> Composite:
    """One product of a kind; the same seed gives the same."""
    rng = np.random.default_rng(seed)
    height = int(rng.choice([600, 900, 1400]))
    size = height, 2 * int(height * rng.choice([0.75, 1, 1.5]) / 2)
    side = int(min(size) * rng.uniform(0.5, 0.85))
    alpha, colour = np.zeros(size, np.float32), np.full((*size, 3), 0.3, np.float32)
    top, left = int((size[0] - side) * rng.uniform(0.4, 0.95)), int((size[1] - side) * rng.uniform(0.2, 0.8))
    here = slice(top, top + side), slice(left, left + side)
    alpha[here], colour[here] = drawn(kind, side, rng)
    bare, level = _bare(str(rng.choice(SETS)), size, rng)
    tint = bare.reshape(-1, 3).mean(axis=0) / bare.mean()
    over = alpha[..., None]
    frame = over * colour * level * (1 + tint) / 2 + (1 - over) * _shadow(alpha, rng)[..., None] * bare
    frame = frame.astype(np.float32)
    if rng.random() < 1 / 3:
        move = np.array([[1, 0, rng.normal(0, 1.1)], [0, 1, rng.normal(0, 1.1)]])
        frame = cv2.warpAffine(frame, move, size[::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        alpha = np.clip(cv2.warpAffine(alpha, move, size[::-1], flags=cv2.INTER_CUBIC), 0, 1)
    y, x = np.mgrid[-0.5 : 0.5 : size[0] * 1j, -0.5 : 0.5 : size[1] * 1j]
    frame = frame * (rng.normal(1, 0.025) * (1 + rng.normal(0, 0.008, 3)))
    frame = frame * (1 + rng.normal(0, 0.008) * x + rng.normal(0, 0.008) * y)[..., None]
    lens, full_well = rng.uniform(0.4, 1.3), float(rng.choice([20000, 6000, 2000]))
    quality = int(rng.choice([98, 95, 92])) if rng.random() < 1 / 3 else 0

    def shot(light: np.ndarray) -> np.ndarray:
        sharp = cv2.GaussianBlur(light.astype(np.float32), (0, 0), lens)
        return encoded(sharp + rng.normal(0, 1, light.shape) * np.sqrt(np.maximum(sharp, 0) / full_well + 4e-7))

    return saved(Composite(f"{kind} {seed}", shot(frame), shot(bare), cv2.GaussianBlur(alpha, (0, 0), lens), colour), quality)


def _bare(kind: str, size: tuple[int, int], rng: np.random.Generator) -> tuple[np.ndarray, float]:
    """The empty set's light, (H, W, 3), and how much of the light falls on the product."""
    y, x = np.mgrid[0 : 1 : size[0] * 1j, 0 : 1 : size[1] * 1j]
    white, tint = rng.uniform(0.6, 0.9), np.ones(3)
    level = white * (1 - rng.uniform(0.05, 0.3) * ((x - rng.uniform(0.3, 0.7)) ** 2 + (y - rng.uniform(0.3, 0.7)) ** 2))
    if kind == "grey":
        level = level * 0.35
    elif kind == "tent":
        creases = 0.25 * np.exp(-(((y - 0.7) / 0.02) ** 2)) + 0.15 * np.exp(-(((x - 0.3) / 0.01) ** 2))
        level = level * 0.3 * (1 - creases)
    elif kind == "gradient":
        level = white * (1 - 0.6 * y)
    elif kind == "cloth":
        level = level * (1 + 0.05 * _rough(size, 4, rng) + 0.03 * _rough(size, 25, rng))
    elif kind == "coloured":
        tint = rng.uniform(0.2, 1, 3)
    elif kind == "table":
        level = cv2.GaussianBlur(np.where(y > 0.6, 0.8 * level, level), (0, 0), size[0] / 400)
    if kind != "cloth" and rng.random() < 0.5:
        level = level * (1 + 0.005 * _rough(size, 1.5, rng))
    return np.asarray(level[..., None] * tint, np.float32), 0.45 if kind == "tent" else 1.0


def _rough(size: tuple[int, int], sigma: float, rng: np.random.Generator) -> np.ndarray:
    found = cv2.GaussianBlur(rng.standard_normal(size), (0, 0), sigma)
    return np.asarray(found / found.std())


def _shadow(alpha: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """What one to three lamps and the contact leave of the light, (H, W)."""
    height, width = alpha.shape
    base, unit = int(np.flatnonzero((alpha > 0.5).any(axis=1))[-1]), height / 1000
    left = np.ones(alpha.shape, np.float32)
    for _ in range(int(rng.integers(1, 4))):
        lean, flat = rng.uniform(-0.8, 0.8), rng.uniform(0.1, 0.6)
        fallen = cv2.warpAffine(alpha, np.array([[1, lean, -lean * base], [0, flat, base * (1 - flat)]]), (width, height))
        left *= 1 - rng.uniform(0.05, 0.4) * cv2.GaussianBlur(fallen, (0, 0), unit * rng.uniform(6, 50))
    foot = alpha * (np.arange(height) > base - 0.05 * height)[:, None]
    contact = cv2.warpAffine(foot, np.array([[1, 0, 0], [0, 0.3, base * 0.7 + 3]]), (width, height))
    return np.asarray(left * (1 - rng.uniform(0.2, 0.7) * cv2.GaussianBlur(contact, (0, 0), unit * rng.uniform(3, 9))))
