"""Measuring marks on a finished square: what is not white, what is blown out, how far colour has moved."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from true_backdrop.core.arrays import EncodedRGB, Mask
from true_backdrop.core.audit import blown_out_mask, marked_mask
from true_backdrop.core.colour import ciede2000, decode_pixels, linear_to_lab
from true_backdrop.core.cut.edge import View, resample
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.finish.framing import place
from true_backdrop.core.picture import Region
from true_backdrop.core.pipeline import Prepared, product_box
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Treatment

MarkName = Literal["none", "not_white", "blown_out"]

#: Fine stripes in mid grey and black mark a place without any colour near the picture.
_STRIPE_PX = 4
#: Colour is compared this far inside the product, in proxy pixels, where no backdrop mixes in.
_INSIDE = 4.0


@dataclass(frozen=True, slots=True)
class SquareMeasure:
    """`coverage` and `blown_out` are parts of the side and of the product; `not_white` counts pixels."""

    coverage: float
    not_white: int
    blown_out: float


def marked(square: EncodedRGB, mark: MarkName) -> EncodedRGB:
    """The square with one kind of place marked by stripes."""
    if mark == "none":
        return square
    where = not_white_mask(square) if mark == "not_white" else blown_out_mask(square, marked_mask(square))
    y, x = np.indices(where.shape)
    stripes = ((x + y) // _STRIPE_PX) % 2 == 0
    out = square.copy()
    out[where & stripes] = 70
    return out


def not_white_mask(square: EncodedRGB) -> Mask:
    """Every pixel that is not exactly 255, 255, 255."""
    return np.asarray((square != 255).any(axis=-1))


def measure(square: EncodedRGB) -> SquareMeasure:
    """Coverage, count of non-white pixels, and the part of the product that is blown out."""
    mark = marked_mask(square)
    rows, columns = np.flatnonzero(mark.any(axis=1)), np.flatnonzero(mark.any(axis=0))
    longer = max(rows[-1] - rows[0], columns[-1] - columns[0]) + 1 if rows.size else 0
    blown = blown_out_mask(square, mark)
    return SquareMeasure(
        float(longer) / square.shape[0], int(not_white_mask(square).sum()), float(blown.sum()) / max(1, int((mark | blown).sum()))
    )


def colour_moved(prepared: Prepared, outline: Outline, treatment: Treatment, spec: Spec, square: EncodedRGB | None) -> float:
    """95th percentile of CIEDE2000 between frame and finished square inside the product.

    `square` is the finished picture before sharpening, which changes local contrast on purpose. Both are
    averaged to the proxy's scale first.
    """
    box = product_box(outline, prepared.frame_size)
    if box is None or square is None:
        return 0.0
    placement = place(box, prepared.frame_size, spec.wanted_coverage or treatment.frame.coverage, spec.side_px)
    scale = prepared.aligned.frame.shape[0] / prepared.frame_size[0]
    window = placement.window
    rows = slice(round(window.top * scale), round(window.bottom * scale))
    columns = slice(round(window.left * scale), round(window.right * scale))
    before = prepared.aligned.frame[rows, columns]
    top, left = placement.offset
    part = decode_pixels(np.ascontiguousarray(square[top : top + placement.shape[0], left : left + placement.shape[1]]))
    after = cv2.resize(part, (before.shape[1], before.shape[0]), interpolation=cv2.INTER_AREA)
    view = View(Region(0, 0, *prepared.frame_size), prepared.evidence.shape, prepared.frame_size)
    inside = view.shrunk(outline) * scale * resample(outline.signed, view, covers=outline.covers)[rows, columns] > _INSIDE
    if not inside.any():
        return 0.0
    # A half-pixel shift between the two scales must not count as colour: compare local means.
    blur = [np.asarray(cv2.GaussianBlur(light, (0, 0), 2.0), np.float32)[inside] for light in (before, after)]
    return float(np.percentile(ciede2000(linear_to_lab(blur[0]), linear_to_lab(blur[1])), 95))
