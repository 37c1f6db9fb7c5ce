"""One sharp frame from a series focused from near to far.

Each slice is laid under the reference slice (a lens that is focused nearer shows everything larger: focus breathing),
taken apart into a Laplacian pyramid (Burt and Adelson 1983), and at each level and place the slices are mixed by how
much detail they hold there (salience after Burt and Kolczynski 1993, as a soft weight that finer levels hand on to
coarser ones). What holds no detail in any slice is their mean, which also quiets the noise.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedPixels, Plane
from true_backdrop.core.channels import channel_mean, squared_length
from true_backdrop.core.errors import TrueBackdropError
from true_backdrop.core.picture import Picture, Region, proxy_size
from true_backdrop.core.registration import Similarity, register

#: Long side at which slices are laid on each other; a hundredth of a pixel there is some hundredths of the frame's.
_LONG_SIDE = 960
#: A breathing lens changes the size by some percent; more than this is another picture.
_ALLOWED_SCALE, _ALLOWED_DEGREES, _ALLOWED_CORRELATION = 0.12, 2.0, 0.8
#: Levels of the pyramid: the coarsest sees 2**5 pixels as one, more than any useful slice is blurred.
_LEVELS = 5
#: How decidedly the slice with more detail wins, and how much finer detail decides for coarser (chosen on renders).
_DECIDED, _INHERITED = 6.0, 2.0
#: Pixels over which detail is summed up, at each level; and in units of its variance how much noise counts as none.
_AROUND, _AS_NOISE = 2.0, 8.0
#: What is left of the noise's amplitude from one level of a Laplacian pyramid to the next (measured on white noise).
_NOISE_LEFT = 0.41
#: Rows that are merged at a time, and rows on either side that the pyramid looks at; multiples of 2**_LEVELS.
_STRIP, _MARGIN = 512, 5 * 2**_LEVELS


class SlicesDoNotFit(TrueBackdropError):
    """The slices are not of one scene."""


@dataclass(frozen=True, slots=True)
class Merged:
    """`pixels` (H, W, 3) of the dtype of the slices; `breathing` is each slice's size against the reference, 1 for itself."""

    pixels: EncodedPixels
    breathing: tuple[float, ...]


def merge_slices(slices: Sequence[Picture], reference: int | None = None) -> Merged:
    """Merge slices of one scene, in the order of their focus distance, to one that is sharp wherever one of them is.

    The result lies as slice number `reference` does (default: the middle one).

    Raises
    ------
    SlicesDoNotFit
        When there are fewer than two, their sizes differ, or they show different scenes.
    """
    if len(slices) < 2:
        raise SlicesDoNotFit("a focus series needs two slices at least; mark a near and a far point that lie apart")
    middle = len(slices) // 2 if reference is None else reference
    one = slices[middle]
    for other in slices:
        if (other.height, other.width, other.pixels.dtype) != (one.height, one.width, one.pixels.dtype):
            raise SlicesDoNotFit("the slices of this series differ in size; shoot the series again without changing the camera")
    laid = lay_together(slices, middle)
    noise = _noise(one)
    out = np.empty_like(one.pixels)
    full = float(np.iinfo(out.dtype).max)
    for top in range(0, one.height, _STRIP):
        bottom = min(top + _STRIP, one.height)
        strip = Region(max(0, top - _MARGIN), 0, min(one.height, bottom + _MARGIN), one.width)
        shown = [_under_reference(picture, where, strip) for picture, where in zip(slices, laid, strict=True)]
        merged = _merged(shown, noise)[top - strip.top : bottom - strip.top]
        out[top:bottom] = np.round(np.clip(merged, 0, 1) * full).astype(out.dtype)
    return Merged(out, tuple(round(where.scale, 5) for where in laid))


def lay_together(slices: Sequence[Picture], reference: int) -> list[Similarity]:
    """For each slice, where a pixel of the reference lies in it, in pixels of the frame. Neighbour after neighbour."""
    size = proxy_size(slices[reference].height, slices[reference].width, _LONG_SIDE)
    template = _tone(slices[reference], size)
    laid = [Similarity()] * len(slices)
    for way in (range(reference - 1, -1, -1), range(reference + 1, len(slices))):
        near = Similarity()
        for index in way:
            near, correlation = register(template, _tone(slices[index], size), near)
            far_off = abs(near.scale - 1) > _ALLOWED_SCALE or abs(near.degrees) > _ALLOWED_DEGREES
            if far_off or correlation < _ALLOWED_CORRELATION:
                raise SlicesDoNotFit(
                    f"slice {index + 1} of {len(slices)} does not show the same as the others: product or camera moved; "
                    "shoot the series again"
                )
            laid[index] = near.at(slices[reference].width / size[1])
    return laid


