"""What of a proxy looks like backdrop or soft shadow, pixel by pixel, wherever it lies."""

from __future__ import annotations

from dataclasses import astuple, dataclass

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.bare import DEEPEST
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.tolerances import GLOW, Tolerances


def alike_at(evidence: Evidence, match: float) -> Mask:
    """What looks like backdrop or soft shadow at a match, (H, W), wherever it lies."""
    return likeness(evidence, Tolerances.of(match, evidence.noise, evidence.long_side)).alike


@dataclass(frozen=True, slots=True)
class Likeness:
    """Planes (H, W): what looks like backdrop or soft shadow, where there is a clear step, and tint against its tolerance."""

    alike: Mask
    clear: Mask
    tint: Plane


def likeness(evidence: Evidence, limits: Tolerances) -> Likeness:
    """Each pixel of a proxy (H, W), or of a part of it, against what still counts as backdrop."""
    alike, clear = np.empty(evidence.shape, bool), np.empty(evidence.shape, bool)
    tint = np.empty(evidence.shape, np.float32)
    planes = evidence.tone, evidence.tint, evidence.step, evidence.thin
    _compare(*planes, np.array(astuple(limits), np.float32), alike, clear, tint)
    return Likeness(alike, clear, tint)


@compiled
def _compare(
    tone: Plane,
    tint: Plane,
    step: Plane,
    thin: Plane,
    limits: NDArray[np.float32],
    alike: Mask,
    clear: Mask,
    relative_tint: Plane,
) -> None:
    """One pixel at a time against the `Tolerances`, which grow with the depth of the shadow; see `Likeness`."""
    tint_limit, tint_in_shadow, step_limit, step_in_shadow, brighter, darkest, thin_limit = limits[:7]
    deepest, glow = np.float32(DEEPEST), np.float32(GLOW) * brighter
    for y in range(tone.shape[0]):
        for x in range(tone.shape[1]):
            depth = min(max(-tone[y, x], np.float32(0)), deepest)
            most = step_limit + step_in_shadow * depth
            off = tint[y, x] / (tint_limit + tint_in_shadow * depth)
            broad = thin[y, x] < thin_limit
            relative_tint[y, x] = off
            # `&` and not `and`: without branches the compiler does eight pixels at a time.
            neutral = (off < np.float32(1)) & (tone[y, x] > darkest) & (tone[y, x] < glow)
            alike[y, x] = neutral & broad & (step[y, x] < most)
            # A thin strand has backdrop on both sides by right.
            clear[y, x] = broad & (step[y, x] > np.float32(1.5) * most)
