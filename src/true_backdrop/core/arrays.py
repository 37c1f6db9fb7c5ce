"""Names for the arrays that travel through core: space, shape, dtype and range in one word.

All colour is RGB with sRGB primaries and white point D65; axis order is (y, x, channel).
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

LinearRGB: TypeAlias = NDArray[np.float32]
"""(H, W, 3) float32, scene-proportional light, 0 black, 1 the brightest value the file can hold."""

EncodedRGB: TypeAlias = NDArray[np.uint8]
"""(H, W, 3) uint8, sRGB transfer, 0 to 255."""

EncodedPixels: TypeAlias = NDArray[np.uint8] | NDArray[np.uint16]
"""(H, W, 3) uint8 (0 to 255) or uint16 (0 to 65535), sRGB transfer."""

Plane: TypeAlias = NDArray[np.float32]
"""(H, W) float32 in the unit that its name gives."""

Alpha: TypeAlias = NDArray[np.float32]
"""(H, W) float32, 0 backdrop to 1 product."""

Mask: TypeAlias = NDArray[np.bool_]
"""(H, W) bool."""

Trimap: TypeAlias = NDArray[np.uint8]
"""(H, W) uint8: 0 backdrop, 128 unknown, 255 product."""
