"""OpenRaster and mattes: what leaves is what the published format asks for, what comes back is known again."""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ET
import zipfile

import numpy as np
import pytest
from PIL import Image

from true_backdrop.core.errors import BrokenPicture, NotAPicture
from true_backdrop.core.exchange import Identity, matte_png, open_raster, returned

WHO = Identity(7, "a" * 64, "HT-204", "front")


def layers() -> tuple[np.ndarray, ...]:
    y, x = np.mgrid[0:40, 0:60]
    alpha = np.clip(1.5 - np.hypot(y - 20, x - 30) / 10, 0, 1).astype(np.float32)
    foreground = np.full((40, 60, 3), (0.5, 0.1, 0.05), np.float32)
    light = np.clip(1 - 0.4 * (y > 28), 0, 1).astype(np.float32)
    backdrop = np.full((40, 60, 3), 0.8, np.float32)
    return alpha, foreground, light, backdrop


def test_the_archive_is_as_open_raster_asks() -> None:
    """OpenRaster 0.0.6, file layout: mimetype first and stored; stack.xml; layers, merged picture, thumbnail as PNG."""
    data = open_raster(*layers(), WHO)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        first = archive.infolist()[0]
        assert first.filename == "mimetype" and first.compress_type == zipfile.ZIP_STORED
        assert archive.read("mimetype") == b"image/openraster"
        image = ET.fromstring(archive.read("stack.xml"))
        assert (image.tag, image.get("w"), image.get("h")) == ("image", "60", "40")
        found = [(layer.get("name"), layer.get("composite-op")) for layer in image.iter("layer")]
        assert found == [("product", "svg:src-over"), ("shadow", "svg:multiply"), ("backdrop", "svg:src-over")]
        for layer in image.iter("layer"):
            assert Image.open(io.BytesIO(archive.read(str(layer.get("src"))))).size == (60, 40)
        merged = np.asarray(Image.open(io.BytesIO(archive.read("mergedimage.png"))).convert("RGB"), float)
        below, over, shade = (
            np.asarray(Image.open(io.BytesIO(archive.read(f"data/{n}.png"))), float) for n in ("backdrop", "product", "shadow")
        )
        a = over[..., 3:] / 255
        np.testing.assert_allclose(merged, a * over[..., :3] + (1 - a) * below * shade / 255, atol=1)
        assert max(Image.open(io.BytesIO(archive.read("Thumbnails/thumbnail.png"))).size) <= 256


def test_what_left_comes_back_with_its_identity() -> None:
    alpha, *rest = layers()
    came = returned(open_raster(alpha, *rest, WHO), "x.ora")
    assert came.identity == WHO and came.made.retouched is not None
    np.testing.assert_allclose(came.made.opacity / 65535, alpha, atol=1 / 255)
    came = returned(matte_png(alpha, WHO), "x.png")
    assert came.identity == WHO and came.made.retouched is None
    np.testing.assert_allclose(came.made.opacity / 65535, alpha, atol=1 / 65535)


def test_a_layer_that_was_cropped_lies_where_it_lay() -> None:
    pixels = np.full((5, 7, 4), 255, np.uint8)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        png = io.BytesIO()
        Image.fromarray(pixels).save(png, "PNG")
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("data/layer3.png", png.getvalue())
        archive.writestr(
            "stack.xml",
            '<image w="20" h="10"><stack><stack><layer name="Product" src="data/layer3.png" x="15" y="-2"/></stack></stack></image>',
        )
    came = returned(out.getvalue(), "x.ora")
    expected = np.zeros((10, 20), np.uint16)
    expected[0:3, 15:20] = 65535
    np.testing.assert_array_equal(came.made.opacity, expected)
    assert came.identity is None


def archive_of(stack: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("stack.xml", stack)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "fault", "words"),
    [
        (
            archive_of('<image w="2" h="2"><stack><layer name="ink" src="a"/></stack></image>'),
            BrokenPicture,
            "no layer is called",
        ),
        (archive_of("<image"), BrokenPicture, "cannot be read"),
        (archive_of('<!DOCTYPE x [<!ENTITY a "b">]><image/>'), BrokenPicture, "entities"),
        (
            archive_of('<image w="2" h="2"><stack><layer name="product" src="gone.png"/></stack></image>'),
            BrokenPicture,
            "damaged",
        ),
        (b"PK\x03\x04", BrokenPicture, "damaged"),
        (b"", NotAPicture, "neither"),
    ],
)
def test_damaged_files_are_told(data: bytes, fault: type[Exception], words: str) -> None:
    with pytest.raises(fault, match=words):
        returned(data, "x.ora")


def test_grey_of_eight_bits_and_grey_pixels_in_colour_are_mattes() -> None:
    plane = np.arange(256, dtype=np.uint8).reshape(16, 16)
    for pixels in (plane, np.repeat(plane[..., None], 3, axis=2)):
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, "TIFF" if pixels.ndim == 2 else "PNG")
        np.testing.assert_array_equal(returned(out.getvalue(), "m").made.opacity, plane.astype(np.uint16) * 257)


def test_a_foreign_identity_is_none() -> None:
    from PIL import PngImagePlugin

    info = PngImagePlugin.PngInfo()
    info.add_itxt("True Backdrop", json.dumps({"another": 1}))
    out = io.BytesIO()
    Image.new("L", (4, 4)).save(out, "PNG", pnginfo=info)
    assert returned(out.getvalue(), "m.png").identity is None
