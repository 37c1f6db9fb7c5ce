"""sRGB transfer, CIE Lab and the CIEDE2000 colour difference."""

from __future__ import annotations

from typing import Any, cast

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedPixels, EncodedRGB, LinearRGB
from true_backdrop.core.channels import rounded
from true_backdrop.core.compiled import compiled

Floats = NDArray[np.float64]

#: Linear sRGB to CIE XYZ, D65; IEC 61966-2-1:1999, clause 5.2.
SRGB_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
#: XYZ of D65 white as that matrix gives it.
D65_WHITE = SRGB_TO_XYZ.sum(axis=1)
#: Luminance weights of linear sRGB (second row of the matrix).
LUMINANCE = SRGB_TO_XYZ[1].astype(np.float32)


def srgb_to_linear(encoded: Floats) -> Floats:
    """Decode sRGB values to linear light, both 0 to 1 (IEC 61966-2-1:1999, clause 5.2).

    >>> float(np.round(srgb_to_linear(np.array(0.5)), 4))
    0.214
    """
    return np.where(encoded <= 0.04045, encoded / 12.92, ((np.maximum(encoded, 0) + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(linear: Floats) -> Floats:
    """Encode linear light as sRGB values, both 0 to 1 (IEC 61966-2-1:1999, clause 5.2)."""
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 0) ** (1 / 2.4) - 0.055)


_DECODE_8 = srgb_to_linear(np.arange(256) / 255.0).astype(np.float32)
_DECODE_16 = srgb_to_linear(np.arange(65536) / 65535.0).astype(np.float32)
_DECODE_8_TO_16 = np.round(_DECODE_8 * 65535).astype(np.uint16)
_DECODE_16_TO_16 = np.round(_DECODE_16 * 65535).astype(np.uint16)
#: Steps of the encoding table: 1/16384 of linear light is below half a code value everywhere above black.
ENCODE_STEPS = 1 << 14
ENCODE_8 = np.round(255 * linear_to_srgb(np.arange(ENCODE_STEPS + 1) / ENCODE_STEPS)).astype(np.uint8)


def decode_pixels(pixels: EncodedPixels) -> LinearRGB:
    """sRGB-encoded pixels (..., 3), uint8 or uint16, to linear float32 of the same shape, 0 to 1."""
    if pixels.dtype == np.uint8:
        return cast(LinearRGB, cv2.LUT(np.ascontiguousarray(pixels), _DECODE_8))
    if pixels.dtype == np.uint16:
        return _DECODE_16[pixels]
    raise TypeError(f"pixels must be uint8 or uint16, not {pixels.dtype}")


def light_of(dtype: np.dtype[Any]) -> NDArray[np.float32]:
    """Linear light, 0 to 1, of each value of encoded pixels of that dtype, uint8 or uint16."""
    return _DECODE_8 if dtype == np.uint8 else _DECODE_16


def decode_pixels_16(pixels: EncodedPixels) -> NDArray[np.uint16]:
    """As `decode_pixels`, to linear light as uint16, 0 to 65535."""
    if pixels.dtype == np.uint8:
        return cast(NDArray[np.uint16], cv2.LUT(np.ascontiguousarray(pixels), _DECODE_8_TO_16))
    return _DECODE_16_TO_16[pixels]


_FLOAT_STEPS, _HALF = np.float32(ENCODE_STEPS), np.float32(0.5)


@compiled
def code_of(light: Any) -> int:
    """sRGB code value, 0 to 255, of linear light, clipped to 0..1: for use in compiled loops."""
    return ENCODE_8[np.uint32(min(max(light, np.float32(0)), np.float32(1)) * _FLOAT_STEPS + _HALF)]  # type: ignore[no-any-return]


def encode_pixels(linear: LinearRGB) -> EncodedRGB:
    """Linear light to sRGB uint8, clipped to 0..1. Exactly 1.0 gives exactly 255.

    A table over 16,384 steps; at the dark end a step is less than one code value.
    """
    # OpenCV's conversion rounds and keeps to 0..65535 in one pass.
    index = rounded(np.ascontiguousarray(linear, np.float32), ENCODE_STEPS, cv2.CV_16U)
    return np.asarray(np.take(ENCODE_8, index, mode="clip").reshape(linear.shape), np.uint8)


def linear_to_lab(linear: NDArray[np.floating]) -> Floats:
    """Linear sRGB (..., 3) to CIE 1976 L*a*b* under D65; L* 0 to 100 (CIE 15:2018, clause 8.2.1)."""
    ratio = np.asarray(linear, dtype=np.float64) @ SRGB_TO_XYZ.T / D65_WHITE
    delta = 6 / 29
    f = np.where(ratio > delta**3, np.cbrt(ratio), ratio / (3 * delta**2) + 4 / 29)
    x, y, z = f[..., 0], f[..., 1], f[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def ciede2000(lab1: NDArray[np.floating], lab2: NDArray[np.floating]) -> Floats:
    """CIEDE2000 colour difference of Lab colours (..., 3), with kL = kC = kH = 1.

    Sharma, Wu and Dalal (2005), "The CIEDE2000 color-difference formula: implementation notes,
    supplementary test data, and mathematical observations", Color Research & Application 30(1).
    Symbols and equation numbers are theirs.
    """
    l1, a1, b1 = np.moveaxis(np.asarray(lab1, dtype=np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(lab2, dtype=np.float64), -1, 0)
    c_mean = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2  # (2), (3)
    g = 0.5 * (1 - np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7)))  # (4)
    a1p, a2p = (1 + g) * a1, (1 + g) * a2  # (5)
    c1p, c2p = np.hypot(a1p, b1), np.hypot(a2p, b2)  # (6)
    h1p = np.degrees(np.arctan2(b1, a1p)) % 360  # (7)
    h2p = np.degrees(np.arctan2(b2, a2p)) % 360
    dl, dc = l2 - l1, c2p - c1p  # (8), (9)
    dh = h2p - h1p  # (10)
    dh = np.where(dh > 180, dh - 360, np.where(dh < -180, dh + 360, dh))
    grey = c1p * c2p == 0
    dh = np.where(grey, 0.0, dh)
    dh_big = 2 * np.sqrt(c1p * c2p) * np.sin(np.radians(dh / 2))  # (11)
    l_mean, cp_mean = (l1 + l2) / 2, (c1p + c2p) / 2  # (12), (13)
    total = h1p + h2p  # (14)
    h_mean = np.where(np.abs(h1p - h2p) <= 180, total / 2, np.where(total < 360, (total + 360) / 2, (total - 360) / 2))
    h_mean = np.where(grey, total, h_mean)
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )  # (15)
    turn = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))  # (16)
    r_c = 2 * np.sqrt(cp_mean**7 / (cp_mean**7 + 25.0**7))  # (17)
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)  # (18)
    s_c = 1 + 0.045 * cp_mean  # (19)
    s_h = 1 + 0.015 * cp_mean * t  # (20)
    r_t = -np.sin(np.radians(2 * turn)) * r_c  # (21)
    return cast(
        Floats,
        np.sqrt((dl / s_l) ** 2 + (dc / s_c) ** 2 + (dh_big / s_h) ** 2 + r_t * (dc / s_c) * (dh_big / s_h)),
    )  # (22)
