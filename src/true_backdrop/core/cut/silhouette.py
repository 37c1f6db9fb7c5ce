"""What a silhouette frame adds: places that stop the light of the backdrop, however pale they are from the front."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.region import busy_part

#: Darker than this against the lit backdrop (log units) a place may be silhouette.
_DARK = -0.5
#: A shadow is seen in both lights. Where the front light shows nothing darker than this, it is none.
_UNSHADOWED = -0.1
#: Backdrop match that soft shadow is told from silhouette at.
_MATCH = 50
#: Lone pixels are noise; what is thinner than this (pixels) cannot be told from the edge's own softness.
_LEAST_PX = 3


#: Of what is plainly product from the front, so much must stop some of the light of the backdrop.
_SAME_POSE = 0.5
_PLAIN, _STOPS = 0.5, -0.12


def same_pose(lit: Evidence, backlit: Evidence) -> bool:
    """Whether the product stands in both frames alike: what is plainly product in one is dark in the other."""
    plain = (lit.tone < -_PLAIN) | (lit.tint > _PLAIN)
    if np.count_nonzero(plain) < _LEAST_PX**2 * 10:
        return True
    return bool((backlit.tone[plain] < _STOPS).mean() > _SAME_POSE)


def opaque_in(lit: Evidence, backlit: Evidence) -> Mask:
    """Product that only the silhouette tells, (H, W): dark before the lit backdrop, and as bright as it from the front.

    Transmission is the ratio of silhouette frame to its own empty set. At the bottom edge and on the table the product's
    shadow is dark as well: there the frame in front light decides alone, in which a shadow is seen, too.
    """
    found = (backlit.tone < _DARK) & (lit.tone > _UNSHADOWED)
    if not found.any():
        return found
    busy = busy_part(backlit)
    found &= busy.on_proxy(busy.decide(_MATCH, "solid"))
    opened = cv2.morphologyEx(found.astype(np.uint8), cv2.MORPH_OPEN, np.ones((_LEAST_PX, _LEAST_PX), np.uint8))
    return np.asarray(opened > 0)
