"""Does the backdrop frame still fit? What a take shows outside the product is held against it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_mean
from true_backdrop.core.cut.align import FLOOR, Aligned, rim_mask

What = Literal["exposure", "colour", "light", "shift", "focus"]
State = Literal["fits", "slight", "shoot again", "cannot tell"]


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that may have changed since the backdrop frame: a number in `unit` with two limits, and a sentence.

    Up to `slight` it fits; up to `limit` it can be lived with; beyond, the empty set should be shot again.
    `value` is None where it cannot be seen.
    """

    what: What
    value: float | None
    unit: str
    slight: float
    limit: float
    state: State
    said: str


def freshness(aligned: Aligned, product: Mask, focus_mm: tuple[float, float] | None = None) -> list[Finding]:
    """Compare the part of a take that shows no product with the backdrop frame.

    Parameters
    ----------
    aligned
        The two proxies, brought to the same exposure.
    product
        (H, W) where the product is.
    focus_mm
        Distance the lens was focused at for the take and for the backdrop frame, where the camera told.
    """
    away = cv2.distanceTransform((~product).astype(np.uint8), cv2.DIST_L2, 5)
    return [
        _exposure(aligned),
        _colour(aligned),
        _light(channel_mean(aligned.log_ratio), product),
        _moved(shift_of(aligned.frame, aligned.backdrop, away > 4), max(product.shape)),
        _focus(focus_mm),
    ]


def _found(
    what: What,
    value: float,
    unit: str,
    limits: tuple[float, float],
    said: str,
    *,
    between: str = "the cut corrects this",
    cure: str = "shoot the empty set again",
) -> Finding:
    slight, limit = limits
    size = abs(value)
    state: State = "fits" if size <= slight else "slight" if size <= limit else "shoot again"
    after = {"fits": "", "slight": f"; {between}", "shoot again": f"; {cure}"}
    return Finding(what, round(value, 3), unit, slight, limit, state, said + after[state])


def _exposure(aligned: Aligned) -> Finding:
    drift, limits = aligned.drift_ev, (0.03, 0.5)
    said = "the exposure is as in the backdrop frame"
    if abs(drift) > limits[0]:
        said = f"the take is {abs(drift):.2f} EV {'brighter' if drift > 0 else 'darker'} than the backdrop frame"
    return _found("exposure", drift, "EV", limits, said)


def _colour(aligned: Aligned) -> Finding:
    warmer, limits = 100 * (aligned.gain[0] / aligned.gain[2] - 1), (1.0, 12.0)
    said = "the colour of the light is as in the backdrop frame"
    if abs(warmer) > limits[0]:
        said = f"the light is {abs(warmer):.1f} % {'warmer' if warmer > 0 else 'cooler'} than in the backdrop frame"
    return _found("colour", warmer, "% red to blue", limits, said)


def _light(ratio: Plane, product: Mask) -> Finding:
    """How unevenly the light changed along the picture's rim: a lamp that was moved, dimmed or went out.

    The product's own shadow and its reflections on the table reach the lower rim: some percent are common.
    """
    rim = rim_mask(*ratio.shape) & ~product
    y, x = np.nonzero(rim)
    height, width = ratio.shape
    table = np.stack([x / width - 0.5, y / height - 0.5, np.ones(x.size)], axis=1)
    slope = np.linalg.lstsq(table, ratio[rim], rcond=None)[0]
    uneven, limits = 100 * float(np.hypot(slope[0], slope[1])), (11.0, 11.0)  # one gain for all cannot correct this
    darker = _side(float(slope[0]), float(slope[1]))
    said = "the light falls as in the backdrop frame"
    if uneven > limits[0]:
        said = f"the {darker} side lost {uneven:.0f} % of its light against the other side: a lamp was moved, dimmed or is off"
    return _found("light", uneven, "% across the set", limits, said, cure="put the lamps right, or shoot the empty set again")


def _side(right: float, down: float) -> str:
    if abs(right) >= abs(down):
        return "right" if right < 0 else "left"
    return "lower" if down < 0 else "upper"


#: Covariance of the two pictures' slopes (log units a pixel, squared) below which a shift leaves no trace.
_STRUCTURE = 4e-8
#: Rounds of refinement after the first guess.
_ROUNDS = 4


