"""The same outside pictures on sets of many kinds: a floor line, grey, coloured or dark paper, lamps that fall off, blown-out white.

Frames of several sizes and formats, the product turned and anywhere, two lamps with shadows of their own, a camera that may be
turned by a few hundredths of a degree, light that drifts in level and tint, sensors from low to high ISO.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from bench.composites import Composite, encoded, linear, pictures
from bench.outside import heading, judged

KINDS = ("sweep", "floor line", "grey", "coloured", "dark", "fall-off", "blown out")
#: Pictures on each kind of set.
EACH = 10
_SEED = 8600
#: A picture of more pixels across than this is a large one.
_LARGE = 512


def table() -> list[str]:
    lines = [
        "## On sets of many kinds",
        "",
        f"{EACH} other pictures of the same package on each (bench/conditions.py); half of the papers have no grain. MSE x 10,000, "
        "mean and median; automatic settings only. On white that is blown out no picture shows where white product ends.",
        "",
        *heading("set"),
    ]
    cv2.setRNGSeed(1)
    every = pictures()
    order = np.random.default_rng(_SEED).permutation(len(every))
    for number, kind in enumerate(KINDS):
        paths = [every[i] for i in order[number * EACH : (number + 1) * EACH]]
        found = judged([photographed(path, kind, _SEED + number * EACH + i) for i, path in enumerate(paths)])
        lines.append(found.row(kind))
    return lines


def photographed(
    path: Path, kind: str, seed: int, part: tuple[float, float] = (0.35, 0.85), height: int | None = None
) -> Composite:
    """One picture on a set of some kind, as large as some `part` of the frame's shorter side; the same seed gives the same."""
    rng = np.random.default_rng(seed)
    drawn = int(rng.choice([800, 1200, 1600]))
    height = height or drawn
    size = height, 2 * int(height * rng.choice([0.8, 1.0, 4 / 3, 1.5]) / 2)
    alpha, colour = _placed(path, size, part, rng)
    bare = _bare(kind, size, rng)
    tint = bare.reshape(-1, 3).mean(axis=0) / bare.mean()
    level = {"dark": 0.35, "blown out": 1.2}.get(kind, 1.0)
    over = alpha[..., None]
    frame = over * colour * level * (1 + tint) / 2 + (1 - over) * _shadows(alpha, colour, rng) * bare
    if rng.random() < 0.5:
        move = cv2.getRotationMatrix2D((size[1] / 2, size[0] / 2), rng.normal(0, 0.05), 1)
        move[:, 2] += rng.normal(0, 1.0, 2)
        flags = {"flags": cv2.INTER_CUBIC, "borderMode": cv2.BORDER_REPLICATE}
        frame, alpha = (cv2.warpAffine(plane.astype(np.float32), move, size[::-1], **flags) for plane in (frame, alpha))
        alpha = np.clip(alpha, 0, 1)
    frame = frame * rng.normal(1, 0.03) * (1 + rng.normal(0, 0.008, 3))
    lens, full_well = rng.uniform(0.4, 1.0), float(rng.choice([20000, 8000, 2500]))

    def shot(light: np.ndarray) -> np.ndarray:
        sharp = cv2.GaussianBlur(light.astype(np.float32), (0, 0), lens)
        return encoded(sharp + rng.normal(0, 1, light.shape) * np.sqrt(np.maximum(sharp, 0) / full_well + 3e-7))

    return Composite(path.stem, shot(frame), shot(bare), cv2.GaussianBlur(alpha.astype(np.float32), (0, 0), lens), colour)


