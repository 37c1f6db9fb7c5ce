"""Frames with true alpha that nobody here made: pictures of a registry package, laid over empty sets in linear light.

The pictures are the 3D emoji of the npm package `@lobehub/fluent-emoji-3d` (MIT), 256 px with soft alpha, enlarged. Each is
photographed, so to speak, in three ways: as it should be; with the camera touched and the lamps drifted after the empty set;
in a dim grey tent with strong shadows. The shadow takes some of the product's colour, as bounced light does.
"""

from __future__ import annotations

import io
import shutil
import subprocess
import tarfile
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import cv2
import numpy as np
from PIL import Image

ROOT = Path(__file__).parents[1]
PACKAGE, VERSION = "@lobehub/fluent-emoji-3d", "1.1.0"
HEIGHT, WIDTH = 1000, 1500
Variant = Literal["still", "touched", "tent"]
VARIANTS: tuple[Variant, ...] = ("still", "touched", "tent")
#: As the pictures are; nearly as light as the paper; with hair on them; of glass with a dark rim and highlights.
Material = Literal["solid", "pale", "strands", "clear"]
MATERIALS: tuple[Material, ...] = ("solid", "pale", "strands", "clear")


@dataclass(frozen=True)
class Composite:
    """Frame and empty set (uint8 sRGB), the true alpha (H, W), and the true product colour (H, W, 3), linear."""

    name: str
    frame: np.ndarray
    backdrop: np.ndarray
    alpha: np.ndarray
    colour: np.ndarray


def pictures() -> list[Path]:
    """All pictures of the package, fetched once by npm."""
    return sorted(fetched(PACKAGE, VERSION, "emoji").rglob("*.webp"))


def fetched(package: str, version: str, name: str) -> Path:
    """The folder that a package lies in, fetched once by npm."""
    folder = ROOT / "var" / "bench" / f"{name}-{version}"
    if not folder.exists():
        half = folder.with_suffix(".part")
        shutil.rmtree(half, ignore_errors=True)
        half.mkdir(parents=True)
        subprocess.run(["npm", "pack", "--silent", f"{package}@{version}"], cwd=half, check=True, capture_output=True)
        with tarfile.open(next(half.glob("*.tgz"))) as archive:
            archive.extractall(half, filter="data")
        half.rename(folder)
    return folder


def linear(encoded: np.ndarray) -> np.ndarray:
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def encoded(linear: np.ndarray) -> np.ndarray:
    linear = np.clip(linear, 0, 1)
    out = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)
    return np.round(255 * out).astype(np.uint8)


