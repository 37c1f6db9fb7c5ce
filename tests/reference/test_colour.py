"""Colour against published values and a general-purpose reference library."""

from __future__ import annotations

import colour
import numpy as np
import pytest

from true_backdrop.core.colour import (
    ciede2000,
    decode_pixels,
    decode_pixels_16,
    encode_pixels,
    linear_to_lab,
    linear_to_srgb,
    srgb_to_linear,
)

#: Sharma, Wu and Dalal (2005), table 1: L1 a1 b1 L2 a2 b2 dE00.
SHARMA = """
50.0000 2.6772 -79.7751 50.0000 0.0000 -82.7485 2.0425
50.0000 3.1571 -77.2803 50.0000 0.0000 -82.7485 2.8615
50.0000 2.8361 -74.0200 50.0000 0.0000 -82.7485 3.4412
50.0000 -1.3802 -84.2814 50.0000 0.0000 -82.7485 1.0000
50.0000 -1.1848 -84.8006 50.0000 0.0000 -82.7485 1.0000
50.0000 -0.9009 -85.5211 50.0000 0.0000 -82.7485 1.0000
50.0000 0.0000 0.0000 50.0000 -1.0000 2.0000 2.3669
50.0000 -1.0000 2.0000 50.0000 0.0000 0.0000 2.3669
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0009 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0010 7.1792
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0011 7.2195
50.0000 2.4900 -0.0010 50.0000 -2.4900 0.0012 7.2195
50.0000 -0.0010 2.4900 50.0000 0.0009 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0010 -2.4900 4.8045
50.0000 -0.0010 2.4900 50.0000 0.0011 -2.4900 4.7461
50.0000 2.5000 0.0000 50.0000 0.0000 -2.5000 4.3065
50.0000 2.5000 0.0000 73.0000 25.0000 -18.0000 27.1492
50.0000 2.5000 0.0000 61.0000 -5.0000 29.0000 22.8977
50.0000 2.5000 0.0000 56.0000 -27.0000 -3.0000 31.9030
50.0000 2.5000 0.0000 58.0000 24.0000 15.0000 19.4535
50.0000 2.5000 0.0000 50.0000 3.1736 0.5854 1.0000
50.0000 2.5000 0.0000 50.0000 3.2972 0.0000 1.0000
50.0000 2.5000 0.0000 50.0000 1.8634 0.5757 1.0000
50.0000 2.5000 0.0000 50.0000 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""
PAIRS = np.array([[float(v) for v in line.split()] for line in SHARMA.strip().splitlines()])


@pytest.mark.parametrize("row", PAIRS)
def test_ciede2000_gives_the_published_differences(row: np.ndarray) -> None:
    assert ciede2000(row[:3], row[3:6]) == pytest.approx(row[6], abs=5e-5)


def test_ciede2000_is_symmetric_and_works_on_pictures() -> None:
    one, two = PAIRS[:, :3].reshape(2, 17, 3), PAIRS[:, 3:6].reshape(2, 17, 3)
    assert np.allclose(ciede2000(one, two), ciede2000(two, one))
    assert np.allclose(ciede2000(one, two).ravel(), PAIRS[:, 6], atol=5e-5)


@pytest.mark.parametrize(
    ("encoded", "linear"),
    # IEC 61966-2-1:1999, clause 5.2, evaluated from its two branches by hand; 0.04045 is where they meet.
    [(0.0, 0.0), (0.04045, 0.04045 / 12.92), (1.0, 1.0), (0.5, 0.2140411), (0.2, 0.0331048), (0.8, 0.6038274)],
)
def test_srgb_transfer_values(encoded: float, linear: float) -> None:
    assert float(srgb_to_linear(np.array(encoded))) == pytest.approx(linear, abs=1e-6)
    assert float(linear_to_srgb(np.array(linear))) == pytest.approx(encoded, abs=1e-4)


def test_srgb_transfer_agrees_with_the_reference_library() -> None:
    values = np.linspace(0, 1, 1001)
    assert np.allclose(srgb_to_linear(values), colour.models.eotf_sRGB(values), atol=1e-9)
    assert np.allclose(linear_to_srgb(values), colour.models.eotf_inverse_sRGB(values), atol=1e-9)


def test_every_code_value_survives_decoding_and_encoding() -> None:
    codes = np.repeat(np.arange(256, dtype=np.uint8)[:, None, None], 3, axis=2)
    assert np.array_equal(encode_pixels(decode_pixels(codes)), codes)
    sixteen = codes.astype(np.uint16) * 257
    assert np.allclose(decode_pixels(sixteen), decode_pixels(codes), atol=1e-7)
    assert np.abs(decode_pixels_16(codes) / 65535 - decode_pixels(codes)).max() <= 0.5 / 65535 + 1e-9


def test_lab_agrees_with_the_reference_library() -> None:
    rng = np.random.default_rng(3)
    linear = rng.random((50, 3))
    matrix = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
    white = matrix.sum(axis=1)
    expected = colour.XYZ_to_Lab(linear @ matrix.T, colour.XYZ_to_xy(white))
    assert np.allclose(linear_to_lab(linear), expected * (1 if expected.max() > 2 else 100), atol=0.02)
