"""Bytes of a picture file to a `Picture`, and finished pixels to bytes.

Reads JPEG, PNG, TIFF (8 and 16 bit) and WebP; EXIF orientation is applied and the embedded ICC profile
is converted from by LittleCMS. Writes JPEG and PNG with an sRGB profile and a density.
"""

from __future__ import annotations

import io
import struct
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, cast

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageFile, UnidentifiedImageError

from true_backdrop.core.arrays import Alpha, EncodedPixels, EncodedRGB
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.errors import BrokenPicture, ByteLimitTooLow, NotAPicture, PictureTooLarge
from true_backdrop.core.picture import Picture, proxy_size

READABLE = {"JPEG": "JPEG", "MPO": "JPEG", "PNG": "PNG", "TIFF": "TIFF", "WEBP": "WebP"}
MAX_PIXELS = 200_000_000
MAX_BYTES = 1_500_000_000
#: The lowest JPEG quality that is still sent out; below it block edges show on smooth products (common practice).
LOWEST_QUALITY = 40
HIGHEST_QUALITY = 97

# The limit below is checked by us before anything is decoded, with a sentence that names the file.
Image.MAX_IMAGE_PIXELS = None
# Pillow writes an optimised JPEG in one piece and fails when its buffer is smaller than the file.
ImageFile.MAXBLOCK = 1 << 24