def _product(path: Path, rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Alpha and linear colour on the whole frame; the colour continues under the edge, so that nothing dark is mixed in."""
    with Image.open(path) as image:
        small = np.asarray(image.convert("RGBA"), np.float32) / 255
    side = int(rng.uniform(560, 780))
    colour, covered = linear(small[..., :3]), small[..., 3:]
    spread = cv2.GaussianBlur(colour * covered, (0, 0), 3) / np.maximum(cv2.GaussianBlur(covered, (0, 0), 3)[..., None], 1e-4)
    colour = np.where(covered > 0.98, colour, spread)
    big = [cv2.resize(plane, (side, side), interpolation=cv2.INTER_CUBIC) for plane in (colour, covered)]
    top, left = HEIGHT - side - int(rng.uniform(60, 140)), int((WIDTH - side) * rng.uniform(0.3, 0.7))
    alpha, light = np.zeros((HEIGHT, WIDTH), np.float32), np.zeros((HEIGHT, WIDTH, 3), np.float32)
    here = slice(top, top + side), slice(left, left + side)
    light[here], alpha[here] = np.clip(big[0], 0, 1), np.clip(big[1], 0, 1)
    alpha[alpha < 0.004], alpha[alpha > 0.996] = 0, 1
    return alpha, light * rng.uniform(0.75, 0.95)


def _made_of(
    material: Material, alpha: np.ndarray, colour: np.ndarray, rng: np.random.Generator
) -> tuple[np.ndarray, np.ndarray]:
    """The same product of another material: alpha (H, W) and linear colour (H, W, 3)."""
    grey = colour.mean(axis=-1)
    if material == "pale":
        lightest = max(1e-3, float(np.percentile(grey[alpha > 0.5], 95)))
        return alpha, np.asarray(0.62 + 0.28 * np.clip(grey / lightest, 0, 1)[..., None] + 0.02 * (colour - grey[..., None]))
    if material == "strands":
        hair = _hair(alpha, rng)
        tint = colour[alpha > 0.9].mean(axis=0) * rng.uniform(0.15, 0.5)
        both = alpha + (1 - alpha) * hair
        mixed = alpha[..., None] * colour + ((1 - alpha) * hair)[..., None] * tint
        return both, np.where(both[..., None] > 1e-4, mixed / np.maximum(both, 1e-4)[..., None], colour)
    if material == "clear":
        inside = (alpha > 0.5).astype(np.uint8)
        rim = 0.9 * np.clip((rng.uniform(8, 14) - cv2.distanceTransform(inside, cv2.DIST_L2, 5)) / 3 + 0.5, 0, 1)
        light = np.clip(6 * np.clip(grey - np.percentile(grey[inside > 0], 92), 0, 1), 0, 0.9)
        pane = rng.uniform(0.08, 0.22)
        glass = np.where((rim > pane)[..., None], 0.3 * colour, np.array([0.35, 0.40, 0.42]))
        return alpha * np.maximum(np.maximum(rim, light), pane), np.where((light > pane)[..., None], 1.0, glass)
    return alpha, colour


def _hair(alpha: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """How much of each pixel (H, W) some hundred curved hairs cover that grow out of the upper outline."""
    outlines, _ = cv2.findContours((alpha > 0.5).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    points = max(outlines, key=len)[:, 0]
    middle = points.mean(axis=0)
    points = points[points[:, 1] < np.percentile(points[:, 1], 65)]
    fine = np.zeros((4 * HEIGHT, 4 * WIDTH), np.uint8)
    for point in points[rng.integers(0, len(points), 900)].astype(float):
        outwards = (point - middle) / max(1.0, float(np.linalg.norm(point - middle)))
        angle = np.arctan2(outwards[1], outwards[0]) + rng.normal(0, 0.35)
        length, bend = rng.uniform(25, 90), rng.normal(0, 0.012)
        angles = angle + bend * length / 24 * np.arange(24)
        steps = length / 24 * np.stack([np.cos(angles), np.sin(angles)], axis=1)
        line = point - 6 * outwards + np.concatenate([[[0.0, 0.0]], np.cumsum(steps, axis=0)])
        cv2.polylines(fine, [np.round(64 * line).astype(np.int32)], False, 255, int(rng.integers(3, 8)), cv2.LINE_AA, 4)
    return np.asarray(cv2.resize(fine, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA), np.float32) / 255


def _empty_set(variant: Variant, rng: np.random.Generator, grain_of: float = 0.006) -> np.ndarray:
    y, x = np.mgrid[0 : 1 : HEIGHT * 1j, 0 : 1 : WIDTH * 1j]
    if variant == "tent":
        level = 0.30 - 0.10 * (x - rng.uniform(0.3, 0.7)) ** 2 - 0.14 * np.abs(y - rng.uniform(0.5, 0.75))
        for _ in range(3):  # creases of the cloth
            along = (x - rng.uniform(0, 1)) * np.cos(a := rng.uniform(0, np.pi)) + (y - rng.uniform(0, 1)) * np.sin(a)
            level = level * (1 - rng.uniform(0.02, 0.06) * np.exp(-((along / rng.uniform(0.01, 0.04)) ** 2)))
        tint = np.array([1.0, 0.985, 0.95])
    else:
        level = rng.uniform(0.72, 0.86) - 0.16 * (x - rng.uniform(0.4, 0.6)) ** 2 - 0.14 * (y - rng.uniform(0.2, 0.5)) ** 2
        tint = np.array([0.99, 1.0, 1.005])
    grain = cv2.GaussianBlur(rng.standard_normal((HEIGHT, WIDTH)).astype(np.float32), (0, 0), 2.2)
    return np.asarray((level * (1 + grain_of * grain / grain.std()))[..., None] * tint, np.float32)


def _shadow(alpha: np.ndarray, colour: np.ndarray, strength: float, rng: np.random.Generator) -> np.ndarray:
    """Light on the set, (H, W, 3): dark where the product stands, softer farther out, tinted by the product."""
    rows = np.flatnonzero((alpha > 0.5).any(axis=1))
    base = int(rows[-1]) if rows.size else HEIGHT
    flat = cv2.warpAffine(alpha, np.array([[1, rng.uniform(-0.4, 0.4), 0], [0, 0.22, base * 0.78 + 14]]), (WIDTH, HEIGHT))
    flat = cv2.warpAffine(flat, np.array([[1, 0, rng.uniform(-40, 40)], [0, 1, 0]]), (WIDTH, HEIGHT))
    soft, contact = cv2.GaussianBlur(flat, (0, 0), 38), cv2.GaussianBlur(flat, (0, 0), 9)
    depth = np.clip(strength * (0.65 * soft + 0.35 * contact), 0, 0.85)
    mean = (colour * alpha[..., None]).sum(axis=(0, 1)) / max(1.0, float(alpha.sum()))
    tint = 1 - 0.12 * mean / max(1e-3, float(mean.max()))
    return np.asarray(1 - depth[..., None] * tint, np.float32)


def composite(path: Path, variant: Variant, seed: int, material: Material = "solid", grain_of: float = 0.006) -> Composite:
    """One picture, photographed in one way, on paper with grain of a relative strength. The same seed gives the same."""
    rng = np.random.default_rng(seed)
    alpha, colour = (plane.astype(np.float32) for plane in _made_of(material, *_product(path, rng), rng))
    bare = _empty_set(variant, rng, grain_of)
    strength = rng.uniform(0.5, 0.9) if variant == "tent" else rng.uniform(0.2, 0.55)
    over = alpha[..., None]
    frame = over * colour * (0.5 if variant == "tent" else 1.0) + (1 - over) * _shadow(alpha, colour, strength, rng) * bare
    if variant == "touched":
        move = np.array([[1, 0, 1.5 * np.cos(turn := rng.uniform(0, 6.28))], [0, 1, 1.5 * np.sin(turn)]])
        flags = {"flags": cv2.INTER_CUBIC, "borderMode": cv2.BORDER_REPLICATE}
        frame, alpha, colour = (cv2.warpAffine(plane, move, (WIDTH, HEIGHT), **flags) for plane in (frame, alpha, colour))
        frame, alpha = frame * 1.03, np.clip(alpha, 0, 1)

    def shot(light: np.ndarray) -> np.ndarray:
        sharp = cv2.GaussianBlur(light, (0, 0), 0.55)  # the lens
        return encoded(sharp + rng.normal(0, 1, light.shape) * np.sqrt(np.maximum(sharp, 0) / 9000 + 2e-7))

    return Composite(path.stem, shot(frame), shot(bare), cv2.GaussianBlur(alpha, (0, 0), 0.55), colour)


def chosen(count: int) -> list[Path]:
    """So many pictures, spread evenly over the package; plain squares of text and flags are left out by their shape."""
    every = pictures()
    return [every[i] for i in np.linspace(0, len(every) - 1, count).round().astype(int)]


def png(pixels: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=1)
    return out.getvalue()
