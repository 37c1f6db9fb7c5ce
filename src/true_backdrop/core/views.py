"""What a person looks at while tuning: frame, matte, on white, on a loud colour, difference, doubt."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, LinearRGB
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.edge import CutOut, View, cut_view, resample
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.finish.compose import encode_over
from true_backdrop.core.finish.ground import own_shadow

ViewName = Literal["frame", "matte", "white", "loud", "difference"]
VIEW_NAMES: tuple[ViewName, ...] = ("frame", "matte", "white", "loud", "difference")

#: A colour that hardly any product has, so that leftover backdrop and eaten product both show.
LOUD = np.array([0.02, 0.35, 0.85], np.float32)


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
    cut = cut_view(frame, backdrop, outline, view)
    return compose_view(name, cut, outline, view, shadow)


def compose_view(name: ViewName, cut: CutOut, outline: Outline, view: View, shadow: float) -> EncodedRGB:
    """The views that show a cut."""
    if name == "matte":
        grey = np.round(cut.alpha * 255).astype(np.uint8)
        return np.repeat(grey[..., None], 3, axis=2)
    if name == "loud":
        return encode_over(cut.foreground, cut.alpha, np.broadcast_to(LOUD, cut.foreground.shape))
    return encode_over(cut.foreground, cut.alpha, own_shadow(resample(outline.shadow, view), shadow))


def _difference(frame: LinearRGB, backdrop: LinearRGB, outline: Outline) -> EncodedRGB:
    """How far each pixel is from the backdrop frame, amplified: mid grey is none, lighter or darker is some."""
    ratio = (frame + 0.01) / (backdrop * np.asarray(outline.gain, np.float32) + 0.01)
    steps = np.clip(cv2.log(ratio) * 2.5, -1, 1)
    return np.asarray(np.round(127.5 + 127.5 * steps), dtype=np.uint8)