def _placed(
    path: Path, size: tuple[int, int], part: tuple[float, float], rng: np.random.Generator
) -> tuple[np.ndarray, np.ndarray]:
    """Alpha and linear colour on the whole frame, turned and made as large; the colour goes on under the edge."""
    with Image.open(path) as image:
        picture = np.asarray(image.convert("RGBA"), np.float32) / 255
    colour, covered = linear(picture[..., :3]).astype(np.float32), picture[..., 3]
    side = int(min(size) * rng.uniform(*part))
    width = picture.shape[1]
    if width > max(side, _LARGE):  # it is made smaller first, or it would be coarse
        light = cv2.resize(colour * covered[..., None], (side, side), interpolation=cv2.INTER_AREA)
        covered = cv2.resize(covered, (side, side), interpolation=cv2.INTER_AREA)
        colour, width = light / np.maximum(covered[..., None], 1e-4), side
    near = (
        cv2.GaussianBlur(colour * covered[..., None], (0, 0), 3)
        / np.maximum(cv2.GaussianBlur(covered, (0, 0), 3), 1e-4)[..., None]
    )
    colour = np.where(covered[..., None] > 0.98, colour, near)
    turn = cv2.getRotationMatrix2D((width / 2, width / 2), rng.uniform(-25, 25), 0.9) * (side / width)
    covered = cv2.warpAffine(covered, turn, (side, side), flags=cv2.INTER_CUBIC)
    colour = cv2.warpAffine(colour, turn, (side, side), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    top, left = int((size[0] - side) * rng.uniform(0.3, 1)), int((size[1] - side) * rng.uniform(0.1, 0.9))
    alpha, light = np.zeros(size, np.float32), np.zeros((*size, 3), np.float32)
    here = slice(top, top + side), slice(left, left + side)
    alpha[here], light[here] = np.clip(covered, 0, 1), np.clip(colour, 0, 1)
    alpha[alpha < 0.01], alpha[alpha > 0.99] = 0, 1
    return alpha, light * rng.uniform(0.6, 0.95)


def _bare(kind: str, size: tuple[int, int], rng: np.random.Generator) -> np.ndarray:
    """The empty set's light, (H, W, 3)."""
    y, x = np.mgrid[0 : 1 : size[0] * 1j, 0 : 1 : size[1] * 1j]
    level = 0.8 - 0.1 * (x - 0.5) ** 2 - 0.12 * (y - 0.4) ** 2
    tint = np.ones(3)
    if kind == "floor line":
        line = y - rng.uniform(0.5, 0.75) - 0.03 * np.sin(2 * x)
        level = level * (1 - 0.18 / (1 + np.exp(-line / 0.012)))
    elif kind == "grey":
        level = level * rng.uniform(0.25, 0.6)
    elif kind == "coloured":
        tint = rng.uniform(0.35, 1, 3)
    elif kind == "dark":
        level = level * rng.uniform(0.04, 0.12)
    elif kind == "fall-off":
        level = level / (1 + 1.2 * ((x - 0.5) ** 2 + (y - 0.5) ** 2)) ** 2
    elif kind == "blown out":
        level = level * 1.45
    grain = rng.choice([0, 0, 0.004, 0.012])
    texture = cv2.GaussianBlur(rng.standard_normal(size), (0, 0), rng.uniform(1, 3))
    return np.asarray((level * (1 + grain * texture / texture.std()))[..., None] * tint, np.float32)


def _shadows(alpha: np.ndarray, colour: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """What two lamps and the contact leave of the light, (H, W, 3), tinted by the product."""
    height, width = alpha.shape
    rows = np.flatnonzero((alpha > 0.5).any(axis=1))
    base, unit = (int(rows[-1]) if rows.size else height), height / 1000
    left = np.ones(alpha.shape, np.float32)
    for _ in range(2):
        lean, flat = rng.uniform(-0.7, 0.7), rng.uniform(0.12, 0.5)
        move = np.array([[1, lean, -lean * base], [0, flat, base * (1 - flat) + rng.uniform(0, 10)]])
        fallen = cv2.warpAffine(alpha, move, (width, height))
        left *= 1 - rng.uniform(0.1, 0.45) * cv2.GaussianBlur(fallen, (0, 0), unit * rng.uniform(12, 45))
    contact = cv2.warpAffine(alpha, np.array([[1, 0, 0], [0, 0.12, base * 0.88 + 6]]), (width, height))
    left *= 1 - rng.uniform(0.1, 0.5) * cv2.GaussianBlur(contact, (0, 0), unit * rng.uniform(4, 10))
    mean = (colour * alpha[..., None]).sum(axis=(0, 1)) / max(1.0, float(alpha.sum()))
    return np.asarray(1 - (1 - left)[..., None] * (1 - 0.15 * mean / max(1e-3, float(mean.max()))), np.float32)
