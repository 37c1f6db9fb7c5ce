"""What a person looks at while tuning: the frame, the cut over several grounds, its matte, its shadow, the difference."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, LinearRGB
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.edge import BacklitLight, View, as_seen, cut_view, held, resample
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.finish.compose import Ground, paint
from true_backdrop.core.finish.ground import own_shadow
from true_backdrop.core.picture import Region

ViewName = Literal["frame", "matte", "white", "grey", "loud", "checks", "shadow", "difference"]
VIEW_NAMES: tuple[ViewName, ...] = ("frame", "matte", "white", "grey", "loud", "checks", "shadow", "difference")

#: A colour that hardly any product has, so that leftover backdrop and eaten product both show.
LOUD = np.array([[[0.02, 0.35, 0.85]]], np.float32)


#: Mid grey in linear light (L* 50), and the two greys and the side (pixels of the view) of the checks.
GREY = np.full((1, 1, 3), 0.184, np.float32)
_CHECKS, _CHECK_PX = (0.45, 0.70), 12


def render_view(
    name: ViewName,
    frame: LinearRGB,
    backdrop: LinearRGB,
    outline: Outline,
    view: View,
    *,
    shadow: float = 0.0,
    backlit: BacklitLight | None = None,
) -> EncodedRGB:
    """One of the views of a part of a frame, (h, w, 3).

    `frame` and `backdrop` are (h, w, 3) linear light of that part; `shadow` is kept on white only. `backlit` is the
    silhouette frame through the same view.
    """
    if name == "frame":
        return encode_pixels(frame)
    if name == "difference":
        return _difference(frame, backdrop, outline)
    frame_at, backdrop_at = held(frame), as_seen(held(backdrop))
    if name == "matte":
        grey = np.round(cut_view(frame_at, backdrop_at, outline, view, backlit).alpha * 255).astype(np.uint8)
        return np.asarray(cv2.merge([grey, grey, grey]))
    if name in ("white", "shadow"):
        painted = None if outline.by_hand is None else outline.by_hand.shadow
        shade = own_shadow(outline.shadow, shadow or (1.0 if name == "shadow" else 0.0), outline.product, painted)
        if name == "shadow":
            return encode_pixels(np.repeat(resample(shade, view, covers=outline.covers)[..., None], 3, axis=2))
        return paint(frame_at, backdrop_at, outline, view, lambda tile: resample(shade, view, tile, outline.covers), backlit)
    grounds: dict[str, Ground] = {"loud": lambda tile: LOUD, "grey": lambda tile: GREY, "checks": _checks}
    return paint(frame_at, backdrop_at, outline, view, grounds[name], backlit)


def _checks(tile: Region) -> LinearRGB:
    rows = (np.arange(tile.top, tile.bottom) // _CHECK_PX)[:, None]
    columns = (np.arange(tile.left, tile.right) // _CHECK_PX)[None]
    light = np.where((rows + columns) % 2 == 0, *_CHECKS)
    return np.ascontiguousarray(np.repeat(light[..., None], 3, axis=2), np.float32)


def _difference(frame: LinearRGB, backdrop: LinearRGB, outline: Outline) -> EncodedRGB:
    """How far each pixel is from the backdrop frame, amplified: mid grey is none, lighter or darker is some."""
    ratio = (frame + 0.01) / (backdrop * np.asarray(outline.gain, np.float32) + 0.01)
    steps = np.clip(cv2.log(ratio) * 2.5, -1, 1)
    return np.asarray(np.round(127.5 + 127.5 * steps), dtype=np.uint8)
