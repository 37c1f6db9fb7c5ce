"""The tone of the backdrop, continued to where product stands."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.spread import spread


def shade_around(evidence: Evidence, outside: Mask) -> Plane:
    """Tone of the backdrop, continued smoothly to where product stands; at half size, since it is smooth."""
    height, width = outside.shape
    half = (max(1, width // 2), max(1, height // 2))
    weight = cv2.resize(outside.astype(np.uint8) * np.uint8(255), half, interpolation=cv2.INTER_AREA) / np.float32(255)
    tone = cv2.resize(evidence.tone, half, interpolation=cv2.INTER_AREA)
    filled = spread(np.asarray(tone, np.float32), np.asarray(weight, np.float32))
    return np.asarray(cv2.resize(filled, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)
