"""The simulated camera's sensor: light to a JPEG file, as exposed, with noise, and with EXIF."""

from __future__ import annotations

import io
import math
from datetime import datetime
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.TiffImagePlugin import IFDRational

from true_backdrop.core.arrays import EncodedRGB, LinearRGB
from true_backdrop.core.codec import srgb_profile
from true_backdrop.core.colour import code_of
from true_backdrop.core.compiled import compiled
from true_backdrop.core.exposure import light_gathered_ev
from true_backdrop.studio.protocols import CameraSettings

#: At these settings the set of the demo is exposed as it should be, which takes so much gain of the rendered light.
_REFERENCE, _GAIN_EV = CameraSettings(), 0.34
#: The lamps' own colour temperature.
_LAMPS_KELVIN = 5200
#: ln(red / blue) of black bodies for one mired, by Wien's approximation at 450 and 610 nm.
_PER_MIRED = 14388.0 * (1 / 0.450 - 1 / 0.610) / 1e6
_VIGNETTING = 0.10
_FULL_WELL, _READ_NOISE = 22000.0, 0.0009
#: Noise made beforehand; each frame takes another cut of it, and beyond its size it repeats.
_NOISE = np.random.default_rng(3).standard_normal(1 << 22, dtype=np.float32)


def exposed(light: LinearRGB, camera: CameraSettings, rng: np.random.Generator) -> EncodedRGB:
    """sRGB pixels (H, W, 3) of gathered light."""
    ev = light_gathered_ev(camera.f_number, camera.shutter_s, camera.iso)
    ev -= light_gathered_ev(_REFERENCE.f_number, _REFERENCE.shutter_s, _REFERENCE.iso)
    # A camera that is told to take warmer light for white shows everything cooler, and the other way round.
    warm = math.exp(_PER_MIRED / 2 * (1e6 / _LAMPS_KELVIN - 1e6 / camera.kelvin))
    gains = np.array([warm, 1.0, 1 / warm]) * 2.0 ** (ev + _GAIN_EV)
    out = np.empty(light.shape, np.uint8)
    gain, start = camera.iso / 100, int(rng.integers(_NOISE.size))
    variance = np.array([gain / _FULL_WELL, _READ_NOISE**2 * gain], np.float32)
    _read_out(light, gains.astype(np.float32), variance, _NOISE, start, out)
    return out


@compiled
def _read_out(
    light: LinearRGB,
    gains: NDArray[np.float32],
    variance: NDArray[np.float32],
    noise: NDArray[np.float32],
    start: int,
    out: EncodedRGB,
) -> None:
    """Vignetting, exposure, noise of variance a x value + b, and the sRGB curve."""
    height, width = light.shape[:2]
    last, at = noise.size - 1, start
    for y in range(height):
        v = np.float32(2 * y / height - 1)
        for x in range(width):
            u = np.float32(2 * x / width - 1)
            bright = np.float32(1) - np.float32(_VIGNETTING) * (np.float32(0.69) * u * u + np.float32(0.31) * v * v)
            for c in range(3):
                value = max(light[y, x, c] * bright * gains[c], np.float32(0))
                value += noise[at] * np.sqrt(value * variance[0] + variance[1])
                at = at + 1 if at < last else 0
                out[y, x, c] = code_of(value)


def file_of(pixels: EncodedRGB, camera: CameraSettings, focal_mm: float, taken_at: datetime) -> bytes:
    """A JPEG as a camera writes it, with EXIF (CIPA DC-008: exposure time, f-number, ISO, focal length, date)."""
    exif = Image.Exif()
    exif[0x010F], exif[0x0110] = "True Backdrop", "Simulated studio"
    exif[0x0132] = taken_at.strftime("%Y:%m:%d %H:%M:%S")
    shutter = Fraction(camera.shutter_s).limit_denominator(8000)
    exif.get_ifd(0x8769).update(
        {
            0x829A: IFDRational(shutter.numerator, shutter.denominator),
            0x829D: IFDRational(round(camera.f_number * 10), 10),
            0x8827: camera.iso,
            0x9003: taken_at.strftime("%Y:%m:%d %H:%M:%S"),
            0x920A: IFDRational(round(focal_mm), 1),
        }
    )
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=95, subsampling=0, icc_profile=srgb_profile(), exif=exif)
    return out.getvalue()
