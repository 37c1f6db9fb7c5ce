"""No usable backdrop at all: a proposal from what lies along the frame's rim, to be looked at and touched."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, LinearRGB, Mask
from true_backdrop.core.colour import decode_pixels, encode_pixels
from true_backdrop.core.cut.components import all_of, components
from true_backdrop.core.errors import BackdropDoesNotFit

#: Long side that the proposal is made at.
_LONG_SIDE = 320
#: Along the rim, so wide in parts of the shorter side, there is backdrop.
_RIM = 0.05
#: Kinds of colour that the rim is described with, and how far off all of them (in their own spread) product begins.
_COLOURS, _APART = 6, 2.2
_ROUNDS = 5
#: Parts much smaller than the largest are pattern; and how much of the frame a product takes.
_LEAST_PART, _USUAL = 0.05, (0.004, 0.75)


def proposed_backdrop(frame: LinearRGB) -> LinearRGB:
    """The frame (H, W, 3) with what is probably product filled up from around it.

    Border prior and colour models in a graph cut (GrabCut, Rother, Kolmogorov and Blake 2004), then a filling by fast
    marching (Telea 2004). The frame held against that shows the proposed product.

    Raises
    ------
    BackdropDoesNotFit
        When nothing stands out from what lies along the rim.
    """
    height, width = frame.shape[:2]
    scale = _LONG_SIDE / max(height, width)
    size = (max(8, round(width * scale)), max(8, round(height * scale)))
    small = encode_pixels(np.asarray(cv2.resize(frame, size, interpolation=cv2.INTER_AREA), np.float32))
    product = _product(small)
    part = float(product.mean())
    if not _USUAL[0] < part < _USUAL[1]:
        raise BackdropDoesNotFit(
            "nothing stands out from what lies along the frame's rim; shoot the empty set, or a frame on plain backdrop"
        )
    hole = cv2.dilate(product.astype(np.uint8), np.ones((7, 7), np.uint8))
    filled = cv2.inpaint(small, hole, 5, cv2.INPAINT_TELEA)
    there = np.clip(cv2.resize(hole.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR), 0, 1)[..., None]
    level = np.asarray(
        cv2.resize(decode_pixels(np.asarray(filled, np.uint8)), (width, height), interpolation=cv2.INTER_LINEAR), np.float32
    )
    return np.asarray(frame + there * (level - frame), np.float32)


def _product(pixels: EncodedRGB) -> Mask:
    lab = np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2LAB), np.float32)
    by = max(2, round(_RIM * min(pixels.shape[:2])))
    rim = np.ones(pixels.shape[:2], bool)
    rim[by:-by, by:-by] = False
    unlike = _unlike(lab, lab[rim])
    state = np.where(unlike > _APART, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    state[rim] = cv2.GC_BGD
    if not (state == cv2.GC_PR_FGD).any():
        return np.zeros(rim.shape, bool)
    cv2.setRNGSeed(1)  # the same frame gives the same proposal
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.grabCut(pixels, state, (0, 0, 0, 0), *models, _ROUNDS, cv2.GC_INIT_WITH_MASK)
    found = np.isin(state, (cv2.GC_FGD, cv2.GC_PR_FGD)).astype(np.uint8)
    found = np.asarray(cv2.morphologyEx(found, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)), np.uint8)
    labels, stats = components(found, 8)
    if len(stats) < 2:
        return np.zeros(rim.shape, bool)
    areas = stats[:, cv2.CC_STAT_AREA]
    return all_of(labels, areas >= _LEAST_PART * areas.max())


def _unlike(lab: np.ndarray, rim: np.ndarray) -> np.ndarray:
    """Distance to the nearest kind of colour of the rim, in its own spread, (H, W)."""
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5)
    cv2.setRNGSeed(1)
    none = np.zeros((len(rim), 1), np.int32)
    _, found, centres = cv2.kmeans(np.ascontiguousarray(rim), _COLOURS, none, criteria, 2, cv2.KMEANS_PP_CENTERS)
    labels = np.asarray(found)[:, 0]
    nearest = np.full(lab.shape[:2], np.inf, np.float32)
    for k, centre in enumerate(np.asarray(centres)):
        own = rim[labels == k]
        spread = max(4.0, float(np.sqrt(np.mean((own - centre) ** 2) * 3))) if len(own) else 4.0
        nearest = np.minimum(nearest, np.linalg.norm(lab - centre, axis=-1) / spread)
    return nearest
