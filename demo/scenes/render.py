"""Render the demo's linear light layers, true alpha and depth. Author-time only; see README.md here.

    python demo/scenes/render.py [--angle front] [--samples 64] [--scale 1.0] [--spin 0] [--out demo/layers] [CODE ...]

In a folder for each angle, for every product: `<code>_front`, `<code>_backdrop` (scene-linear RGB for one lamp
group each), `<code>_alpha` and `<code>_depth`; for the empty set `empty_front`, `empty_backdrop`, `empty_depth`.
With `--spin N` the folder is `spin`, and `<code>` becomes `<code>_00` and so on for N positions of a turntable.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
import stage
from products import PRODUCTS, Parts, Product


def shapes(parts: Parts, folder: Path, *, surface: dict[str, Any] | None = None) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for i, (mesh, own) in enumerate(parts):
        path = folder / f"part{i}.ply"
        mesh.write(path)
        out[f"part{i}"] = {"type": "ply", "filename": str(path), **(surface or {"bsdf": own})}
    return out


def set_shape(folder: Path, reflectance: tuple[float, float, float]) -> dict[str, Any]:
    from materials import matte

    path = folder / "sweep.ply"
    stage.sweep().write(path)
    return {"type": "ply", "filename": str(path), "bsdf": matte(reflectance)}


def rendered(scene: dict[str, Any], samples: int, seed: int) -> np.ndarray:
    """Mean of passes of 8 samples a pixel; a pass that is far above the others there is a firefly.

    A firefly is one improbable path of great weight. Where one pass exceeds three times the median of
    all passes, it is replaced by that bound.
    """
    import mitsuba as mi

    loaded = mi.load_dict(scene)
    passes = np.stack([np.array(mi.render(loaded, spp=8, seed=seed + k), dtype=np.float32) for k in range(max(1, samples // 8))])
    bound = 3 * np.median(passes, axis=0) + 0.01
    return np.minimum(passes, bound).mean(axis=0)


@dataclass(frozen=True)
class Take:
    """From where, at which size (width, height), with how many samples a pixel."""

    angle: str
    size: tuple[int, int]
    samples: int


def light(group: str, parts: Parts | None, samples: int, seed: int, take: Take) -> np.ndarray:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        scene = {
            "type": "scene",
            "integrator": {"type": "path", "max_depth": 14, "hide_emitters": True},
            "sensor": stage.camera(take.angle, *take.size),
            "sweep": set_shape(folder, stage.SWEEP_REFLECTANCE),
            **stage.lamps(group),
            **(shapes(parts, folder) if parts else {}),
        }
        return rendered(scene, samples, seed)


def true_alpha(parts: Parts, take: Take) -> np.ndarray:
    """Coverage: a black product before an evenly white sky, through the same pixel filter."""
    black = {"bsdf": {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": 0.0}}}}
    with tempfile.TemporaryDirectory() as name:
        scene = {
            "type": "scene",
            "integrator": {"type": "path", "max_depth": 2},
            "sensor": stage.camera(take.angle, *take.size),
            "sky": {"type": "constant", "radiance": {"type": "rgb", "value": 1.0}},
            **shapes(parts, Path(name), surface=black),
        }
        sky = np.mean([rendered(scene, 64, 7 + 100 * k)[..., :3].mean(-1) for k in range(4)], axis=0)
        return np.clip(1 - sky, 0, 1)


def depth(parts: Parts | None, take: Take) -> np.ndarray:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        scene = {
            "type": "scene",
            "integrator": {"type": "aov", "aovs": "d:depth"},
            "sensor": stage.camera(take.angle, *take.size),
            "sweep": set_shape(folder, (0.5, 0.5, 0.5)),
            **(shapes(parts, folder) if parts else {}),
        }
        return rendered(scene, 32, 3)[..., -1]


def without_grain(layer: np.ndarray, empty: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Take the path tracer's grain off the backdrop: smooth layer/empty, never across the outline.

    Normalised convolution over pixels that no product covers at all, at two scales: small near the
    product, where shadows have structure, larger away from it.
    """
    ratio = layer / np.maximum(empty, 1e-6)
    free = (alpha < 0.002).astype(np.float32)
    free = cv2.erode(free, np.ones((3, 3), np.uint8))
    away = cv2.distanceTransform((free > 0).astype(np.uint8), cv2.DIST_L2, 5)
    smooth = None
    for sigma, begins in ((2.5, 0.0), (5.0, 14.0), (10.0, 45.0)):
        weight = cv2.GaussianBlur(free, (0, 0), sigma)
        level = cv2.GaussianBlur(ratio * free[..., None], (0, 0), sigma) / np.maximum(weight, 1e-4)[..., None]
        mix = np.clip((away - begins) / 10.0, 0, 1)[..., None] if begins else 1.0
        smooth = level if smooth is None else smooth * (1 - mix) + level * mix
    keep = free[..., None]
    return (smooth * keep + ratio * (1 - keep)) * empty


