"""Out to a retoucher and back: OpenRaster with layers, a 16-bit matte, and how a file that comes back is known again.

OpenRaster 0.0.6 (freedesktop.org): a zip with `mimetype` first and stored, `stack.xml`, the layers as PNG in `data/`, a
`mergedimage.png` and a thumbnail. The identity travels in `identity.json` beside them, and in a PNG's iTXt chunk.
"""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ET
import zipfile
from dataclasses import asdict, dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin, UnidentifiedImageError

from true_backdrop.core.arrays import Alpha, EncodedRGB, LinearRGB, Plane
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.hand_made import HandMade
from true_backdrop.core.errors import BrokenPicture, NotAPicture
from true_backdrop.core.picture import Picture

IDENTITY_CHUNK = "True Backdrop"
PRODUCT, SHADOW, BACKDROP = "product", "shadow", "backdrop"
_THUMBNAIL_PX = 256
#: Beyond this an archive is not what was sent out.
_MOST_BYTES = 2_000_000_000


@dataclass(frozen=True, slots=True)
class Identity:
    """Of what a file was made: the shot, and the bytes of its frame."""

    shot_id: int
    frame_sha256: str
    code: str
    angle: str


def matte_png(alpha: Alpha, identity: Identity) -> bytes:
    """A matte (h, w) as grey PNG of 16 bits that knows what it belongs to."""
    info = PngImagePlugin.PngInfo()
    info.add_itxt(IDENTITY_CHUNK, json.dumps(asdict(identity)))
    out = io.BytesIO()
    plane = np.round(np.clip(alpha, 0, 1) * 65535).astype(np.uint16)
    Image.fromarray(plane).save(out, "PNG", compress_level=4, pnginfo=info)
    return out.getvalue()


def open_raster(alpha: Alpha, foreground: LinearRGB, light: Plane, backdrop: LinearRGB, identity: Identity) -> bytes:
    """Layers of one frame, the topmost first: product, its own shadow (multiplied), the backdrop as shot.

    Parameters
    ----------
    alpha, foreground
        (h, w) and (h, w, 3) straight linear light of the product.
    light
        (h, w) that reaches the ground, 1 where there is no shadow.
    backdrop
        (h, w, 3) linear light of the empty set.
    """
    height, width = alpha.shape
    product = np.dstack([encode_pixels(foreground), np.round(alpha * 255).astype(np.uint8)])
    product[alpha == 0] = 0
    ground = encode_pixels(np.repeat(light[..., None], 3, axis=2).astype(np.float32))
    below = encode_pixels(backdrop)
    shaded = below.astype(np.float32) * ground / 255
    merged = shaded + alpha[..., None] * (product[..., :3].astype(np.float32) - shaded)
    stack = ET.Element("image", version="0.0.6", w=str(width), h=str(height))
    layers = ET.SubElement(stack, "stack")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr("mimetype", "image/openraster")
        for name, pixels, operator in (
            (PRODUCT, product, "svg:src-over"),
            (SHADOW, ground, "svg:multiply"),
            (BACKDROP, below, "svg:src-over"),
        ):
            source = f"data/{name}.png"
            ET.SubElement(
                layers, "layer", {"name": name, "src": source, "x": "0", "y": "0", "opacity": "1.0", "composite-op": operator}
            )
            archive.writestr(source, _png(pixels))
        archive.writestr("stack.xml", ET.tostring(stack, encoding="utf-8", xml_declaration=True))
        flat = np.clip(np.round(merged), 0, 255).astype(np.uint8)
        archive.writestr("mergedimage.png", _png(flat))
        scale = _THUMBNAIL_PX / max(height, width)
        small = cv2.resize(flat, (max(1, round(width * scale)), max(1, round(height * scale))), interpolation=cv2.INTER_AREA)
        archive.writestr("Thumbnails/thumbnail.png", _png(np.asarray(small, np.uint8)))
        archive.writestr("identity.json", json.dumps(asdict(identity)))
    return out.getvalue()


def _png(pixels: NDArray[np.uint8]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=2)
    return out.getvalue()


@dataclass(frozen=True, slots=True)
class Returned:
    """What came back: a matte with or without retouched pixels, and what it says it belongs to."""

    made: HandMade
    identity: Identity | None


def returned(data: bytes, name: str) -> Returned:
    """Read a file from a retoucher: an OpenRaster file, a grey matte, or a picture with transparency.

    Raises
    ------
    NotAPicture, BrokenPicture
        Each with a sentence that names the file.
    """
    return _from_archive(data, name) if data[:4] == b"PK\x03\x04" else _from_picture(data, name)


