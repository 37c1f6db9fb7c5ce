"""Where in a picture something is, as a box and in words."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import components, counted

#: Spots nearer to each other than this (parts of the long side) are one place.
_TOGETHER = 0.015
#: So many places are named for one reason, the largest first.
_MOST = 3


@dataclass(frozen=True, slots=True)
class Place:
    """A box in parts of the frame's width and height, what is to be looked at there, and where on the product that is."""

    left: float
    top: float
    right: float
    bottom: float
    said: str
    where: str


def places(mask: Mask, product: Mask, said: str) -> tuple[Place, ...]:
    """The largest places of a mask (H, W), with a margin; `said` is what they have in common."""
    height, width = mask.shape
    by = max(1, round(_TOGETHER * max(mask.shape)))
    near = cv2.dilate(mask.astype(np.uint8), np.ones((2 * by + 1, 2 * by + 1), np.uint8))
    labels, stats = components(near, 8)
    weight = counted(labels, mask, len(stats))
    weight[0] = 0
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = (int(left), int(top), int(across), int(down))
    found = []
    for label in np.argsort(-weight)[:_MOST]:
        if weight[label] == 0 or weight[label] < 0.15 * weight.max():
            break
        left, top, across, down = (int(v) for v in stats[label, :4])
        where = _where((left + across / 2, top + down / 2), box)
        found.append(Place(left / width, top / height, (left + across) / width, (top + down) / height, said, where))
    return tuple(found)


def _where(centre: tuple[float, float], box: tuple[int, int, int, int]) -> str:
    """In words, against the box around the product: left, top, width, height."""
    left, top, width, height = box
    if width == 0 or height == 0:
        return "in the picture"
    across, down = (centre[0] - left) / width, (centre[1] - top) / height
    vertical = "top" if down < 1 / 3 else "bottom" if down > 2 / 3 else ""
    horizontal = "left" if across < 1 / 3 else "right" if across > 2 / 3 else ""
    if vertical and horizontal:
        return f"{vertical} {horizontal}"
    if vertical:
        return f"at the {vertical}"
    return f"{horizontal} side" if horizontal else "in the middle"


def named(found: tuple[Place, ...]) -> str:
    """All of them in one phrase."""
    words = list(dict.fromkeys(place.where for place in found))
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1] if words else "in the picture"
