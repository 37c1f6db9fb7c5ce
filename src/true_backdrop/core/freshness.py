"""Does the backdrop frame still fit? What a take shows outside the product is held against it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import channel_mean
from true_backdrop.core.cut.align import Aligned, rim_mask
from true_backdrop.core.cut.shift import SHIFT_LIMITS
from true_backdrop.core.sharpness import sharpness_against

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
        Distance the lens was focused at for the take and for the backdrop frame, where the camera told. Where it did not,
        the focus is told from how sharp the backdrop's own structure is in both.
    """
    return [
        _exposure(aligned),
        _colour(aligned),
        _light(channel_mean(aligned.log_ratio), product),
        _moved(aligned.shift, max(product.shape)),
        _focus(focus_mm) if focus_mm is not None else _sharpness(sharpness_against(aligned, product)),
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


def _moved(shift: tuple[float, float] | None, long_side: int) -> Finding:
    limits, unit = SHIFT_LIMITS, "% of the long side"
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
    return _found(
        "shift",
        by,
        unit,
        limits,
        said,
    )


def _sharpness(stronger: float | None) -> Finding:
    limits, unit = (12.0, 40.0), "% of fine detail"
    if stronger is None:
        said = "the camera does not tell its focus, and the backdrop is too plain to see it"
        return Finding("focus", None, unit, *limits, "cannot tell", said)
    percent = 100 * float(np.expm1(abs(stronger)))
    said = "the backdrop is as sharp as in the backdrop frame"
    if percent > limits[0]:
        sharper, softer = ("take", "backdrop frame") if stronger > 0 else ("backdrop frame", "take")
        said = (
            f"the backdrop's structure is {percent:.0f} % stronger in the {sharper} than in the {softer}: the focus was changed"
        )
    return _found(
        "focus",
        percent if stronger > 0 else -percent,
        unit,
        limits,
        said,
        between="edges against the backdrop may be softer at one of them",
        cure="set the focus to manual and shoot the empty set again",
    )


def _focus(focus_mm: tuple[float, float]) -> Finding:
    limits, unit = (2.0, 15.0), "mm"
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
