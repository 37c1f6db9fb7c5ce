"""Names, lists, specs and files: what people hand in."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from tests.scenes import jpeg, png
from true_backdrop.core.codec import decode
from true_backdrop.core.errors import BrokenPicture, NotAPicture, PictureTooLarge, RuleError
from true_backdrop.core.naming import NamePattern, is_backdrop_name, match_shot, safe_file_name, stem
from true_backdrop.core.product_list import parse_product_list
from true_backdrop.core.spec import SHIPPED, parse_spec
from true_backdrop.core.treatment import Treatment

PICTURE = np.full((30, 40, 3), 90, np.uint8)


@pytest.mark.parametrize(
    ("name", "found"),
    [
        ("HT-204_front.jpg", ("HT-204", "front")),
        ("ht 204-FRONT_02.tif", ("HT-204", "front")),
        ("C:\\shots\\HT-204_back left.JPG", ("HT-204", "back left")),
        ("HT-20_front.jpg", ("HT-20", "front")),
        ("HT-2045_front.jpg", None),
        ("HT-204_top.jpg", None),
        ("HT-204.jpg", None),
        ("IMG_0001.jpg", None),
    ],
)
def test_frames_find_their_shots_by_name(name: str, found: tuple[str, str] | None) -> None:
    got = match_shot(name, ["HT-20", "HT-204"], ["front", "back left"])
    assert (None if got is None else (got.code, got.angle)) == found


def test_a_code_alone_means_the_only_angle() -> None:
    got = match_shot("HT-204.jpg", ["HT-204"], ["front"])
    assert got is not None and got.angle == "front"


@pytest.mark.parametrize(
    ("name", "yes"), [("backdrop.jpg", True), ("Empty_set-2.tif", True), ("empty.png", True), ("HT-1_front.jpg", False)]
)
def test_backdrop_names(name: str, yes: bool) -> None:
    assert is_backdrop_name(name) is yes


def test_stem_of_odd_names() -> None:
    assert [stem(n) for n in ("a/b/c.d.jpg", ".hidden", "plain", "x\\y.png")] == ["c.d", ".hidden", "plain", "y"]


def test_name_pattern_fills_and_stays_safe() -> None:
    pattern = NamePattern("{name}_{code}-{number:3}")
    assert pattern.fill({"name": "Öllampe / groß", "code": "../x", "number": 7}) == "Ollampe--gro_..x-007"
    assert safe_file_name("../../etc") == "etc"
    assert safe_file_name("  ") == "picture"


@pytest.mark.parametrize(("text", "said"), [("{price}{code}", "price"), ("{code", "brace"), ("{angle}", "code")])
def test_bad_patterns_are_said(text: str, said: str) -> None:
    with pytest.raises(RuleError, match=said):
        NamePattern(text)


@pytest.mark.parametrize(
    "text",
    [
        "code,name,material\nHT-1,Mug,pale\nHT-2,Brush,strands",
        "HT-1;Mug;pale\nHT-2;Brush;strands",
        "\ufeffSKU\tProduct\tMaterial\nHT-1\tMug\tpale\n\nHT-2\tBrush\tstrands",
    ],
    ids=["comma", "semicolon", "tab"],
)
def test_product_lists_of_every_kind(text: str) -> None:
    found = parse_product_list(text)
    assert [(p.code, p.name, p.material) for p in found.products] == [("HT-1", "Mug", "pale"), ("HT-2", "Brush", "strands")]
    assert found.problems == ()


def test_bad_lines_are_named_and_the_rest_is_kept() -> None:
    found = parse_product_list("HT-1,Mug,pale\n,nothing\nHT-1,Again\nHT-2,Cup,wood\nHT-3")
    assert [p.code for p in found.products] == ["HT-1", "HT-3"]
    assert [p.split(":")[0] for p in found.problems] == ["line 2", "line 3", "line 4"]
    assert "wood" in found.problems[2]


def test_specs_say_what_is_wrong_with_them() -> None:
    with pytest.raises(RuleError, match="side_px"):
        parse_spec('{"name": "x", "title": "X", "side_px": 3, "quality": 80}')
    with pytest.raises(RuleError, match="either quality or max_bytes"):
        parse_spec('{"name": "x", "title": "X", "side_px": 300}')
    with pytest.raises(RuleError, match="colour_psace"):
        parse_spec('{"name": "x", "title": "X", "side_px": 300, "quality": 80, "colour_psace": "srgb"}')
    assert parse_spec(SHIPPED["pennywharf"].model_dump_json()) == SHIPPED["pennywharf"]


def test_shipped_outlets_have_their_rules() -> None:
    assert SHIPPED["pennywharf"].max_bytes == 153_600
    assert [(s.side_px, s.quality) for s in SHIPPED.values()] == [(2000, None), (1000, 80), (2048, 85)]
    assert SHIPPED["larkfield-home"].density_ppi == 300


def test_a_margin_is_a_coverage() -> None:
    assert parse_spec(
        '{"name": "x", "title": "X", "side_px": 300, "quality": 80, "margin": 0.05}'
    ).wanted_coverage == pytest.approx(0.9)


def test_treatments_refuse_misspelt_settings() -> None:
    with pytest.raises(ValueError, match="mach"):
        Treatment.model_validate({"cut": {"mach": 3}})


@pytest.mark.parametrize(
    ("data", "kind", "said"),
    [
        (b"", BrokenPicture, "empty"),
        (b"%PDF-1.4 ...", NotAPicture, "not a picture"),
        (jpeg(PICTURE)[:300], BrokenPicture, "damaged"),
        (png(PICTURE)[:-30], BrokenPicture, "damaged"),
        (
            b"GIF89a\x01\x00\x01\x00\x80\x00\x00\xff\xff\xff\x00\x00\x00!\xf9\x04\x01\x00\x00\x00\x00,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;",
            NotAPicture,
            "GIF",
        ),
    ],
    ids=["empty", "foreign", "short jpeg", "short png", "gif"],
)
def test_files_that_cannot_be_used_are_named_with_the_reason(data: bytes, kind: type[Exception], said: str) -> None:
    with pytest.raises(kind, match=said) as fault:
        decode(data, "HT-9_front.jpg")
    assert "HT-9_front.jpg" in str(fault.value)


def test_decompression_bombs_are_refused_before_decoding() -> None:
    """A PNG header that promises 40,000 x 40,000 pixels."""
    import struct
    import zlib

    head = struct.pack(">IIBBBBB", 40_000, 40_000, 8, 2, 0, 0, 0)
    chunk = b"IHDR" + head
    data = b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + chunk + struct.pack(">I", zlib.crc32(chunk)) + png(PICTURE)[33:]
    with pytest.raises(PictureTooLarge, match="1600 megapixels; the limit is 200"):
        decode(data, "bomb.png")


@pytest.mark.parametrize("mode", ["L", "P", "RGBA", "LA", "CMYK"])
def test_every_pixel_kind_becomes_rgb(mode: str) -> None:
    import io

    out = io.BytesIO()
    image = Image.fromarray(PICTURE)
    image = image.quantize(8) if mode == "P" else image.convert(mode)
    image.save(out, "TIFF" if mode == "CMYK" else "PNG")
    picture = decode(out.getvalue(), "x")
    assert picture.pixels.shape == (30, 40, 3)
    assert np.abs(picture.pixels.astype(int) - 90).max() <= 3
