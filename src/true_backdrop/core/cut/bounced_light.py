"""Light that the product throws on the set: it colours the shadow beside a product of some colour.

A pixel near the outline of a red product is redder than the backdrop in shadow would be, though nothing of the product covers it.
Taken for a mixture of the two it would leave a faint rim of the product's colour on every ground.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Mask
from true_backdrop.core.channels import channel_mean, doubled, halved
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.picture import Region

#: So large a change of colour (log units) is none that light thrown on a backdrop makes.
_MOST = 0.7
#: Sigma that it is smoothed by, in its own pixels; and a mean of what is bare counts in full from one part in so many on.
_SIGMA, _NEARBY = 0.6, 8
#: So far around the product (proxy pixels) it is read off.
_AROUND_PX = 96
#: A change so small everywhere (log units) cannot be seen.
_NONE = 0.004
#: Where nothing is bounced: white, as of one pixel that counts for all.
NONE_BOUNCED = np.ones((1, 1, 3), np.float32)


def hue_of(log_ratio: NDArray[np.float32]) -> NDArray[np.float32]:
    """What of a log ratio to the backdrop (H, W, 3) is colour and not tone, at a quarter of the size; it sums to 0."""
    small = halved(halved(log_ratio))
    return np.asarray(small - channel_mean(small)[..., None], np.float32)


def bounced_light(hue: NDArray[np.float32], bare: Mask, part: Region) -> LinearRGB:
    """How much more or less light of each channel reaches the backdrop than its shadow says, (h, w, 3) at a quarter of the size.

    Read off what is `bare` (H, W) of product, where `hue` (h, w, 3; see `hue_of`) tells it, and continued under the product, in
    and around a `part` of the proxy; 1 elsewhere. The colour of what is bare must not be mixed with the product's.
    """
    small = _quarter(part.grown(_AROUND_PX, int(bare.shape[0]), int(bare.shape[1])), hue)
    there = slice(4 * small.top, 4 * small.bottom), slice(4 * small.left, 4 * small.right)
    free = cv2.erode(bare[there].view(np.uint8) * np.uint8(255), np.ones((3, 3), np.uint8), borderValue=255)
    share = np.asarray(cv2.resize(free, (small.width, small.height), interpolation=cv2.INTER_AREA) == 255, np.float32)
    seen_there = hue[small.slices]
    near = np.asarray(cv2.GaussianBlur(share, (0, 0), _SIGMA), np.float32)
    total = cv2.GaussianBlur(seen_there * share[..., None], (0, 0), _SIGMA)
    mean = np.asarray(total / np.maximum(near, np.float32(1e-4))[..., None], np.float32)
    continued = spread(mean, share)
    seen = np.minimum(near * _NEARBY, 1)[..., None]
    change = np.clip(continued + seen * (mean - continued), -_MOST, _MOST)
    if np.abs(change).max() < _NONE:
        return NONE_BOUNCED
    found = np.ones(hue.shape, np.float32)
    found[small.slices] = cv2.exp(change)
    return found


def lit_by(backdrop: LinearRGB, bounced: LinearRGB, part: Region) -> LinearRGB:
    """A part of a backdrop (H, W, 3) in bounced light, (part.height, part.width, 3)."""
    if bounced is NONE_BOUNCED:
        return backdrop[part.slices]
    small = _quarter(part, bounced)
    down, right = part.bottom - 4 * small.top, part.right - 4 * small.left
    large = doubled(doubled(bounced[small.slices], (-(-down // 2), -(-right // 2))), (down, right))
    lit = large[part.top - 4 * small.top :, part.left - 4 * small.left :]
    return np.asarray(cv2.multiply(backdrop[part.slices], lit), np.float32)


def _quarter(part: Region, plane: NDArray[np.float32]) -> Region:
    """The part of a plane (h, w, 3) at a quarter of the size that holds one of the proxy."""
    bottom, right = min(plane.shape[0], -(-part.bottom // 4)), min(plane.shape[1], -(-part.right // 4))
    return Region(min(part.top // 4, bottom - 1), min(part.left // 4, right - 1), bottom, right)
