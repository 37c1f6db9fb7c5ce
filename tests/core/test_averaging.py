"""Area averages of parts, against OpenCV's own of the whole."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core.colour import srgb_to_linear
from true_backdrop.core.picture import Picture, Region


def grains(height: int, width: int, dtype: type) -> np.ndarray:
    rng = np.random.default_rng(5)
    return rng.integers(0, np.iinfo(dtype).max + 1, (height, width, 3)).astype(dtype)


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize("shape", [(100, 150), (77, 131), (49, 70)])
def test_a_whole_picture_is_averaged_as_opencv_does(dtype: type, shape: tuple[int, int]) -> None:
    pixels = grains(100, 150, dtype)
    light = srgb_to_linear(pixels / np.iinfo(dtype).max)
    if 2 * shape[0] <= 100:  # from there on the halves are the base
        light = cv2.resize(light, (75, 50), interpolation=cv2.INTER_AREA)
    expected = cv2.resize(light, shape[::-1], interpolation=cv2.INTER_AREA)
    got = Picture(pixels, "PNG").averaged(Region(0, 0, 100, 150), shape)(Region(0, 0, *shape))
    # OpenCV rounds its weights to single precision; below half size the halves are kept as 16 bits.
    assert np.abs(got - expected).max() < 2e-5


@pytest.mark.parametrize("shape", [(90, 60), (41, 30)])
def test_a_tile_is_the_same_part_of_the_whole(shape: tuple[int, int]) -> None:
    picture, window = Picture(grains(121, 97, np.uint8), "PNG"), Region(13, 7, 117, 91)
    part = picture.averaged(window, shape)
    whole, tile = part(Region(0, 0, *shape)), Region(11, 3, shape[0], shape[1] - 2)
    assert np.array_equal(part(tile), whole[tile.slices])
    light = srgb_to_linear(picture.pixels[window.slices] / 255.0)
    assert whole.mean() == pytest.approx(light.mean(), rel=0.01)


def test_a_window_shown_larger_is_the_same_as_read_at_once() -> None:
    picture, window = Picture(grains(40, 50, np.uint8), "PNG"), Region(4, 6, 34, 46)
    part = picture.averaged(window, (60, 80))
    assert np.array_equal(part(Region(5, 6, 50, 70)), picture.linear(window, (60, 80))[5:50, 6:70])
