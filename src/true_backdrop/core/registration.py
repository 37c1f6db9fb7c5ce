"""The shift, turn and scale that take one picture to another."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Plane
from true_backdrop.core.compiled import compiled


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
_ROUNDS = 25
_GOOD = 0.004
#: A gain of correlation that is none, and a loss at which it has run away.
_NO_BETTER, _WORSE = 1e-6, 0.05
#: Less than this at a coarse size, and the finer ones are not worth their time.
_HOPELESS = 0.5


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
        if correlation < _HOPELESS:
            break
    return found, correlation


def _smaller(plane: Plane, level: int) -> Plane:
    for _ in range(level):
        height, width = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
        plane = np.asarray(cv2.resize(plane[:height, :width], None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), np.float32)
    return plane


def _refined(template: Plane, picture: Plane, found: Similarity) -> tuple[Similarity, float]:
    height, width = template.shape
    across, down = (
        np.asarray(cv2.Sobel(picture, cv2.CV_32F, *axis, ksize=3, scale=1 / 8), np.float32) for axis in ((1, 0), (0, 1))
    )
    half = max(width, height) / 2
    best, best_correlation = found, -1.0
    normal, moments = np.empty((6, 6)), np.empty(5)
    for _ in range(_ROUNDS):
        normal[:], moments[:] = 0.0, 0.0
        right = _sum_up(template, picture, across, down, found.matrix, half, normal, moments)
        correlation = _correlation(moments, template.size)
        if correlation > best_correlation + _NO_BETTER:
            best, best_correlation = found, correlation
        elif correlation < best_correlation - _WORSE:
            break
        step = np.linalg.lstsq(normal + 1e-9 * np.eye(6), right, rcond=None)[0]
        da, db = float(step[0] / half), float(step[1] / half)
        x, y = width / 2, height / 2
        found = Similarity(
            found.a + da,
            found.b + db,
            found.right + float(step[2]) - da * x + db * y,
            found.down + float(step[3]) - db * x - da * y,
        )
        if not 0.2 < found.scale < 5 or np.abs(step[:4]).max() < _GOOD:
            break
    return best, best_correlation


@compiled
def _sum_up(
    template: Plane,
    picture: Plane,
    across: Plane,
    down: Plane,
    matrix: NDArray[np.float64],
    half: float,
    normal: NDArray[np.float64],
    moments: NDArray[np.float64],
) -> NDArray[np.float64]:
    """One pass over the template: the normal equations of a Gauss-Newton step, and the sums that correlation needs.

    Unknowns: change of a and b (about the middle, in units of `half`), of right and down, and gain and offset of
    the template. `normal` (6, 6) and `moments` (5: t, s, tt, ss, ts) are added to; returns the right side (6,).
    """
    height, width = template.shape
    rows, columns = picture.shape
    right = np.zeros(6)
    column = np.empty(6)
    for y in range(height):
        for x in range(width):
            px = matrix[0, 0] * x + matrix[0, 1] * y + matrix[0, 2]
            py = matrix[1, 0] * x + matrix[1, 1] * y + matrix[1, 2]
            if not (0 <= px < columns - 1 and 0 <= py < rows - 1):
                continue
            left, top = int(px), int(py)
            fx, fy = px - left, py - top
            a, b, c, d = (1 - fx) * (1 - fy), fx * (1 - fy), (1 - fx) * fy, fx * fy
            s = a * picture[top, left] + b * picture[top, left + 1] + c * picture[top + 1, left] + d * picture[top + 1, left + 1]
            t = template[y, x]
            moments[0] += t
            moments[1] += s
            moments[2] += t * t
            moments[3] += s * s
            moments[4] += t * s
            gx = a * across[top, left] + b * across[top, left + 1] + c * across[top + 1, left] + d * across[top + 1, left + 1]
            gy = a * down[top, left] + b * down[top, left + 1] + c * down[top + 1, left] + d * down[top + 1, left + 1]
            if gx == 0 and gy == 0 and t == 0 and s == 0:
                normal[5, 5] += 1
                continue
            u, v = (x - width / 2) / half, (y - height / 2) / half
            column[0], column[1], column[2], column[3] = gx * u + gy * v, gy * u - gx * v, gx, gy
            column[4], column[5] = -t, -1.0
            for i in range(6):
                for j in range(6):
                    normal[i, j] += column[i] * column[j]
                right[i] -= column[i] * s
    return right


def _correlation(moments: NDArray[np.float64], count: int) -> float:
    """Pearson's, from sums over the template and the picture where they overlap (0 elsewhere)."""
    t, s, tt, ss, ts = moments / count
    return float((ts - t * s) / np.sqrt(max(1e-12, (tt - t * t) * (ss - s * s))))
