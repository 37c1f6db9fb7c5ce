"""The edge of a cut after taste: in or out by tenths of a pixel, smoother, harder."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Alpha, LinearRGB

#: Sigma of the smoothing at full strength, in frame pixels.
_SMOOTH_SIGMA_PX = 3.0
#: Slope of the edge, against as it was, when it is hardened all the way.
_HARDEST = 8.0


@dataclass(frozen=True, slots=True)
class EdgeWork:
    """What is to be done to the edge of a view: lengths in pixels of the view.

    shift_px   outwards
    sigma_px   of the smoothing
    slope      the edge's slope against as it was, 1 or more
    """

    shift_px: float
    sigma_px: float
    slope: float

    @classmethod
    def of(cls, shift_px: float, smooth: float, harden: float, scale: float) -> EdgeWork | None:
        """For settings in frame pixels, at `scale` view pixels for each of them; None when nothing is to be done."""
        if shift_px == 0 and smooth == 0 and harden == 0:
            return None
        return cls(shift_px * scale, _SMOOTH_SIGMA_PX * smooth * scale, 1 + (_HARDEST - 1) * harden)

    @property
    def margin_px(self) -> int:
        """Pixels around a tile that its own pixels depend on."""
        return int(np.ceil(abs(self.shift_px) + 3 * self.sigma_px)) + 2

    def apply(self, alpha: Alpha, colour: LinearRGB) -> tuple[Alpha, LinearRGB]:
        """Alpha (h, w) and straight product colour (h, w, 3), changed; colour goes on where the product grows."""
        out = alpha
        if self.sigma_px > 0:
            # A blur rounds corners and straightens teeth; the slope is put back after it.
            soft = cv2.GaussianBlur(out, (0, 0), max(0.3, self.sigma_px))
            steep = float(np.sqrt(1 + self.sigma_px**2 * 6))
            out = np.asarray(np.clip((soft - 0.5) * steep + 0.5, 0, 1), np.float32)
        if self.shift_px != 0:
            out = shifted(out, self.shift_px)
        if self.slope > 1:
            out = np.asarray(np.clip((out - 0.5) * self.slope + 0.5, 0, 1), np.float32)
        return out, _carried_on(alpha, colour, max(1.0, self.shift_px + self.sigma_px)) if np.any(out > alpha) else colour


def shifted(alpha: Alpha, by_px: float) -> Alpha:
    """The edge of an alpha matte (h, w) moved outwards by pixels, tenths too.

    Grey-scale dilation or erosion by discs moves an edge by whole pixels; between two of them it is mixed.
    """
    whole = int(np.floor(abs(by_px)))
    part = abs(by_px) - whole
    work = cv2.dilate if by_px > 0 else cv2.erode
    less, more = (alpha if n == 0 else work(alpha, _disc(n)) for n in (whole, whole + 1))
    return np.asarray(less + np.float32(part) * (more - less), np.float32)


def _disc(radius: int) -> np.ndarray:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))


def _carried_on(alpha: Alpha, colour: LinearRGB, reach_px: float) -> LinearRGB:
    """The product's colour, continued over its edge as the mean of what is near."""
    weight = np.asarray(cv2.GaussianBlur(alpha, (0, 0), reach_px), np.float32)
    total = np.asarray(cv2.GaussianBlur(colour * alpha[..., None], (0, 0), reach_px), np.float32)
    near = total / np.maximum(weight, np.float32(1e-4))[..., None]
    return np.asarray(np.where((alpha > 0)[..., None], colour, near), np.float32)
