"""A take and all that was shot beside it: what counts, what is left out, and what is said of it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_silhouette import dark_frames, white_on_white
from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.edge import View, as_seen, cut_view, held
from true_backdrop.core.cut.hand_made import HandMade
from true_backdrop.core.cut.verdict import GUESSED, Verdict
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.treatment import CutSettings
from true_backdrop.core.views import VIEW_NAMES, render_view


def empty_of(made) -> tuple[tuple[int, int], np.ndarray]:
    picture = Picture(made.backdrop, "PNG")
    return (picture.height, picture.width), pipeline.backdrop_proxy(picture)


def decided(prepared: pipeline.Prepared) -> pipeline.Decision:
    return pipeline.decide_cut(prepared, CutSettings(), pipeline.propose_match(prepared, CutSettings()))


def matte_of(made, prepared: pipeline.Prepared) -> np.ndarray:
    frame, behind = Picture(made.frame, "PNG").linear(), prepared.backdrop_proxy
    size = made.alpha.shape
    view = View(Region(0, 0, *size), size, size)
    shown = np.asarray(cv2.resize(behind, size[::-1]), np.float32)
    return cut_view(held(frame), as_seen(held(shown)), decided(prepared).outline, view).alpha


def test_a_silhouette_that_fits_is_used_and_one_that_does_not_is_left_out_with_a_complaint() -> None:
    made = white_on_white("box")
    frame = Picture(made.frame, "PNG")
    dark, empty = dark_frames(made)
    good = pipeline.prepare_with(frame, pipeline.Beside(empty_of(made), ("dark.jpg", dark, pipeline.backdrop_proxy(empty))))
    assert good.backlit is not None and good.complaint is None
    other, _ = dark_frames(scene("disc", centre=(0.15, 0.3)))
    bad = pipeline.prepare_with(frame, pipeline.Beside(empty_of(made), ("dark.jpg", other, None)))
    assert bad.backlit is None
    judgement = decided(bad).judgement
    assert judgement.verdict is not Verdict.CLEAN
    assert any("dark.jpg" in reason and "stands elsewhere" in reason for reason in judgement.reasons)


@pytest.mark.parametrize("with_backdrop", [True, False])
def test_a_matte_from_a_retoucher_takes_the_cuts_place_with_and_without_a_backdrop_frame(with_backdrop: bool) -> None:
    made = scene("disc")
    opacity = np.zeros(made.alpha.shape, np.uint16)
    opacity[100:200, 300:500] = 65535
    beside = pipeline.Beside(empty_of(made) if with_backdrop else None, hand_made=HandMade(opacity))
    prepared = pipeline.prepare_with(Picture(made.frame, "PNG"), beside)
    found = matte_of(made, prepared)
    np.testing.assert_array_equal(found > 0.5, opacity > 0)
    assert (GUESSED in decided(prepared).judgement.reasons) == (not with_backdrop)


def test_a_matte_of_another_size_is_told() -> None:
    made = scene("disc")
    beside = pipeline.Beside(empty_of(made), hand_made=HandMade(np.zeros((10, 20), np.uint16)))
    with pytest.raises(BackdropDoesNotFit, match="20 x 10 px but its frame is 720 x 480"):
        pipeline.prepare_with(Picture(made.frame, "PNG"), beside)


def test_a_retouched_picture_is_seen_smaller_without_what_lies_under_clear_pixels() -> None:
    opacity = np.zeros((40, 60), np.uint16)
    opacity[:, :30] = 65535
    pixels = np.full((40, 60, 3), (255, 0, 0), np.uint8)
    pixels[:, :30] = (0, 0, 255)
    made = HandMade(opacity, Picture(pixels, "PNG"))
    # A quarter of the size, so that the border falls into pixels.
    seen = made.seen(Region(0, 0, 40, 58), (10, 15))
    mixed = (seen.alpha > 0.05) & (seen.alpha < 0.95)
    assert mixed.any() and seen.colour is not None
    np.testing.assert_allclose(seen.colour[mixed], np.broadcast_to((0, 0, 1), seen.colour[mixed].shape), atol=0.02)
    assert seen.alpha.mean() == pytest.approx(30 / 58, abs=0.01)
    np.testing.assert_array_equal(made.product((20, 30)), opacity[::2, ::2] > 0)


@pytest.mark.parametrize("name", VIEW_NAMES)
def test_every_view_shows_what_it_says(name: str) -> None:
    made = scene("disc", shadow=0.5)
    frame, behind = (Picture(p, "PNG").linear() for p in (made.frame, made.backdrop))
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    size = made.alpha.shape
    shown = render_view(name, frame, behind, decided(prepared).outline, View(Region(0, 0, *size), size, size), shadow=1.0)
    inside, far, fallen = shown[240, 360].astype(int), shown[20, 20].astype(int), shown[385, 360].astype(int)
    own = made.frame[240, 360].astype(int)
    expected = {
        "frame": np.abs(inside - own).max() <= 1 and np.abs(far - made.frame[20, 20]).max() <= 1,
        "matte": (inside == 255).all() and (far == 0).all(),
        "white": np.abs(inside - own).max() <= 1 and (far == 255).all() and (fallen < 250).all(),
        "grey": np.abs(inside - own).max() <= 1 and np.abs(far - 119).max() <= 2,  # L* 50 is 119 in sRGB
        "loud": np.abs(inside - own).max() <= 1 and far[2] > far[0] + 100,
        "checks": np.abs(inside - own).max() <= 1 and len(np.unique(shown[:24, :24].reshape(-1, 3), axis=0)) == 2,
        "shadow": (far == 255).all() and (fallen < 250).all(),
        "difference": (inside < 40).any() and np.abs(far - 127).max() < 12,
    }
    assert expected[name]
