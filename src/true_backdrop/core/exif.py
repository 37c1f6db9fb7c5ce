"""What a picture file says about how it was exposed (CIPA DC-008, the Exif standard)."""

from __future__ import annotations

import io
import struct
import zlib
from typing import Any

from PIL import Image, UnidentifiedImageError

#: Tag of the Exif directory, and in it: exposure time, f-number, sensitivity, focal length.
_EXIF, _TAGS = 0x8769, {0x829A: "shutter_s", 0x829D: "f_number", 0x8827: "iso", 0x920A: "focal_mm"}


def exposure_told(data: bytes) -> dict[str, float]:
    """Shutter (s), f-number, ISO and focal length (mm) as far as the file tells; empty when it tells nothing.

    Never raises: what a file says of itself is not worth losing its pixels for.
    """
    try:
        with Image.open(io.BytesIO(data)) as image:
            told = image.getexif().get_ifd(_EXIF)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, KeyError, TypeError):
        return {}
    found = {name: _number(told[tag]) for tag, name in _TAGS.items() if tag in told}
    return {name: value for name, value in found.items() if value is not None and value > 0}


def _number(value: Any) -> float | None:
    try:
        return float(value[0] if isinstance(value, tuple) else value)
    except (TypeError, ValueError, ZeroDivisionError, IndexError):
        return None


def exif_of(data: bytes) -> bytes | None:
    """The Exif block of a picture file (beginning with the TIFF header), None without one."""
    try:
        with Image.open(io.BytesIO(data)) as image:
            block = image.info.get("exif")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError):
        return None
    if not isinstance(block, bytes):
        return None
    return block.removeprefix(b"Exif\0\0")


def png_with_exif(png: bytes, exif: bytes | None) -> bytes:
    """A PNG that says how its pixels were exposed: an eXIf chunk behind the header (PNG, third edition, 11.3.3.5)."""
    if not exif:
        return png
    chunk = b"eXIf" + exif
    header_ends = 8 + 25  # signature; length, type, 13 bytes and check sum of IHDR
    framed = struct.pack(">I", len(exif)) + chunk + struct.pack(">I", zlib.crc32(chunk))
    return png[:header_ends] + framed + png[header_ends:]
