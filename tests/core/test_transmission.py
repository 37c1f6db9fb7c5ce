"""What glass lets through is told by the backdrop's grain, or by the fall-off of its light; checked on light that was made up."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.clear import up_to_rims
from true_backdrop.core.cut.fall_off import seen_by_fall_off
from true_backdrop.core.cut.paper import moments_along_rim
from true_backdrop.core.cut.transmission import bare_paper, grain_against_light, light_added, opacity_by_grain
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

HEIGHT, WIDTH = 480, 720
Y, X = np.mgrid[:HEIGHT, :WIDTH].astype(np.float64)
#: A pane in a dark frame, and what is looked at of it.
FRAME, PANE, MIDDLE = (slice(140, 340), slice(220, 500)), (slice(160, 320), slice(240, 480)), (slice(175, 305), slice(255, 465))
NOISE = 0.004


def paper(grain: float, rng: np.random.Generator, fall_off: float = 0.0) -> np.ndarray:
    """Linear light of an empty set (H, W) with grain of a relative strength, brighter at the top by some part."""
    fine = cv2.GaussianBlur(rng.standard_normal((HEIGHT, WIDTH)), (0, 0), 2.2)
    return np.asarray(0.7 * (1 + fall_off * (0.5 - Y / HEIGHT)) * (1 + grain * fine / fine.std()))


def planes(through: float, reflected: float, shade: float = 1.0, seed: int = 3) -> tuple[np.ndarray, ...]:
    """Tone and bare (H, W) as in evidence, of a frame that shows paper in `PANE` through glass and bare elsewhere."""
    rng = np.random.default_rng(seed)
    empty = paper(0.01, rng)
    light = empty.copy()
    light[PANE] = through * shade * empty[PANE] + reflected
    noisy = [np.log(each + rng.normal(0, NOISE, each.shape)) for each in (light, empty)]
    frame, bare = (np.asarray(cv2.GaussianBlur(each, (0, 0), 0.9), np.float32) for each in noisy)
    return frame - bare, bare


@pytest.mark.parametrize(("through", "reflected"), [(1.0, 0.0), (0.92, 0.0), (0.85, 0.04), (0.6, 0.2), (0.4, 0.45), (0.0, 0.5)])
def test_what_glass_lets_through_is_told_whatever_it_reflects(through: float, reflected: float) -> None:
    tone, bare = planes(through, reflected)
    on_rim = bare_paper(moments_along_rim(tone, bare))
    assert on_rim is not None
    where = np.zeros((HEIGHT, WIDTH), bool)
    where[MIDDLE] = True
    found = grain_against_light(tone, bare, where, on_rim)
    assert found is not None
    light = float(np.exp(np.median(tone[where])))
    assert found.error * light < 0.02
    assert found.share * light == pytest.approx(through, abs=max(0.015, 3 * found.error * light))


def test_a_shadow_adds_no_light_and_a_reflection_does() -> None:
    where = np.zeros((HEIGHT, WIDTH), bool)
    where[MIDDLE] = True
    told = {"shadow": 0, "pane": 0}
    for seed in range(12):
        for name, made in (("shadow", planes(1.0, 0.0, 0.8, seed)), ("pane", planes(0.85, 0.06, 1.0, seed))):
            on_rim = bare_paper(moments_along_rim(*made))
            assert on_rim is not None
            told[name] += light_added(*made, where, on_rim, 3.0)
    assert told == {"shadow": 0, "pane": 12}


def test_paper_without_grain_says_nothing() -> None:
    rng = np.random.default_rng(1)
    bare = np.asarray(cv2.GaussianBlur(np.log(0.7 + rng.normal(0, NOISE, (HEIGHT, WIDTH))), (0, 0), 0.9), np.float32)
    tone = np.asarray(cv2.GaussianBlur(np.log(0.7 + rng.normal(0, NOISE, (HEIGHT, WIDTH))), (0, 0), 0.9), np.float32) - bare
    assert bare_paper(moments_along_rim(tone, bare)) is None


def test_each_clear_place_has_its_own_opacity_and_what_lies_between_that_of_the_nearest() -> None:
    tone, bare = planes(0.6, 0.1)
    left, right = (slice(160, 320), slice(240, 350)), (slice(160, 320), slice(370, 480))
    rng = np.random.default_rng(3)
    empty = paper(0.01, rng)
    light = empty.copy()
    light[left], light[right] = 0.8 * empty[left] + 0.03, 0.5 * empty[right] + 0.2
    frame, bare = (
        np.asarray(cv2.GaussianBlur(np.log(each + rng.normal(0, NOISE, each.shape)), (0, 0), 0.9), np.float32)
        for each in (light, empty)
    )
    tone, clear = frame - bare, np.zeros((HEIGHT, WIDTH), np.float32)
    clear[160:320, 240:480] = 1
    step = np.zeros_like(clear)
    step[:, 346:374] = 1
    on_rim = bare_paper(moments_along_rim(tone, bare))
    assert on_rim is not None
    found = opacity_by_grain(tone, step, bare, clear, np.ones_like(clear), on_rim)
    assert found is not None
    assert found[200, 290] == pytest.approx(0.2, abs=0.03)
    assert found[200, 430] == pytest.approx(0.5, abs=0.03)
    assert found[240, 352] == found[200, 290]
    assert found[240, 368] == found[200, 430]
    nothing = np.zeros_like(clear)
    assert opacity_by_grain(tone, step, bare, nothing, np.ones_like(clear), on_rim) is None


def shot(grain: float, fall_off: float, through: float, reflected: float, frame_light: float = 0.06) -> tuple[Picture, Picture]:
    """Frame and backdrop frame of a dark frame round a pane; without a frame where its light is negative."""
    rng = np.random.default_rng(9)
    empty = paper(grain, rng, fall_off)
    light = empty.copy()
    if frame_light >= 0:
        light[FRAME] = frame_light
    light[PANE] = through * empty[PANE] + reflected
    made = []
    for each in (light, empty):
        seen = cv2.GaussianBlur(each, (0, 0), 0.6) + rng.normal(0, NOISE, each.shape)
        made.append(Picture(_encode(np.repeat(seen[..., None], 3, axis=2)), "PNG"))
    return made[0], made[1]


@pytest.mark.parametrize(("through", "reflected"), [(0.85, 0.06), (0.6, 0.2)])
def test_the_cut_shows_another_backdrop_as_the_glass_would(through: float, reflected: float) -> None:
    frame, empty = shot(0.012, 0.1, through, reflected)
    decision, cut = pipeline.cut_frame(frame, empty, CutSettings())
    inside = cut.alpha[MIDDLE]
    assert np.median(inside) == pytest.approx(1 - through, abs=0.02)
    over_dark = np.median(inside[..., None] * cut.foreground[MIDDLE] + (1 - inside[..., None]) * 0.1)
    assert over_dark == pytest.approx(reflected + through * 0.1, abs=0.02)
    assert decision.judgement.verdict is Verdict.LOOK_AGAIN
    assert cut.alpha[143:157, 225:495].min() > 0.98  # its frame stays solid


def test_a_rim_ends_where_the_light_says() -> None:
    """Between frame and pane alpha goes from the one to the other in the width of the lens's blur, not in that of the proxy."""
    frame, empty = shot(0.012, 0.1, 0.85, 0.06)
    alpha = pipeline.cut_frame(frame, empty, CutSettings())[1].alpha
    blurred = cv2.GaussianBlur(np.where(Y < 160, 1.0, 0.15), (0, 0), 0.6)
    assert np.abs(alpha[150:175, 300:420].mean(axis=1) - blurred[150:175, 0]).max() < 0.15