def _from_archive(data: bytes, name: str) -> Returned:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(each.file_size for each in archive.infolist()) > _MOST_BYTES:
                raise BrokenPicture(name, "unpacked it would be larger than any frame; save it again")
            names = set(archive.namelist())
            if "stack.xml" not in names:
                raise NotAPicture(name, "a zip file without stack.xml is not OpenRaster; save it as .ora")
            layer = _product_layer(archive.read("stack.xml"), name)
            identity = _identity(archive.read("identity.json").decode()) if "identity.json" in names else None
            pixels = np.asarray(Image.open(io.BytesIO(archive.read(layer[0]))).convert("RGBA"))
            size, at = layer[1], layer[2]
    except (zipfile.BadZipFile, KeyError, OSError, UnidentifiedImageError, UnicodeDecodeError) as fault:
        raise BrokenPicture(name, f"the OpenRaster file is damaged ({fault}); save or copy it again") from fault
    whole = np.zeros((*size, 4), np.uint8)
    _place(pixels, whole, at)
    return Returned(_made_of(whole), identity)


def _place(pixels: NDArray[np.uint8], whole: NDArray[np.uint8], at: tuple[int, int]) -> None:
    """A layer may be smaller than the picture, or reach beyond it: programs crop them."""
    top, left = at
    y0, x0 = max(0, top), max(0, left)
    y1, x1 = min(whole.shape[0], top + pixels.shape[0]), min(whole.shape[1], left + pixels.shape[1])
    if y1 > y0 and x1 > x0:
        whole[y0:y1, x0:x1] = pixels[y0 - top : y1 - top, x0 - left : x1 - left]


def _product_layer(stack: bytes, name: str) -> tuple[str, tuple[int, int], tuple[int, int]]:
    """Its file, the picture's size (h, w), and the layer's corner (top, left)."""
    if b"<!DOCTYPE" in stack or b"<!ENTITY" in stack:
        raise BrokenPicture(name, "its stack.xml declares entities, which no layer needs; save it again")
    try:
        image = ET.fromstring(stack)  # noqa: S314  entities are refused above
        size = (int(image.get("h", "0")), int(image.get("w", "0")))
        for layer in image.iter("layer"):
            if (layer.get("name") or "").strip().lower() == PRODUCT:
                return str(layer.get("src")), size, (int(layer.get("y", "0")), int(layer.get("x", "0")))
    except (ET.ParseError, ValueError) as fault:
        raise BrokenPicture(name, f"its stack.xml cannot be read ({fault}); save it again") from fault
    raise BrokenPicture(name, f"no layer is called “{PRODUCT}”; keep the names of the layers")


def _from_picture(data: bytes, name: str) -> Returned:
    try:
        image = Image.open(io.BytesIO(data))
        image.load()
    except UnidentifiedImageError as fault:
        raise NotAPicture(name, "neither OpenRaster nor a picture; bring back .ora, or a matte as PNG or TIFF") from fault
    except (OSError, SyntaxError, ValueError) as fault:
        raise BrokenPicture(name, f"the file is damaged ({fault}); save or copy it again") from fault
    text = getattr(image, "text", {}).get(IDENTITY_CHUNK)
    identity = _identity(text) if text else None
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        return Returned(_made_of(np.asarray(image.convert("RGBA"))), identity)
    if image.mode.startswith("I"):
        plane = np.asarray(image).astype(np.int64)
        return Returned(HandMade(np.clip(plane, 0, 65535).astype(np.uint16)), identity)
    if image.mode in ("L", "1"):
        return Returned(HandMade(np.asarray(image.convert("L")).astype(np.uint16) * np.uint16(257)), identity)
    grey = np.asarray(image.convert("RGB"))
    if np.ptp(grey.astype(int), axis=-1).max() <= 2:
        return Returned(HandMade(grey[..., 1].astype(np.uint16) * np.uint16(257)), identity)
    raise NotAPicture(name, "a coloured picture without transparency is no matte; save it with transparency, or as .ora")


def _made_of(pixels: NDArray[np.uint8]) -> HandMade:
    opacity = pixels[..., 3].astype(np.uint16) * np.uint16(257)
    colour: EncodedRGB = np.ascontiguousarray(pixels[..., :3])
    return HandMade(opacity, Picture(colour, "PNG"))


def _identity(text: str) -> Identity | None:
    try:
        return Identity(**json.loads(text))
    except (ValueError, TypeError):
        return None
