"""Render the products that the cut is measured on (lots.py): light, and true alpha. Author-time only; see demo/scenes/README.md.

    PYTHONPATH=demo/scenes python bench/scenes/render_lots.py [--samples 32] [--stage studio] [--out bench/layers] NUMBER ...

For each product `<number>_light.jxl` (scene-linear RGB) and `<number>_alpha.jxl`, and `empty_light.jxl`, in a folder for each
stage: `studio`, lit as the demo is, and `tent`, dim and grey with one hard lamp and little light from elsewhere.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2] / "demo" / "scenes"))
import render
import stage

from lots import Parts, built

SIZE = (1000, 667)
#: Reflectance of the sweep in each stage.
SWEEPS = {"studio": stage.SWEEP_REFLECTANCE, "tent": (0.44, 0.44, 0.43)}


def lamps(name: str) -> dict[str, Any]:
    if name == "studio":
        return {f"{group}_{lamp}": made for group in ("front", "backdrop") for lamp, made in stage.lamps(group).items()}
    return {
        "key": stage.lamp((-5.0, 8.0, 6.0), (0, 0.6, 0), (0.9, 0.9), (34.0, 33.0, 31.5)),
        "walls": {"type": "constant", "radiance": {"type": "rgb", "value": [0.16, 0.16, 0.165]}},
    }


def light(name: str, parts: Parts | None, take: render.Take, seed: int) -> np.ndarray:
    with tempfile.TemporaryDirectory() as folder:
        scene = {
            "type": "scene",
            "integrator": {"type": "path", "max_depth": 12, "hide_emitters": True},
            "sensor": stage.camera(take.angle, *take.size),
            "sweep": render.set_shape(Path(folder), SWEEPS[name]),
            **lamps(name),
            **(render.shapes(parts, Path(folder)) if parts else {}),
        }
        return render.rendered(scene, take.samples, seed)


def main() -> None:
    import mitsuba as mi

    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("numbers", nargs="*", type=int)
    parser.add_argument("--stage", choices=sorted(SWEEPS), default="studio")
    parser.add_argument("--samples", type=int, default=32)
    parser.add_argument("--out", type=Path, default=Path(__file__).parents[1] / "layers")
    args = parser.parse_args()
    mi.set_variant("llvm_ad_rgb")
    out = args.out / args.stage
    out.mkdir(parents=True, exist_ok=True)
    take = render.Take("front", SIZE, args.samples)
    if not (out / "empty_light.jxl").exists():
        raw = light(args.stage, None, render.Take("front", SIZE, 2 * args.samples), 11)
        render.write_layer(out / "empty_light.jxl", cv2.GaussianBlur(raw, (0, 0), 8.0, borderType=cv2.BORDER_REFLECT))
    empty = render.read_layer(out / "empty_light.jxl")
    for number in args.numbers:
        began = time.monotonic()
        kind, parts = built(number)
        alpha = render.true_alpha(parts, take)
        seen = light(args.stage, parts, take, 101)
        render.write_layer(out / f"{number:03d}_light.jxl", render.calmed(render.without_grain(seen, empty, alpha), alpha))
        render.write_plane(out / f"{number:03d}_alpha.jxl", alpha, 1.0)
        print(f"{args.stage} {number} {kind}: {time.monotonic() - began:.0f} s", flush=True)


if __name__ == "__main__":
    main()
