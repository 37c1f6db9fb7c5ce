"""What still counts as backdrop at a given backdrop match."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

#: The long side that the step tolerance below was measured at.
_MEASURED_AT = 1280
#: Light that a product throws on the table may be so many times brighter than what is brighter for sure, as long as it is soft.
GLOW = 1.4


@dataclass(frozen=True, slots=True)
class Tolerances:
    """What still counts as backdrop, in log units of the ratio to the backdrop frame.

    Twice the tolerance for every 25 points of backdrop match downwards. `tint` and `step` hold on bare
    backdrop; `tint_in_shadow` and `step_in_shadow` are added for each unit of shadow depth.
    """

    tint: float
    tint_in_shadow: float
    step: float
    step_in_shadow: float
    brighter: float
    darkest: float
    thin: float
    hole_tone: float

    @classmethod
    def of(cls, match: float, noise: float, long_side: int = _MEASURED_AT) -> Tolerances:
        loose = 2.0 ** ((50.0 - match) / 25.0)
        # A shadow's slope is spread over the picture, an edge is as wide as the lens makes it: in a smaller
        # picture the slope for each pixel grows, the edge does not.
        coarse = float(np.sqrt(_MEASURED_AT / long_side))
        return cls(
            tint=0.06 * loose + 5 * noise,
            tint_in_shadow=0.8 * min(1.5, loose**0.5),
            step=0.019 * loose * coarse + 2.5 * noise,
            step_in_shadow=0.08 * loose**0.5 * coarse,
            brighter=0.05 * loose + 3 * noise,
            darkest=-1.8 * min(1.6, loose**0.5),
            thin=0.042 * loose + 3 * noise,
            hole_tone=0.10 * loose**0.5 + 2 * noise,
        )