@lru_cache(1)
def srgb_profile() -> bytes:
    """The sRGB ICC profile that every finished picture carries."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def decode(data: bytes, name: str, *, max_pixels: int = MAX_PIXELS, at_least: int | None = None) -> Picture:
    """Decode a picture file.

    Parameters
    ----------
    data
        The bytes of the file.
    name
        What to call it in messages.
    max_pixels
        Refuse anything larger, before decoding.
    at_least
        For a first look: a JPEG is read at a half, quarter or eighth of its size (ITU-T T.81: from fewer coefficients of
        each block), as long as its long side keeps this many pixels.

    Returns
    -------
    Picture
        uint8, or uint16 when the file or its profile asks for more than 8 bits; upright; sRGB.

    Raises
    ------
    NotAPicture, PictureTooLarge, BrokenPicture
        Each with a sentence that names the file.
    """
    image = _opened(data, name, max_pixels)
    small = at_least is not None and _can_be_small(image) and max(image.size) >= 2 * at_least
    if small and at_least is not None:
        image.draft("RGB", proxy_size(image.height, image.width, at_least)[::-1])
    return _decoded(image, data, name, small=small)


def _can_be_small(image: Image.Image) -> bool:
    return image.format in ("JPEG", "MPO") and image.mode == "RGB"


def _decoded(image: Image.Image, data: bytes, name: str, *, small: bool = False) -> Picture:
    kind = READABLE[image.format or ""]
    try:
        pixels = np.asarray(image) if small else _pixels(image, data, name)
        orientation = _orientation(image)
    except PictureTooLarge:
        raise
    except (OSError, SyntaxError, ValueError, EOFError, struct.error, cv2.error, Image.DecompressionBombError) as fault:
        raise BrokenPicture(
            name, f"the {kind} file is damaged or cut short ({_plain(fault)}); export or copy it again"
        ) from fault
    profile = image.info.get("icc_profile")
    described = None
    # A grey profile describes tone alone; its curve is near enough to sRGB's for a frame to be matched.
    if profile and profile[16:20] == b"RGB ":
        pixels, described = _to_srgb(pixels, cast(bytes, profile), name)
    return Picture(upright(pixels, orientation), kind, described, _density(image))


def _orientation(image: Image.Image) -> int:
    return int(image.getexif().get(0x0112, 1) or 1)


@dataclass(frozen=True, slots=True)
class Glance:
    """What a picture file says of itself, and a small picture of it. Sizes are those of the upright picture."""

    height: int
    width: int
    format: str
    source_profile: str | None
    small: EncodedRGB


def glance(data: bytes, name: str, long_side: int) -> Glance:
    """A small picture (long side at most `long_side` px) of a file that has been read to its end.

    A JPEG is read as small as its blocks allow (ITU-T T.81: from fewer coefficients of each), which costs a quarter. Every
    coefficient is still read, so a file that is cut short is found. The small picture is for looking at only.

    Raises
    ------
    NotAPicture, PictureTooLarge, BrokenPicture
        As `decode`.
    """
    image = _opened(data, name, MAX_PIXELS)
    size, can_be_small = (image.height, image.width), _can_be_small(image)
    if can_be_small:
        image.draft("RGB", proxy_size(*size, long_side)[::-1])
    picture = _decoded(image, data, name, small=can_be_small)
    small = encode_pixels(picture.linear(size=proxy_size(picture.height, picture.width, long_side)))
    height, width = size[::-1] if _orientation(image) in _ON_ITS_SIDE else size
    return Glance(height, width, picture.format, picture.source_profile, small)


def _opened(data: bytes, name: str, max_pixels: int) -> Image.Image:
    if not data:
        raise BrokenPicture(name, "the file is empty; copy it again")
    if len(data) > MAX_BYTES:
        raise PictureTooLarge(name, f"the file has {len(data):,} bytes; the limit is {MAX_BYTES:,}")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data))
    except UnidentifiedImageError as fault:
        raise NotAPicture(name, "not a picture that can be read here; use JPEG, PNG, TIFF or WebP") from fault
    except (OSError, SyntaxError, ValueError, struct.error) as fault:
        raise BrokenPicture(name, f"the file is damaged ({_plain(fault)}); export or copy it again") from fault
    if image.format not in READABLE:
        raise NotAPicture(name, f"{image.format} files are not read here; use JPEG, PNG, TIFF or WebP")
    if image.width * image.height > max_pixels:
        raise PictureTooLarge(
            name,
            f"{image.width} x {image.height} is {image.width * image.height / 1e6:.0f} megapixels; "
            f"the limit is {max_pixels / 1e6:.0f}; export it smaller",
        )
    return image


def _plain(fault: Exception) -> str:
    return str(fault).split("\n")[0].strip()[:120] or type(fault).__name__


def _bits(image: Image.Image, data: bytes) -> int:
    if image.format == "PNG":
        return data[24]  # IHDR bit depth, ISO/IEC 15948 clause 11.2.1
    if image.format == "TIFF":
        tags = cast(Any, image).tag_v2
        return int(max(tags.get(258, (8,))))
    return 8


def _pixels(image: Image.Image, data: bytes, name: str) -> EncodedPixels:
    bits = _bits(image, data)
    if bits > 16:
        raise ValueError(f"{bits} bits a channel; 8 and 16 are read here")
    if bits == 16:
        return _sixteen_bit(data)
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        image = image.convert("RGBA")
        ground = Image.new("RGBA", image.size, (255, 255, 255, 255))
        return np.asarray(Image.alpha_composite(ground, image).convert("RGB"))
    if image.mode == "CMYK" and image.info.get("icc_profile"):
        source = ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"]))
        converted = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
        image.info.pop("icc_profile")
        return np.asarray(converted)
    if image.format == "JPEG" and image.mode == "RGB" and data.endswith(_END_OF_IMAGE):
        # The same library as Pillow's at the full speed of its vector code. It fills up a file that was cut
        # short with grey, so only whole ones are given to it.
        return np.asarray(imagecodecs.jpeg8_decode(data, outcolorspace="RGB"), np.uint8)
    return np.asarray(image if image.mode == "RGB" else image.convert("RGB"))


#: Marker EOI, ITU-T T.81 table B.1.
_END_OF_IMAGE = b"\xff\xd9"


def _sixteen_bit(data: bytes) -> NDArray[np.uint16]:
    # Pillow reads 16-bit colour as 8; OpenCV keeps it.
    raw = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if raw is None or raw.dtype != np.uint16:
        raise ValueError("16-bit pixels could not be read")
    if raw.ndim == 2:
        return np.asarray(np.repeat(raw[..., None], 3, axis=2), np.uint16)
    if raw.shape[2] == 4:
        weight = raw[..., 3:].astype(np.float32) / 65535
        raw = np.round(raw[..., :3] * weight + 65535 * (1 - weight)).astype(np.uint16)
    return np.asarray(raw[..., ::-1], np.uint16)


#: EXIF orientations in which rows and columns are exchanged.
_ON_ITS_SIDE = (5, 6, 7, 8)


def upright(pixels: EncodedPixels, orientation: int) -> EncodedPixels:
    """Undo an EXIF orientation (CIPA DC-008, tag 0x0112, values 1 to 8; others count as 1)."""
    if orientation in _ON_ITS_SIDE:
        pixels = np.swapaxes(pixels, 0, 1)
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    return cast(EncodedPixels, np.ascontiguousarray(pixels))


def _to_srgb(pixels: EncodedPixels, profile: bytes, name: str) -> tuple[EncodedPixels, str]:
    """Convert by LittleCMS, relative colorimetric; to 16 bit, so that the conversion itself adds no steps."""
    try:
        described = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).strip()
        if _is_srgb(profile):
            return pixels, described
        out = imagecodecs.cms_transform(
            pixels,
            profile,
            srgb_profile(),
            colorspace="rgb",
            outcolorspace="rgb",
            outdtype="uint16",
            intent=imagecodecs.CMS.INTENT.RELATIVE_COLORIMETRIC,
        )
    except (OSError, ImageCms.PyCMSError, imagecodecs.CmsError, ValueError, TypeError) as fault:
        raise BrokenPicture(name, f"its colour profile cannot be used ({_plain(fault)}); export it again as sRGB") from fault
    return np.asarray(out, dtype=np.uint16), described


@lru_cache(64)
def _is_srgb(profile: bytes) -> bool:
    """Whether converting from this profile changes any of a lattice of colours by more than one code value."""
    steps = np.linspace(0, 255, 9).round().astype(np.uint8)
    lattice = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), -1).reshape(27, 27, 3)
    out = imagecodecs.cms_transform(
        lattice,
        profile,
        srgb_profile(),
        colorspace="rgb",
        outcolorspace="rgb",
        intent=imagecodecs.CMS.INTENT.RELATIVE_COLORIMETRIC,
    )
    return bool(np.abs(out.astype(int) - lattice.astype(int)).max() <= 1)


def _density(image: Image.Image) -> float | None:
    density = image.info.get("dpi")
    return float(density[0]) if density and float(density[0]) > 1 else None


def encode_jpeg(pixels: EncodedRGB, quality: int, *, density_ppi: int = 72) -> bytes:
    """sRGB pixels as a baseline JPEG, 4:4:4 from quality 90 and 4:2:0 below, with profile and density."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(
        out,
        "JPEG",
        quality=quality,
        optimize=True,
        subsampling=0 if quality >= 90 else 2,
        dpi=(density_ppi, density_ppi),
        icc_profile=srgb_profile(),
    )
    return out.getvalue()


