"""What files say, read back by another library; orientation and profiles against their standards."""

from __future__ import annotations

import io
import struct
import zlib

import numpy as np
import pytest
from PIL import Image, ImageCms

from true_backdrop.core import codec
from true_backdrop.core.codec import decode, encode_jpeg, encode_png, srgb_profile
from true_backdrop.core.errors import BrokenPicture

GREY = np.full((40, 60, 3), 118, np.uint8)


def test_jpeg_density_is_in_the_jfif_segment() -> None:
    """JFIF 1.02: after SOI and APP0 come the identifier, version, unit 1 (dots per inch) and X, Y density."""
    data = encode_jpeg(GREY, 90, density_ppi=300)
    at = data.index(b"JFIF\0")
    unit, across, down = struct.unpack(">BHH", data[at + 7 : at + 12])
    assert (unit, across, down) == (1, 300, 300)


def test_png_density_is_in_the_phys_chunk() -> None:
    """ISO/IEC 15948, clause 11.3.5.3: pixels per unit, unit 1 is the metre; 300 ppi are 11811 a metre."""
    data = encode_png(GREY, density_ppi=300)
    at = data.index(b"pHYs")
    assert struct.unpack(">IIB", data[at + 4 : at + 13]) == (11811, 11811, 1)
    length = struct.unpack(">I", data[at - 4 : at])[0]
    assert struct.unpack(">I", data[at + 4 + length : at + 8 + length])[0] == zlib.crc32(data[at : at + 4 + length])


@pytest.mark.parametrize("data", [encode_jpeg(GREY, 80), encode_png(GREY)], ids=["jpeg", "png"])
def test_finished_files_carry_the_srgb_profile(data: bytes) -> None:
    profile = Image.open(io.BytesIO(data)).info["icc_profile"]
    assert profile == srgb_profile()
    assert "srgb" in ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).lower()


def test_png_holds_straight_alpha() -> None:
    """ISO/IEC 15948, clause 4.3: colour is not premultiplied. Half covered red stays full red."""
    red = np.zeros((4, 4, 3), np.uint8)
    red[..., 0] = 255
    image = Image.open(io.BytesIO(encode_png(red, alpha=np.full((4, 4), 0.5, np.float32))))
    assert image.mode == "RGBA"
    assert image.getpixel((1, 1)) == (255, 0, 0, 128)


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation(orientation: int) -> None:
    """CIPA DC-008, tag 0x0112. Row 0 and column 0 of the file lie where the tag says; the picture comes out upright."""
    upright = np.zeros((24, 40, 3), np.uint8)
    upright[:8, :8] = 200  # the corner that is top left when upright
    upright[:8, -8:] = 100
    stored = {
        1: upright,
        2: upright[:, ::-1],
        3: upright[::-1, ::-1],
        4: upright[::-1],
        5: upright.swapaxes(0, 1),
        6: upright.swapaxes(0, 1)[::-1],
        7: upright.swapaxes(0, 1)[::-1, ::-1],
        8: upright.swapaxes(0, 1)[:, ::-1],
    }[orientation]
    # The inverse of each storing transform, as the standard words it: 6 is "row 0 is the right side, column 0 the top".
    if orientation == 6:
        stored = np.rot90(upright, 1)
    if orientation == 8:
        stored = np.rot90(upright, -1)
    exif = Image.Exif()
    exif[0x0112] = orientation
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(stored)).save(out, "PNG", exif=exif)
    assert np.array_equal(decode(out.getvalue(), "turned.png").pixels, upright)


def _matrix_profile(primaries: str) -> bytes:
    """Adobe RGB (1998) or Display P3 as a profile, from the published chromaticities and curves."""
    import imagecodecs

    # Adobe RGB (1998) Color Image Encoding, 2005-05, section 4.3.1; SMPTE EG 432-1 primaries with the D65 white point.
    chromaticities = {
        "adobe": ([0.64, 0.33, 1.0, 0.21, 0.71, 1.0, 0.15, 0.06, 1.0], 2.19921875),
        "p3": ([0.680, 0.320, 1.0, 0.265, 0.690, 1.0, 0.150, 0.060, 1.0], None),
    }
    xy, gamma = chromaticities[primaries]
    curve = None
    if gamma is None:
        v = np.linspace(0, 1, 4096)
        curve = np.round(65535 * np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)).astype(np.uint16)
    return bytes(
        imagecodecs.cms_profile("rgb", whitepoint=[0.3127, 0.3290, 1.0], primaries=xy, transferfunction=curve, gamma=gamma)
    )