def shift_of(frame: LinearRGB, backdrop: LinearRGB, free: Mask) -> tuple[float, float] | None:
    """How far the set lies to the right and down in `frame` against `backdrop`, in pixels; None when too plain to see.

    Phase correlation for the first guess (Kuglin and Hines 1975), then least squares of the difference on the
    slopes (Lucas and Kanade 1981). Only what is finer than the light's own changes counts, so that a dimmed
    lamp is not taken for a shift. The slopes of the backdrop frame weigh, which know nothing of the product's shadow;
    those of the take are the slopes: their noise is independent, so it does not pull the result towards zero
    (instrumental variables, Wald 1940).
    """
    seen, bare = _fine(frame), _fine(backdrop)
    weight = cv2.erode(free.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(np.float32)
    (right, down), _ = cv2.phaseCorrelate(bare * weight, seen * weight)
    if np.hypot(right, down) > 0.02 * max(free.shape):
        right = down = 0.0  # a peak of noise
    sx, sy = _slopes(seen)
    inner = weight > 0
    inner[:8] = inner[-8:] = False
    inner[:, :8] = inner[:, -8:] = False
    for _ in range(_ROUNDS):
        moved = cv2.warpAffine(
            bare, np.array([[1, 0, right], [0, 1, down]]), free.shape[::-1], flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
        )
        gx, gy = _slopes(np.asarray(moved, np.float32))
        difference = (seen - moved)[inner]
        a, b, c, d = gx[inner], gy[inner], sx[inner], sy[inner]
        normal = np.array([[a @ c, a @ d], [b @ c, b @ d]], np.float64) / max(1, a.size)
        if min(normal[0, 0], normal[1, 1]) < _STRUCTURE:
            return None
        step = -np.linalg.solve(normal, np.array([a @ difference, b @ difference], np.float64) / max(1, a.size))
        right, down = right + float(step[0]), down + float(step[1])
    return right, down


def _fine(picture: LinearRGB) -> Plane:
    """Log brightness without what is broader than some pixels, and without the noise of single ones."""
    level = np.asarray(cv2.log(cv2.add(channel_mean(picture), FLOOR)), np.float32)  # type: ignore[call-overload]
    return np.asarray(cv2.GaussianBlur(level, (0, 0), 1.2) - cv2.GaussianBlur(level, (0, 0), 6.0), np.float32)


def _slopes(plane: Plane) -> tuple[Plane, Plane]:
    across, down = (cv2.Sobel(plane, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1)))
    return np.asarray(across, np.float32), np.asarray(down, np.float32)


def _moved(shift: tuple[float, float] | None, long_side: int) -> Finding:
    limits, unit = (0.03, 0.30), "% of the long side"
    if shift is None:
        said = "the backdrop is too plain to see whether the camera moved"
        return Finding("shift", None, unit, *limits, "cannot tell", said)
    right, down = (100 * part / long_side for part in shift)
    by = float(np.hypot(right, down))
    said = "the camera stands as it did for the backdrop frame"
    if by > limits[0]:
        across = f"{abs(right):.2f} % to the {'right' if right > 0 else 'left'}"
        along = f"{abs(down):.2f} % {'down' if down > 0 else 'up'}"
        ways = [said for said, part in ((across, right), (along, down)) if abs(part) > limits[0] / 2]
        said = f"the camera was touched: the set lies {' and '.join(ways)} of where it was in the backdrop frame"
    return _found("shift", by, unit, limits, said, between="look at the outline")


def _focus(focus_mm: tuple[float, float] | None) -> Finding:
    limits, unit = (2.0, 15.0), "mm"
    if focus_mm is None:
        return Finding("focus", None, unit, *limits, "cannot tell", "the camera does not tell what it was focused at")
    take, empty = focus_mm
    said = "the focus is as in the backdrop frame"
    if abs(take - empty) > limits[0]:
        said = f"the lens was focused at {take:.0f} mm, and at {empty:.0f} mm for the backdrop frame"
    return _found(
        "focus",
        take - empty,
        unit,
        limits,
        said,
        between="the backdrop may be softer at one of them",
        cure="set the focus to manual and shoot the empty set again",
    )
