"""Silhouette frames: what only the lit backdrop behind a product tells."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.scenes import Scene, _encode, scene
from true_backdrop.core import pipeline
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.measures import matte_error
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings


def dark_frames(made: Scene, level: float = 0.1, shadow: float = 0.8) -> tuple[Picture, Picture]:
    """The same product before a lit backdrop with the front lights off: nearly black, its shadow on the table deep and soft."""
    rng = np.random.default_rng(8)
    height, width = made.alpha.shape
    y, _ = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j]
    bare = (0.75 - 0.3 / (1 + np.exp(-(y - 0.75) * 20)))[..., None] * np.ones(3)
    fallen = cv2.GaussianBlur(np.roll(made.alpha, height // 12, axis=0), (0, 0), 14) * (y > 0.68)
    dim = 1 - shadow * cv2.GaussianBlur(fallen, (0, 0), 9)
    over = made.alpha[..., None]
    lit = over * level + (1 - over) * bare * dim[..., None]
    frame, empty = (_encode(light + rng.normal(0, 1, light.shape) * np.sqrt(light / 20000 + 1e-6)) for light in (lit, bare))
    return Picture(frame, "PNG"), Picture(empty, "PNG")


def white_on_white(shape: str) -> Scene:
    """A product with a dark foot whose upper part is as light as the backdrop in every pixel."""
    made = scene(shape, (0.05, 0.18, 0.25), shadow=0.0)
    upper = np.zeros(made.alpha.shape, bool)
    upper[: int(made.alpha.shape[0] * 0.6)] = True
    return replace(made, frame=np.where(upper[..., None], made.backdrop, made.frame))


def cut(made: Scene, silhouette: tuple[Picture, Picture | None] | None):
    return pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings(), silhouette)


@pytest.mark.parametrize("shape", ["box", "ring"])
def test_white_on_white_is_whole_with_a_silhouette_and_cannot_be_without(shape: str) -> None:
    made = white_on_white(shape)
    truth = made.alpha.astype(np.float32)
    with_it, without = (matte_error(cut(made, s)[1].alpha, truth).mse for s in (dark_frames(made), None))
    assert with_it < 1e-3
    assert with_it < without / 20


def test_the_empty_set_in_that_light_can_be_guessed() -> None:
    made = white_on_white("box")
    _, found = cut(made, (dark_frames(made)[0], None))
    assert matte_error(found.alpha, made.alpha.astype(np.float32)).mse < 2e-3


def test_a_deep_shadow_of_the_backlight_is_no_product() -> None:
    made = scene("disc")
    _, found = cut(made, dark_frames(made, shadow=0.7))
    assert (found.alpha[made.alpha < 0.005] > 0.1).mean() < 1e-4
    assert matte_error(found.alpha, made.alpha.astype(np.float32)).mse < 6e-4


def test_a_product_that_stands_elsewhere_is_told() -> None:
    made, other = scene("disc", centre=(0.3, 0.5)), scene("disc", centre=(0.75, 0.5))
    with pytest.raises(BackdropDoesNotFit, match="stands elsewhere"):
        cut(made, dark_frames(other))


def test_another_size_is_told() -> None:
    made = scene("disc")
    small = dark_frames(scene("disc", size=(240, 360)))
    with pytest.raises(BackdropDoesNotFit, match="360 x 240"):
        cut(made, small)
