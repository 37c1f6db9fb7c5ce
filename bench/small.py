"""The same outside pictures small in their frame, as where one camera stands for large and small products alike."""

from __future__ import annotations

import cv2
import numpy as np

from bench.composites import pictures
from bench.conditions import photographed
from bench.outside import heading, judged

KINDS = ("sweep", "floor line", "grey", "fall-off")
#: Pictures on each kind of set, in parts of the frame's shorter side, and the frame's height in pixels.
EACH, PARTS, HEIGHT = 2, ((0.25, 0.35), (0.12, 0.25), (0.06, 0.12)), 1200
_SEED = 41700


def table() -> list[str]:
    lines = [
        "## Small in the frame",
        "",
        f"{len(KINDS) * EACH} pictures of the same package each, in frames {HEIGHT} px high, on sets of {len(KINDS)} kinds (bench/small.py). "
        "MSE x 10,000 of the frame, mean and median; automatic settings only.",
        "",
        *heading("part of the shorter side"),
    ]
    cv2.setRNGSeed(1)
    every = pictures()
    order = np.random.default_rng(_SEED).permutation(len(every))
    for number, part in enumerate(PARTS):
        first = number * len(KINDS) * EACH
        scenes = [
            photographed(every[order[first + i]], kind, _SEED + first + i, part, HEIGHT)
            for i, kind in enumerate(np.repeat(KINDS, EACH))
        ]
        lines.append(judged(scenes).row(f"{part[0]:.2f} to {part[1]:.2f}"))
    return lines