def calmed(layer: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """A weak bilateral filter on the inside of the product, against what grain 64 samples leave."""
    inside = cv2.GaussianBlur(cv2.erode((alpha > 0.999).astype(np.float32), np.ones((3, 3), np.uint8)), (0, 0), 0.8)
    coded = np.sqrt(np.maximum(layer, 0)).astype(np.float32)
    calm = cv2.bilateralFilter(coded, 7, 0.07, 1.6)
    return (coded + (calm - coded) * inside[..., None]) ** 2


def write_layer(path: Path, layer: np.ndarray) -> None:
    """JPEG XL, 16 bit, square root of scene-linear light over a full scale of 4.0."""
    import imagecodecs

    coded = np.sqrt(np.clip(layer / 4.0, 0, 1)) * 65535
    path.write_bytes(imagecodecs.jpegxl_encode(np.round(coded).astype(np.uint16), distance=0.15, effort=7))


def write_plane(path: Path, plane: np.ndarray, full_scale: float) -> None:
    coded = np.round(np.clip(plane / full_scale, 0, 1) * 65535).astype(np.uint16)
    import imagecodecs

    path.write_bytes(imagecodecs.jpegxl_encode(coded, lossless=True, effort=7))


def empty_set(out: Path, take: Take) -> dict[str, np.ndarray]:
    """The empty set is smooth everywhere: render once with many samples and smooth broadly. What is there is read."""
    found = {}
    for group in ("front", "backdrop"):
        path = out / f"empty_{group}.jxl"
        if not path.exists():
            raw = light(group, None, take.samples * 2, 11, take)
            write_layer(path, cv2.GaussianBlur(raw, (0, 0), 12.0 * take.size[0] / 1500, borderType=cv2.BORDER_REFLECT))
        found[group] = cv2.resize(read_layer(path), take.size, interpolation=cv2.INTER_AREA)
    if not (out / "empty_depth.jxl").exists():
        write_plane(out / "empty_depth.jxl", depth(None, take), 32.0)
    return found


def read_layer(path: Path) -> np.ndarray:
    import imagecodecs

    return (imagecodecs.jpegxl_decode(path.read_bytes()).astype(np.float32) / 65535) ** 2 * 4.0


def product(name: str, parts: Parts, empty: dict[str, np.ndarray], out: Path, take: Take) -> None:
    began = time.monotonic()
    alpha = true_alpha(parts, take)
    layers = {group: light(group, parts, take.samples, 101, take) for group in ("front", "backdrop")}
    write_plane(out / f"{name}_alpha.jxl", alpha, 1.0)
    write_plane(out / f"{name}_depth.jxl", depth(parts, take), 32.0)
    for group, layer in layers.items():
        write_layer(out / f"{name}_{group}.jxl", calmed(without_grain(layer, empty[group], alpha), alpha))
    print(f"{out.name} {name}: {time.monotonic() - began:.0f} s", flush=True)


def turned(item: Product, degrees: float) -> Parts:
    return [(mesh.turned(degrees), surface) for mesh, surface in item.build()]


def main() -> None:
    import mitsuba as mi

    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("codes", nargs="*")
    parser.add_argument("--angle", choices=sorted(stage.ANGLES), default="front")
    parser.add_argument("--samples", type=int, default=64)
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--spin", type=int, default=0)
    parser.add_argument("--out", type=Path, default=Path(__file__).parents[1] / "layers")
    args = parser.parse_args()
    mi.set_variant("llvm_ad_rgb")
    take = Take(args.angle, (round(stage.WIDTH * args.scale), round(stage.HEIGHT * args.scale)), args.samples)
    by_angle = args.out / args.angle
    by_angle.mkdir(parents=True, exist_ok=True)
    # Where the camera stands as it does for the front, the empty set is the same.
    moved = stage.ANGLES[args.angle][:2] != stage.ANGLES["front"][:2]
    empty = empty_set(by_angle if moved else args.out / "front", take)
    for item in PRODUCTS:
        if args.codes and item.code not in args.codes:
            continue
        if args.spin:
            folder = args.out / "spin"
            folder.mkdir(exist_ok=True)
            for position in range(args.spin):
                if not (folder / f"{item.code}_{position:02d}_backdrop.jxl").exists():
                    product(f"{item.code}_{position:02d}", turned(item, 360 * position / args.spin), empty, folder, take)
        else:
            product(item.code, turned(item, stage.ANGLES[args.angle][2]), empty, by_angle, take)


if __name__ == "__main__":
    main()
