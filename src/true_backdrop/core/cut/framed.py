"""Only what lies in the framing box counts: stands, clips and the edge of the sweep outside it are not looked at."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.cut.align import Aligned, align
from true_backdrop.core.cut.estimate import estimated_backdrop
from true_backdrop.core.cut.shift import aligned_with, moved
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import FramingBox

#: Part of the long side over which the frame fades in at the sides of the box.
_FADE = 0.03


def region_of(box: FramingBox, height: int, width: int) -> Region:
    """The box in pixels of a picture."""
    return Region(round(box.top * height), round(box.left * width), round(box.bottom * height), round(box.right * width))


def as_shot(box: FramingBox, height: int, width: int) -> Region:
    """The part of a framed picture in which nothing of the frame is mixed with the backdrop."""
    inside, fade = region_of(box, height, width), max(2, round(_FADE * max(height, width)))
    return Region(
        inside.top + fade * (inside.top > 0),
        inside.left + fade * (inside.left > 0),
        inside.bottom - fade * (inside.bottom < height),
        inside.right - fade * (inside.right < width),
    )


def framed(frame: LinearRGB, backdrop: LinearRGB, box: FramingBox) -> tuple[Aligned, LinearRGB]:
    """`aligned_with` for a frame of which only the inside of the box counts: outside, it shows nothing but backdrop.

    Exposure, noise and shift are found inside the box, so that whatever stands outside it cannot spoil them.

    Raises
    ------
    BackdropDoesNotFit
        As `align`, about what the box holds.
    """
    region = region_of(box, *frame.shape[:2])
    inside = region.slices
    parts = np.ascontiguousarray(frame[inside]), np.ascontiguousarray(backdrop[inside])
    found, _ = aligned_with(*parts, long_side=max(frame.shape))
    if found.corrected and found.shift is not None:
        backdrop = moved(backdrop, found.shift)
    out = np.asarray(np.clip(backdrop * np.array(found.gain, np.float32), 0, 1), np.float32)
    out[inside] += _fading_in(region, frame.shape[0], frame.shape[1])[..., None] * (frame[inside] - out[inside])
    whole = align(out, backdrop)
    return replace(whole, noise=found.noise, shift=found.shift, corrected=found.corrected), backdrop


def _fading_in(inside: Region, height: int, width: int) -> Plane:
    """From 0 at the sides of the box to 1 a little further in, so that a shadow across a side leaves no edge there."""
    over = max(2, round(_FADE * max(height, width)))
    ramps = []
    for begin, end, last in ((inside.top, inside.bottom, height), (inside.left, inside.right, width)):
        at = np.arange(end - begin, dtype=np.float32) + 0.5
        from_begin = at / over if begin > 0 else np.ones_like(at)
        from_end = (end - begin - at) / over if end < last else np.ones_like(at)
        ramps.append(np.clip(np.minimum(from_begin, from_end), 0, 1))
    down, across = (ramp * ramp * (3 - 2 * ramp) for ramp in ramps)
    return np.asarray(np.minimum(down[:, None], across[None]), np.float32)


def veiled(frame: LinearRGB, backdrop: LinearRGB, box: FramingBox) -> LinearRGB:
    """The same for a quick look at equal exposure: (H, W, 3) with the backdrop outside the box."""
    out = backdrop.copy()
    inside = region_of(box, *frame.shape[:2]).slices
    out[inside] = frame[inside]
    return out


def estimated_within(frame: LinearRGB, box: FramingBox | None) -> LinearRGB:
    """A guessed backdrop (see estimate.py) from what the box holds, its rim repeated outside."""
    if box is None:
        return estimated_backdrop(frame)
    height, width = frame.shape[:2]
    inside = region_of(box, height, width)
    guess = estimated_backdrop(np.ascontiguousarray(frame[inside.slices]))
    edges = (inside.top, height - inside.bottom, inside.left, width - inside.right)
    return np.asarray(cv2.copyMakeBorder(guess, *edges, cv2.BORDER_REPLICATE), np.float32)
