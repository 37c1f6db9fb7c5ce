"""The shift, turn and scale that take one picture to another."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Plane


@dataclass(frozen=True, slots=True)
class Similarity:
    """x' = a x - b y + right; y' = b x + a y + down: pixels of one picture to those of another, y downwards."""

    a: float = 1.0
    b: float = 0.0
    right: float = 0.0
    down: float = 0.0

    @classmethod
    def about(
        cls, centre: tuple[float, float], *, degrees: float = 0.0, scale: float = 1.0, shift: tuple[float, float] = (0.0, 0.0)
    ) -> Similarity:
        """Turn (clockwise as seen) and scale about a point (x, y), then shift."""
        angle = np.deg2rad(degrees)
        a, b = float(scale * np.cos(angle)), float(scale * np.sin(angle))
        x, y = centre
        return cls(a, b, x + shift[0] - a * x + b * y, y + shift[1] - b * x - a * y)

    @property
    def scale(self) -> float:
        return float(np.hypot(self.a, self.b))

    @property
    def degrees(self) -> float:
        return float(np.degrees(np.arctan2(self.b, self.a)))

    @property
    def matrix(self) -> NDArray[np.float64]:
        return np.array([[self.a, -self.b, self.right], [self.b, self.a, self.down]])

    def moved(self, x: float, y: float) -> tuple[float, float]:
        return self.a * x - self.b * y + self.right, self.b * x + self.a * y + self.down

    def turned(self, degrees: float, about: tuple[float, float]) -> Similarity:
        """The same and then a turn about a point (x, y)."""
        more = Similarity.about(about, degrees=degrees)
        right, down = more.moved(self.right, self.down)
        return Similarity(more.a * self.a - more.b * self.b, more.b * self.a + more.a * self.b, right, down)

    def at(self, factor: float) -> Similarity:
        """The same between pictures `factor` times as large, pixel centres at whole numbers."""
        edge = (factor - 1) / 2
        right = factor * self.right + edge - self.a * edge + self.b * edge
        down = factor * self.down + edge - self.b * edge - self.a * edge
        return Similarity(self.a, self.b, right, down)


#: Rounds at each size, and the change (pixels at the picture's rim) at which it is good.
_ROUNDS = 40
_GOOD = 0.004


def register(template: Plane, picture: Plane, start: Similarity | None = None, *, levels: int = 3) -> tuple[Similarity, float]:
    """The similarity that takes `template` (H, W) to where it lies in `picture` (H, W), and their correlation there.

    Gauss-Newton on squared differences, gain and offset of the values free, from small to large (Lucas and
    Kanade 1981; the enhanced correlation of Evangelidis and Psarakis 2008 has the same optimum). The
    correlation is Pearson's, -1 to 1; below about 0.5 the similarity means nothing.
    """
    found = start or Similarity()
    correlation = 0.0
    for level in reversed(range(levels)):
        factor = 2.0**level
        # Smooth enough that reading between pixels changes nothing.
        one, other = (cv2.GaussianBlur(_smaller(plane, level), (0, 0), 1.0) for plane in (template, picture))
        found, correlation = _refined(np.asarray(one, np.float32), np.asarray(other, np.float32), found.at(1 / factor))
        found = found.at(factor)
    return found, correlation


def _smaller(plane: Plane, level: int) -> Plane:
    for _ in range(level):
        height, width = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
        plane = np.asarray(cv2.resize(plane[:height, :width], None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.float32)
    return plane


def _refined(template: Plane, picture: Plane, found: Similarity) -> tuple[Similarity, float]:
    height, width = template.shape
    down, across = (cv2.Sobel(picture, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((0, 1), (1, 0)))
    y, x = np.mgrid[:height, :width].astype(np.float32)
    x0, y0 = np.float32(width / 2), np.float32(height / 2)
    half = max(x0, y0)
    best, best_correlation = found, -1.0
    for _ in range(_ROUNDS):
        warp, flags = found.matrix, cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        seen, gx, gy = (
            cv2.warpAffine(p, warp, (width, height), flags=flags, borderMode=cv2.BORDER_REPLICATE)
            for p in (picture, across, down)
        )
        correlation = _correlation(template, np.asarray(seen, np.float32))
        if correlation > best_correlation:
            best, best_correlation = found, correlation
        # Columns: what a, b, right and down do to the picture seen; and gain and offset of the template.
        u, v = (x - x0) / half, (y - y0) / half
        columns = [gx * u + gy * v, gy * u - gx * v, gx, gy, -template, -np.ones_like(template)]
        table = np.stack([c.reshape(-1) for c in columns], axis=1)
        step = np.linalg.lstsq(table.T @ table + 1e-9 * np.eye(6), -table.T @ seen.reshape(-1), rcond=None)[0]
        da, db = float(step[0] / half), float(step[1] / half)
        right, below = float(step[2]) - da * float(x0) + db * float(y0), float(step[3]) - db * float(x0) - da * float(y0)
        found = Similarity(found.a + da, found.b + db, found.right + right, found.down + below)
        if not 0.2 < found.scale < 5 or max(abs(step[0]), abs(step[1]), abs(step[2]), abs(step[3])) < _GOOD:
            break
    return best, best_correlation


def _correlation(one: Plane, other: Plane) -> float:
    a, b = one - one.mean(), other - other.mean()
    return float((a * b).sum() / max(1e-12, np.sqrt(float((a * a).sum()) * float((b * b).sum()))))