def encode_jpeg_under(pixels: EncodedRGB, limit_bytes: int, *, density_ppi: int = 72) -> tuple[bytes, int]:
    """The JPEG of highest quality that is no larger than the limit, and that quality.

    Sizes rise with quality but for the change of chroma sampling at 90, so the two ranges are searched one
    after the other. The next quality to try is read off a line through the logarithms of the nearest sizes
    known below and above the limit; it ends when the best and the next better quality are both known.

    Raises
    ------
    ByteLimitTooLow
        When quality 40 is still too large.
    """
    made: dict[int, bytes] = {}

    def size_at(quality: int) -> int:
        if quality not in made:
            made[quality] = encode_jpeg(pixels, quality, density_ppi=density_ppi)
        return len(made[quality])

    fits = _highest_that_fits(size_at, LOWEST_QUALITY, 89, 89, limit_bytes)
    if fits is None:
        raise ByteLimitTooLow(limit_bytes, size_at(LOWEST_QUALITY))
    if fits == 89:
        # Full chroma at 90 takes about a third more than halved chroma at 89, so it is tried only now.
        fits = _highest_that_fits(size_at, 90, HIGHEST_QUALITY, 90, limit_bytes) or fits
    return made[fits], fits


#: From one quality to the next a photograph on white grows by about this, in parts (measured on finished pictures).
_GROWTH = 0.045


def _highest_that_fits(size_at: Callable[[int], int], low: int, high: int, first: int, limit: int) -> int | None:
    """The highest quality from low to high whose size is at most `limit`, or None; `first` is tried first."""
    below, above = low - 1, high + 1
    quality = first
    while above - below > 1:
        if size_at(quality) <= limit:
            below = quality
        else:
            above = quality
        if below >= low and above <= high:
            slope = np.log(size_at(above) / size_at(below)) / (above - below)
            guess = below + np.log(limit / size_at(below)) / slope
        else:
            guess = quality + np.log(limit / size_at(quality)) / _GROWTH
        quality = min(max(int(guess), below + 1), above - 1)
    return below if below >= low else None


def encode_png(pixels: EncodedRGB, *, density_ppi: int = 72, alpha: Alpha | None = None) -> bytes:
    """sRGB pixels as PNG with profile and density; with `alpha`, straight-alpha RGBA (ISO/IEC 15948)."""
    if alpha is not None:
        plane = np.round(np.clip(alpha, 0, 1) * 255).astype(np.uint8)
        pixels = np.dstack([np.where(plane[..., None] == 0, np.uint8(0), pixels), plane])
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=4, dpi=(density_ppi, density_ppi), icc_profile=srgb_profile())
    return out.getvalue()


def encode_preview(pixels: EncodedRGB, quality: int = 88) -> bytes:
    """A JPEG for the screen: no profile and no extras, made fast."""
    return bytes(imagecodecs.jpeg8_encode(np.ascontiguousarray(pixels), level=quality))


def encode_cutout(pixels: EncodedRGB, alpha: Alpha) -> bytes:
    """A small straight-alpha WebP for walls, to lie on any colour: (h, w, 3) sRGB and (h, w)."""
    plane = np.round(np.clip(alpha, 0, 1) * 255).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(np.dstack([pixels, plane])).save(out, "WEBP", quality=82, method=2)
    return out.getvalue()


def encode_plane(plane: NDArray[np.uint8] | NDArray[np.uint16]) -> bytes:
    """One grey plane (h, w) of 8 or 16 bits as PNG, values as they are."""
    done, data = cv2.imencode(".png", plane, [cv2.IMWRITE_PNG_COMPRESSION, 3])
    if not done:
        raise ValueError("the plane could not be written as PNG")
    return bytes(data)


def decode_plane(data: bytes) -> NDArray[np.uint8]:
    """What `encode_plane` made of 8 bits."""
    plane = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    if plane is None or plane.ndim != 2 or plane.dtype != np.uint8:
        raise ValueError("not a plane of 8 bits")
    return np.asarray(plane, np.uint8)