def _tone(picture: Picture, size: tuple[int, int]) -> Plane:
    """Brightness without its slow changes over the set: they are alike whatever stands there."""
    tone = np.sqrt(channel_mean(picture.linear(size=size)))
    return np.asarray(tone - cv2.GaussianBlur(tone, (0, 0), _LONG_SIDE / 10), np.float32)


def _merged(shown: list[NDArray[np.float32]], noise: float) -> NDArray[np.float32]:
    """Aligned slices (h, W, 3) in encoded values, merged. Slices are handed over: they are taken apart here."""
    pyramids = []
    while shown:
        pyramids.append(_laplacian(shown.pop(0)))
    weights: NDArray[np.float32] | None = None
    mixed = []
    for level in range(_LEVELS + 1):
        bands = [pyramid[level].astype(np.float32) for pyramid in pyramids]
        weights = _weights(bands, weights, noise * _NOISE_LEFT**level, last=level == _LEVELS)
        sum_up = np.zeros_like(bands[0])
        for band, weight in zip(bands, weights, strict=True):
            sum_up += band * weight[..., None]
        mixed.append(sum_up)
    return _collapsed(mixed)


def _weights(
    bands: list[NDArray[np.float32]], finer: NDArray[np.float32] | None, noise: float, *, last: bool
) -> NDArray[np.float32]:
    """The share of each slice at one level, (slices, h, w), summing to 1: by its own detail and by what finer levels decided."""
    shares = np.ones((len(bands), *bands[0].shape[:2]), np.float32)
    if not last:
        least = _AS_NOISE * noise**2
        for share, band in zip(shares, bands, strict=True):
            share[:] = cv2.GaussianBlur(squared_length(band), (0, 0), _AROUND) + least
        shares = (shares / shares.max(axis=0)) ** _DECIDED
    if finer is not None:
        # Exactly nothing would leave nothing to share where two levels disagree.
        shares *= np.stack([cv2.pyrDown(share) for share in finer]) ** _INHERITED + 1e-6
    return np.asarray(shares / shares.sum(axis=0), np.float32)


def _noise(picture: Picture) -> float:
    """Standard deviation of the noise in encoded values: in most of a studio picture the finest detail is noise."""
    rows = picture.pixels[: picture.height // 2 * 2 : 16]
    step = np.diff(rows[..., 1].astype(np.float32), n=2, axis=1) / np.float32(np.iinfo(rows.dtype).max)
    # 1.4826 turns a median of absolute values into sigma; a second difference has 1 + 4 + 1 times the variance.
    return 1.4826 * float(np.median(np.abs(step))) / 6**0.5 + 1e-4


def _under_reference(picture: Picture, where: Similarity, strip: Region) -> NDArray[np.float32]:
    """What a slice shows in a strip of the reference, (h, W, 3) in encoded values, 0 to 1."""
    full = np.float32(np.iinfo(picture.pixels.dtype).max)
    if where == Similarity():
        return np.asarray(picture.pixels[strip.slices] / full, np.float32)
    # Only rows that the strip can reach are looked at.
    ends = [where.moved(x, y)[1] for x in (0, picture.width) for y in (strip.top, strip.bottom)]
    top, bottom = max(0, int(min(ends)) - 8), min(picture.height, int(max(ends)) + 9)
    matrix = where.matrix
    matrix[:, 2] += matrix[:, :2] @ (strip.left, strip.top) - (0, top)
    source = np.asarray(picture.pixels[top:bottom] / full, np.float32)
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    size = (strip.width, strip.height)
    return np.asarray(cv2.warpAffine(source, matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE), np.float32)


def _laplacian(picture: NDArray[np.float32]) -> list[NDArray[np.float16 | np.float32]]:
    """Bands from fine to coarse, and last what is left. Half precision: a code value of 8 bit is 4 of its steps at least."""
    bands: list[NDArray[np.float16 | np.float32]] = []
    for _ in range(_LEVELS):
        small = cv2.pyrDown(picture)
        bands.append((picture - cv2.pyrUp(small, dstsize=picture.shape[1::-1])).astype(np.float16))
        picture = np.asarray(small, np.float32)
    return [*bands, picture]


def _collapsed(bands: list[NDArray[np.float32]]) -> NDArray[np.float32]:
    picture = bands[-1]
    for band in reversed(bands[:-1]):
        picture = np.asarray(cv2.pyrUp(picture, dstsize=band.shape[1::-1]) + band, np.float32)
    return picture
