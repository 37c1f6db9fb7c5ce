"""A stand-in for the backdrop frame until the empty set has been shot."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import LinearRGB
from true_backdrop.core.cut.align import FLOOR, rim_mask

#: A swept backdrop is smooth: a polynomial of this degree in x and y follows it.
_DEGREE = 4
#: Residuals (log units) beyond which a pixel counts less and less (Tukey's biweight, Beaton and Tukey 1974).
_CUTOFF = 0.12
_ROUNDS = 12
_LONG_SIDE = 192


def estimated_backdrop(frame: LinearRGB) -> LinearRGB:
    """What the empty set would look like, (H, W, 3) linear light, guessed from a frame with a product in it.

    A smooth surface is laid through the frame's rim and then, round by round, through everything that lies near
    it; product and deep shadow do not. It knows nothing of the paper's structure and takes soft shadow for
    backdrop: good enough for a first look, not for delivery.
    """
    height, width = frame.shape[:2]
    factor = min(1.0, _LONG_SIDE / max(height, width))
    small = cv2.resize(frame, None, fx=factor, fy=factor, interpolation=cv2.INTER_AREA)
    level = np.log(np.asarray(small, np.float64) + FLOOR)
    terms = _terms(*level.shape[:2])
    rim = rim_mask(level.shape[0], level.shape[1], 0.08).reshape(-1)
    values = level.reshape(-1, 3)
    weight = rim.astype(float)
    out = np.zeros_like(values)
    for turn in range(_ROUNDS):
        weighted = terms * weight[:, None]
        found = np.linalg.lstsq(weighted.T @ terms + 1e-6 * np.eye(terms.shape[1]), weighted.T @ values, rcond=None)[0]
        out = terms @ found
        off = np.abs(values - out).max(axis=1) / (_CUTOFF * (3 if turn == 0 else 1))
        near = np.where(off < 1, (1 - off**2) ** 2, 0.0)
        # The rim stays in charge: pale product as broad as this one must not pull the surface to itself.
        weight = near * np.where(rim, 1.0, 0.0 if turn < _ROUNDS // 2 else 0.1)
        if weight.sum() < 4 * terms.shape[1]:
            break
    shape = np.exp(out.reshape(level.shape)).astype(np.float32) - np.float32(FLOOR)
    return np.asarray(np.clip(cv2.resize(shape, (width, height), interpolation=cv2.INTER_CUBIC), 0, 1), np.float32)


#: So much of the rim must lie near the guess, or what is there is no plain backdrop.
_PLAIN_RIM = 0.7


def is_plain(frame: LinearRGB, guess: LinearRGB) -> bool:
    """Whether what lies along the frame's rim is the smooth surface that was guessed from it, (H, W, 3) both."""
    rim = rim_mask(frame.shape[0], frame.shape[1])
    off = np.abs(np.log((frame[rim] + FLOOR) / (guess[rim] + FLOOR))).max(axis=1)
    return bool((off < _CUTOFF).mean() > _PLAIN_RIM)


def _terms(height: int, width: int) -> np.ndarray:
    """Products of powers of x and y up to the degree, (H * W, terms)."""
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j]
    return np.stack([(x**i * y**j).reshape(-1) for i in range(_DEGREE + 1) for j in range(_DEGREE + 1 - i)], axis=1)
