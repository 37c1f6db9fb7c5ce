"""The same outside pictures saved coarsely: what a JPEG encoder leaves of soft shadows, of frame and backdrop frame alike."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from bench.composites import Composite, pictures
from bench.conditions import photographed
from bench.outside import heading, judged

KINDS = ("sweep", "floor line", "grey", "fall-off")
#: Pictures on each kind of set; each is saved in every quality (as libjpeg counts it, colour at half the size), 0 not at all.
EACH, QUALITIES = 3, (0, 92, 85, 75, 60)
_SEED = 20900


def saved(made: Composite, quality: int) -> Composite:
    """The same after an encoder; with quality 0 as it was."""
    if not quality:
        return made
    options = [cv2.IMWRITE_JPEG_QUALITY, quality]

    def through(pixels: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(
            cv2.imdecode(cv2.imencode(".jpg", pixels[..., ::-1], options)[1], cv2.IMREAD_COLOR)[..., ::-1]
        )

    return replace(made, frame=through(made.frame), backdrop=through(made.backdrop))


def table() -> list[str]:
    lines = [
        "## Saved coarsely",
        "",
        f"{len(KINDS) * EACH} pictures of the same package, 800 to 1600 px high, on sets of {len(KINDS)} kinds (bench/compressed.py), "
        "saved as JPEG of several qualities. MSE x 10,000, mean and median; automatic settings only.",
        "",
        *heading("quality"),
    ]
    cv2.setRNGSeed(1)
    every = pictures()
    order = np.random.default_rng(_SEED).permutation(len(every))
    scenes = [photographed(every[order[i]], kind, _SEED + i) for i, kind in enumerate(np.repeat(KINDS, EACH))]
    for quality in QUALITIES:
        found = judged([saved(made, quality) for made in scenes])
        lines.append(found.row(str(quality or "not compressed")))
    return lines
