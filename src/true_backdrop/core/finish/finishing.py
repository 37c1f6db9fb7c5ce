"""A finished square for an outlet: cut at the size that the square needs, framed, on white, with as much shadow as is wanted."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core import codec
from true_backdrop.core.arrays import EncodedRGB, LinearRGB, Plane
from true_backdrop.core.cut.edge import View, enlarged, proxy_part, resample
from true_backdrop.core.cut.outline import Outline
from true_backdrop.core.finish.compose import Ground, on_square, paint, unsharp_mask, white_away_from_product, without_specks
from true_backdrop.core.finish.framing import Placement, place
from true_backdrop.core.finish.ground import Square, faded, own_shadow
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Treatment


def product_window(outline: Outline, frame_size: tuple[int, int]) -> Region | None:
    """All that is or may be product, in frame pixels; None when nothing is."""
    return None if outline.box is None else _in_frame(outline.box, outline, frame_size)


def _in_frame(part: Region, outline: Outline, frame_size: tuple[int, int]) -> Region:
    """A part of the proxy in pixels of the frame, rounded outwards."""
    shown = outline.covers or Region(0, 0, *frame_size)
    factor = shown.height / outline.shape[0]
    return Region(
        shown.top + int(part.top * factor),
        shown.left + int(part.left * factor),
        min(frame_size[0], shown.top + int(np.ceil(part.bottom * factor))),
        min(frame_size[1], shown.left + int(np.ceil(part.right * factor))),
    )


def product_box(outline: Outline, frame_size: tuple[int, int]) -> tuple[float, float, float, float] | None:
    """Top, left, bottom, right of the product in frame pixels, or None."""
    rows, columns = np.flatnonzero(outline.product.any(axis=1)), np.flatnonzero(outline.product.any(axis=0))
    if rows.size == 0:
        return None
    shown = outline.covers or Region(0, 0, *frame_size)
    down, across = shown.height / outline.shape[0], shown.width / outline.shape[1]
    top, left, bottom, right = rows[0] * down, columns[0] * across, (rows[-1] + 1) * down, (columns[-1] + 1) * across
    return shown.top + top, shown.left + left, shown.top + bottom, shown.left + right


def finish(
    frame: Picture,
    backdrop: LinearRGB,
    outline: Outline,
    treatment: Treatment,
    spec: Spec,
    silhouette: tuple[Picture, LinearRGB] | None = None,
) -> EncodedRGB | None:
    """The finished square (side, side, 3) for one outlet, or None when there is no product to show.

    The work is done at the size that the square needs: a frame larger than that is averaged down before
    the cut, a smaller one is enlarged before it. `backdrop` is the proxy of the
    backdrop frame: an empty set is smooth, and averaged it carries less noise into the edges. `silhouette` is the
    silhouette frame and the proxy of its empty set, for an outline that was found with them.
    """
    size = (frame.height, frame.width)
    box = product_box(outline, size)
    if box is None:
        return None
    strength = 0.0 if spec.shadow == "none" else treatment.ground.shadow
    painted = None if outline.by_hand is None else outline.by_hand.shadow
    shade = None if strength == 0 else own_shadow(outline.shadow, strength, outline.product, painted)
    placement = place(box, size, spec.wanted_coverage or treatment.frame.coverage, spec.side_px, _not_white(outline, shade, size))
    view = View(placement.window, placement.shape, size)
    shown = frame.averaged(placement.window, placement.shape)
    backlit = None
    if silhouette is not None:
        backlit = silhouette[0].averaged(placement.window, placement.shape), enlarged(silhouette[1], view)
    part = paint(shown, enlarged(backdrop, view), outline, view, _ground_in(placement, view, outline, shade), backlit)
    part = without_specks(part, spec.side_px)
    if strength == 0:
        part = white_away_from_product(part)
    sharp = unsharp_mask(part, treatment.sharpen.amount, treatment.sharpen.radius_of_side * spec.side_px)
    return on_square(sharp, placement.offset, placement.side_px)


def _not_white(outline: Outline, shade: Plane | None, frame_size: tuple[int, int]) -> Region | None:
    """The part of the frame that product and shadow take, in frame pixels."""
    box = outline.box
    if box is None:
        return None
    if shade is not None:
        left, top, width, height = cv2.boundingRect((shade < 1).astype(np.uint8))
        if width:
            dark = Region(top, left, top + height, left + width).grown(2, *outline.shape)
            box = box.joined(dark)
    return _in_frame(box, outline, frame_size)


def _ground_in(placement: Placement, view: View, outline: Outline, shade: Plane | None) -> Ground:
    if shade is None:
        return lambda tile: None
    painted = None if outline.by_hand is None else outline.by_hand.shadow
    light = faded(shade, outline.product, _square_on_proxy(placement, view, outline), painted)

    def ground(tile: Region) -> Plane | None:
        if light[proxy_part(outline, view, tile)].min() == 1:
            return None
        return resample(light, view, tile, outline.covers)

    return ground


def _square_on_proxy(placement: Placement, view: View, outline: Outline) -> Square:
    """Of a square of which the window fills a part."""
    # Pixels of the square for one of the frame, and of the frame for one of the proxy.
    scale = placement.shape[0] / placement.window.height
    shrink, shown = view.shrunk(outline), outline.covers or Region(0, 0, *view.frame_size)
    top, left = placement.window.top - placement.offset[0] / scale, placement.window.left - placement.offset[1] / scale
    return Square((top - shown.top) / shrink, (left - shown.left) / shrink, placement.side_px / scale / shrink)


def encode_for(square: EncodedRGB, spec: Spec) -> tuple[bytes, int | None]:
    """The bytes that an outlet gets, and the JPEG quality used."""
    if spec.format == "png":
        return codec.encode_png(square, density_ppi=spec.density_ppi), None
    if spec.max_bytes is not None:
        return codec.encode_jpeg_under(square, spec.max_bytes, density_ppi=spec.density_ppi)
    quality = spec.quality or 85
    return codec.encode_jpeg(square, quality, density_ppi=spec.density_ppi), quality
