"""What products are drawn on."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

#: Lines are drawn in parts of a pixel of two to this power.
_SHIFT = 4


@dataclass(frozen=True)
class Sheet:
    """What is drawn on: coverage (N, N) in uint8, and x and y from 0 to 1 of each pixel."""

    rng: np.random.Generator
    cover: np.ndarray
    x: np.ndarray
    y: np.ndarray

    @property
    def side(self) -> int:
        return len(self.cover)

    def polygon(self, *points: tuple[float, float]) -> None:
        cv2.fillPoly(self.cover, [self._px(points)], 255, cv2.LINE_AA, _SHIFT)

    def line(self, points: np.ndarray | list[tuple[float, float]], width: float) -> None:
        cv2.polylines(self.cover, [self._px(points)], False, 255, max(1, round(width * self.side)), cv2.LINE_AA, _SHIFT)

    def oval(self, x: float, y: float, across: float, down: float, *, turned: float = 0.0, line: float | None = None) -> None:
        width = -1 if line is None else max(2, round(line * self.side))
        axes = round(across * self.side), round(down * self.side)
        middle = round(x * self.side), round(y * self.side)
        cv2.ellipse(self.cover, middle, axes, turned, 0, 360, 255, width, cv2.LINE_AA)

    def _px(self, points: np.ndarray | list[tuple[float, float]] | tuple[tuple[float, float], ...]) -> np.ndarray:
        return np.round(np.asarray(points) * self.side * (1 << _SHIFT)).astype(np.int32)

    def rough(self, sigma: float) -> np.ndarray:
        """Noise (N, N) of a standard deviation of 1, as fine as `sigma`, in parts of the side."""
        found = cv2.GaussianBlur(self.rng.standard_normal(self.cover.shape), (0, 0), max(0.8, sigma * self.side))
        return np.asarray(found / found.std())

    def in_oval(self, x: float, y: float, across: float, down: float) -> np.ndarray:
        return np.clip((1 - np.hypot((self.x - x) / across, (self.y - y) / down)) * across * self.side, 0, 1)[..., None]

    def lit(self) -> np.ndarray:
        """Light from above and one side, (N, N, 1)."""
        return (0.65 + 0.5 * self.rng.uniform(-1, 1) * self.x + 0.4 * self.rng.uniform(0, 1) * (1 - self.y))[..., None]

    def paint(self) -> np.ndarray:
        return self.rng.uniform(0.03, 0.8, 3)