def test_a_pane_that_takes_as_little_light_as_shade_is_no_opening() -> None:
    """Both are 4 % darker than the paper; the pane has some light of its own over it."""
    for through, reflected, there in ((0.88, 0.055, True), (0.96, 0.0, False)):
        cut = pipeline.cut_frame(*shot(0.02, 0.1, through, reflected), CutSettings())[1]
        assert bool(np.median(cut.alpha[MIDDLE]) > 0.05) is there


def test_what_is_not_beside_glass_keeps_its_opacity() -> None:
    clear = np.zeros((40, 60), np.float32)
    clear[:, 40:] = 1
    behind = np.full((40, 60, 3), 0.8, np.float32)
    calm = behind.copy()
    calm[:, :20], calm[:, 20:38] = 0.4, 0.1
    found = up_to_rims(clear, calm, behind, np.ones((40, 60), np.float32), 4)
    assert np.array_equal(found[:, :36], clear[:, :36])
    assert np.array_equal(found[:, 40:], clear[:, 40:])
    assert found[:, 38:40].min() == 1  # as light as the glass


@pytest.mark.parametrize(
    ("fall_off", "frame_light", "is_glass"),
    [(0.25, 0.06, True), (0.0, 0.06, False), (0.25, -1.0, False)],
    ids=["through a pane", "where nothing falls off", "of card without a rim"],
)
def test_the_fall_off_of_light_is_seen_through_glass(fall_off: float, frame_light: float, is_glass: bool) -> None:
    frame, empty = shot(0.0, fall_off, 0.8, 0.0, frame_light)
    evidence = pipeline.prepare(frame, empty).evidence
    product = np.zeros(evidence.shape, bool)
    product[FRAME if frame_light >= 0 else PANE] = True
    found = seen_by_fall_off(evidence, product)
    assert (found is not None and bool(found[MIDDLE].mean() > 0.9)) is is_glass


def test_a_surface_with_light_of_its_own_is_no_glass_nor_one_that_lies_flat() -> None:
    rng = np.random.default_rng(2)
    empty = paper(0.0, rng, 0.25)
    for kind in ("own light", "flat"):
        light = empty.copy()
        light[FRAME] = 0.1 * empty[FRAME] if kind == "flat" else 0.06
        light[PANE] = 0.8 * empty[PANE] if kind == "flat" else 0.8 * empty[240].mean()
        made = [
            Picture(_encode(np.repeat((e + rng.normal(0, NOISE, e.shape))[..., None], 3, axis=2)), "PNG") for e in (light, empty)
        ]
        evidence = pipeline.prepare(*made).evidence
        product = np.zeros(evidence.shape, bool)
        product[FRAME] = True
        assert seen_by_fall_off(evidence, product) is None
