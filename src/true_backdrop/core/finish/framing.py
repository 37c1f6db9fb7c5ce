"""Where the product sits in the square, and which part of the frame that square shows."""

from __future__ import annotations

from dataclasses import dataclass

from true_backdrop.core.picture import Region


@dataclass(frozen=True, slots=True)
class Placement:
    """The square over the frame.

    window   the part of the frame that the square shows and that is not plain white, in frame pixels
    shape    (height, width) that the window has in the finished square
    offset   (top, left) of the window in the square; what it does not fill is added canvas
    side_px  side of the square
    """

    window: Region
    shape: tuple[int, int]
    offset: tuple[int, int]
    side_px: int


def place(
    box: tuple[float, float, float, float],
    frame_size: tuple[int, int],
    coverage: float,
    side_px: int,
    shown: Region | None = None,
) -> Placement:
    """Centre a product on a square.

    Parameters
    ----------
    box
        The product: top, left, bottom, right in frame pixels, sub-pixel.
    frame_size
        Height and width of the frame.
    coverage
        Longer side of the product as a part of the square's side.
    side_px
        Side of the finished square.
    shown
        What of the frame is not plain white, in frame pixels; default the whole frame.

    Notes
    -----
    The square is side_px / scale frame pixels wide, scale = coverage * side_px / longer side. Where it
    reaches beyond the frame, canvas is added; the product is never cut.
    """
    top, left, bottom, right = box
    longer = max(bottom - top, right - left)
    if longer <= 0:
        raise ValueError(f"the box {box} is empty")
    scale = coverage * side_px / longer
    half = side_px / scale / 2
    centre_y, centre_x = (top + bottom) / 2, (left + right) / 2
    shown = shown or Region(0, 0, *frame_size)
    window = Region(
        _even(max(shown.top, centre_y - half)),
        _even(max(shown.left, centre_x - half)),
        min(frame_size[0], _even(min(shown.bottom, centre_y + half))),
        min(frame_size[1], _even(min(shown.right, centre_x + half))),
    )
    shape = (max(1, round(window.height * scale)), max(1, round(window.width * scale)))
    at_top = round(side_px / 2 - (centre_y - window.top) * scale)
    at_left = round(side_px / 2 - (centre_x - window.left) * scale)
    shape = (min(shape[0], side_px), min(shape[1], side_px))
    offset = (min(max(0, at_top), side_px - shape[0]), min(max(0, at_left), side_px - shape[1]))
    return Placement(window, shape, offset, side_px)


def _even(edge: float) -> int:
    """Windows begin and end on even pixels, so that they can be read from a frame halved in size."""
    return 2 * round(edge / 2)
