"""What the light and the grain of many pixels together say of a place, where no single pixel and no edge says much.

Pale product is hardly anywhere exactly as light as the backdrop, and backdrop in full light is so all over; and it shows its
grain wherever it is seen. A pixel weighs little for either side, a large place much: closing.py adds that to what its
outline costs (the region term of Chan, Esedoglu and Nikolova 2006).
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Plane
from true_backdrop.core.channels import halved
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.paper import seen_around

#: Sigma (pixels of half the proxy) that tone is evened out over, width of the rim that says how exact the backdrop is, and what
#: it is at best (log units).
_EVEN_PX, _RIM_PX, _LEAST_OFF = 1.5, 6, 0.001
#: So many times what is off along the rim is beyond chance.
BEYOND_CHANCE = 3.0
#: What a pixel weighs that is brighter, hardly darker, or exactly as light as the backdrop; a pixel of line that is not seen
#: costs 1 (closing.py).
_BRIGHT, _DARK, _EXACT = 0.03, 0.01, 0.02
#: Darker than this may be a shadow; that begins over such a span (log units).
_SHADOW, _SHADOW_SPAN = 0.06, 0.04


def off_the_backdrop(tone: Plane, least: float = 0.0) -> Plane:
    """How far an even `tone` (h, w), at half the proxy's size, is off the backdrop, in multiples of what it is along the rim.

    Negative where it is darker. What is usual is no less than `least` (log units).
    """
    even = np.asarray(cv2.GaussianBlur(tone, (0, 0), _EVEN_PX), np.float32)
    strips = even[:_RIM_PX], even[-_RIM_PX:], even[:, :_RIM_PX], even[:, -_RIM_PX:]
    rim = np.abs(np.concatenate([strip.ravel() for strip in strips]))
    return np.asarray(even / max(_LEAST_OFF, least, 1.48 * float(np.median(rim))), np.float32)


def by_light(off: Plane, tone: Plane) -> Plane:
    """What each pixel (h, w) weighs for product, and below 0 for backdrop; `off` as `off_the_backdrop` finds it.

    What is darker may lie in a shadow: it counts only where it hardly is.
    """
    faint = np.clip((tone + _SHADOW) / _SHADOW_SPAN, 0, 1)
    weight = np.where(off > 0, _BRIGHT, _DARK * faint)
    beyond, exactly = np.clip(np.abs(off) / BEYOND_CHANCE - 1, 0, 1), np.clip(2 - np.abs(off) / 2, 0, 1)
    return np.asarray(weight * beyond - _EXACT * exactly, np.float32)


#: What is broader than this (sigma in proxy pixels) is light.
_GRAIN_PX = 2.5
#: What is beyond so many standard deviations of the grain is an edge, and around a pixel half must be none.
_USUAL = 4.0
#: What a pixel weighs where all or nothing of the grain is seen again.
_GRAIN = 0.06
#: Darker than this none is missed; that begins over such a span (log units).
_DEEP, _DEEP_SPAN = 0.2, 0.1


def by_grain(evidence: Evidence) -> Plane | None:
    """The same by the grain that is seen around each pixel, (h, w) at half the proxy's size; None where it says nothing."""
    if evidence.grain is None:
        return None
    of_backdrop, of_frame = _fine(evidence.bare), _fine(evidence.tone + evidence.bare)
    usual = _USUAL * 1.48 * float(np.median(np.abs(of_backdrop)))
    plain = (np.abs(of_backdrop) < usual) & (np.abs(of_frame) < usual)
    common, own, asked = seen_around(of_backdrop, of_frame, plain.astype(np.float32))
    again = common / np.maximum(own, 1e-12) / evidence.grain.again
    missing = np.clip(1 - 2 * again, -1, 1)
    # On the slope of a deep shadow it is hidden.
    light = np.where(missing > 0, np.clip((evidence.tone + _DEEP) / _DEEP_SPAN, 0, 1), 1)
    return halved(np.asarray(_GRAIN * missing * light * np.clip(2 * asked - 1, 0, 1), np.float32))


def _fine(plane: Plane) -> Plane:
    return np.asarray(plane - cv2.GaussianBlur(plane, (0, 0), _GRAIN_PX), np.float32)