@pytest.mark.parametrize("space", ["adobe", "p3"])
@pytest.mark.parametrize("kind", ["JPEG", "PNG", "TIFF", "WEBP"])
def test_wide_gamut_input_arrives_right_in_srgb(space: str, kind: str) -> None:
    """The same colours, computed from the published matrices and curves in float64, within one code value."""
    import colour

    name = {"adobe": "Adobe RGB (1998)", "p3": "Display P3"}[space]
    target = np.array([[128, 128, 128], [180, 140, 120], [90, 120, 150], [200, 190, 170]], np.uint8)  # inside sRGB
    linear = colour.models.eotf_sRGB(target / 255)
    xyz = colour.RGB_to_XYZ(linear, "sRGB", apply_cctf_decoding=False)
    wide = np.clip(colour.XYZ_to_RGB(xyz, name, apply_cctf_encoding=True), 0, 1)
    stored = np.repeat(np.repeat(np.round(wide * 255).astype(np.uint8)[None], 32, 0), 32, 1)
    out = io.BytesIO()
    options = {"quality": 100, "subsampling": 0} if kind == "JPEG" else ({"lossless": True} if kind == "WEBP" else {})
    Image.fromarray(stored).save(out, kind, icc_profile=_matrix_profile(space), **options)
    picture = decode(out.getvalue(), "wide")
    got = picture.pixels[16, 16::32].astype(float) / 257
    assert picture.source_profile
    assert np.abs(got - target).max() <= 1.6


def test_conversion_is_littlecms_relative_colorimetric() -> None:
    """Against Pillow's own binding of LittleCMS, which converts at 8 bit."""
    rng = np.random.default_rng(9)
    pixels = rng.integers(0, 256, (32, 32, 3), dtype=np.uint8)
    profile = _matrix_profile("adobe")
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", icc_profile=profile)
    expected = ImageCms.profileToProfile(
        Image.fromarray(pixels),
        ImageCms.ImageCmsProfile(io.BytesIO(profile)),
        ImageCms.ImageCmsProfile(io.BytesIO(srgb_profile())),
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
    )
    got = np.round(decode(out.getvalue(), "x.png").pixels / 257.0)
    assert np.abs(got - np.asarray(expected, dtype=float)).max() <= 1


@pytest.mark.parametrize("kind", [".png", ".tiff"])
def test_sixteen_bit_files_keep_their_depth(kind: str) -> None:
    import cv2

    ramp = np.repeat(np.linspace(0, 65535, 500).astype(np.uint16)[None, :, None], 3, axis=2).repeat(4, axis=0)
    data = cv2.imencode(kind, ramp)[1].tobytes()
    picture = codec.decode(data, f"ramp{kind}")
    assert picture.pixels.dtype == np.uint16
    assert np.array_equal(picture.pixels, ramp)


class TestGlance:
    """The small picture of a file that is read to its end, against the whole decode of the same file."""

    PHOTO = np.asarray(np.kron(np.random.default_rng(4).integers(40, 220, (20, 30, 3)), np.ones((40, 40, 1))), np.uint8)

    @pytest.mark.parametrize("format", ["JPEG", "PNG", "TIFF"])
    def test_it_shows_the_same_and_says_the_same(self, format: str) -> None:
        out = io.BytesIO()
        Image.fromarray(self.PHOTO).save(out, format, **({"quality": 95} if format == "JPEG" else {}))
        about, whole = codec.glance(out.getvalue(), "a", 300), decode(out.getvalue(), "a")
        assert (about.height, about.width, about.format) == (whole.height, whole.width, whole.format) == (800, 1200, format)
        assert about.small.shape == (200, 300, 3)
        expected = whole.linear(size=(200, 300))
        assert np.abs(codec.decode(encode_png(about.small), "s").linear() - expected).mean() < 0.006

    @pytest.mark.parametrize("orientation", range(1, 9))
    def test_sizes_are_those_of_the_upright_picture(self, orientation: int) -> None:
        exif = Image.Exif()
        exif[0x0112] = orientation
        out = io.BytesIO()
        Image.fromarray(self.PHOTO).save(out, "JPEG", exif=exif)
        about, whole = codec.glance(out.getvalue(), "a", 300), decode(out.getvalue(), "a")
        assert (about.height, about.width) == (whole.height, whole.width)
        assert (
            np.abs(about.small.astype(int) - decode(out.getvalue(), "a").pixels[2::4, 2::4][: about.small.shape[0]]).mean() < 12
        )

    def test_a_jpeg_cut_short_anywhere_is_found(self) -> None:
        data = encode_jpeg(self.PHOTO, 90)
        for part in (0.3, 0.7, 0.97):
            with pytest.raises(BrokenPicture, match="cut short"):
                codec.glance(data[: int(part * len(data))], "HT-1_front.jpg", 300)
