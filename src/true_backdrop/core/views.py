"""What a person looks at while tuning: frame, matte, on white, on a loud colour, difference, doubt."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, LinearRGB
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.edge import View, as_seen, cut_view, held, resample
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.finish.compose import paint
from true_backdrop.core.finish.ground import own_shadow

ViewName = Literal["frame", "matte", "white", "loud", "difference"]
VIEW_NAMES: tuple[ViewName, ...] = ("frame", "matte", "white", "loud", "difference")

#: A colour that hardly any product has, so that leftover backdrop and eaten product both show.
LOUD = np.array([[[0.02, 0.35, 0.85]]], np.float32)


def render_view(
    name: ViewName, frame: LinearRGB, backdrop: LinearRGB, outline: Outline, view: View, *, shadow: float = 0.0
) -> EncodedRGB:
    """One of the views of a part of a frame, (h, w, 3).

    `frame` and `backdrop` are (h, w, 3) linear light of that part; `shadow` is kept on white only.
    """
    if name == "frame":
        return encode_pixels(frame)
    if name == "difference":
        return _difference(frame, backdrop, outline)
    frame_at, backdrop_at = held(frame), as_seen(held(backdrop))
    if name == "matte":
        grey = np.round(cut_view(frame_at, backdrop_at, outline, view).alpha * 255).astype(np.uint8)
        return np.asarray(cv2.merge([grey, grey, grey]))
    if name == "loud":
        return paint(frame_at, backdrop_at, outline, view, lambda tile: LOUD)
    shade = own_shadow(outline.shadow, shadow, outline.product)
    return paint(frame_at, backdrop_at, outline, view, lambda tile: resample(shade, view, tile))


def _difference(frame: LinearRGB, backdrop: LinearRGB, outline: Outline) -> EncodedRGB:
    """How far each pixel is from the backdrop frame, amplified: mid grey is none, lighter or darker is some."""
    ratio = (frame + 0.01) / (backdrop * np.asarray(outline.gain, np.float32) + 0.01)
    steps = np.clip(cv2.log(ratio) * 2.5, -1, 1)
    return np.asarray(np.round(127.5 + 127.5 * steps), dtype=np.uint8)
