"""What must hold for any picture, on invented ones that hypothesis looks for."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.scenes import Scene, scene
from true_backdrop.core import pipeline
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, EdgeSettings, Hands, Touch, TouchSettings

SIZE = (160, 240)
quickly = settings(max_examples=12, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
unit = st.floats(0.02, 0.6)
scenes = st.builds(
    lambda shape, r, g, b, x, y, gain, shadow, seed: scene(
        shape, (r, g, b), size=SIZE, centre=(x, y), gain=gain, shadow=shadow, seed=seed
    ),
    st.sampled_from(["disc", "ring", "box", "strands"]),
    unit,
    unit,
    unit,
    st.floats(0.35, 0.65),
    st.floats(0.4, 0.6),
    st.floats(0.9, 1.1),
    st.floats(0.0, 0.5),
    st.integers(0, 2**16),
)
strokes = st.builds(
    lambda kind, points, width, reach: Touch(kind=kind, points=points, width=width, reach=reach),
    st.sampled_from(["product", "backdrop", "shadow", "no_shadow"]),
    st.lists(st.tuples(st.floats(-0.2, 1.2), st.floats(-0.2, 1.2)), min_size=1, max_size=5).map(tuple),
    st.floats(0.002, 0.4),
    st.sampled_from([0.0, 0.1, 0.5, 1.0]),
)
hands = st.builds(
    lambda touches, shift, smooth, harden: Hands(
        touches=TouchSettings(strokes=tuple(touches)), edge=EdgeSettings(shift_px=shift, smooth=smooth, harden=harden)
    ),
    st.lists(strokes, max_size=3),
    st.floats(-5, 5),
    st.floats(0, 1),
    st.floats(0, 1),
)


def cut(frame: np.ndarray, backdrop: np.ndarray, work: Hands | None = None, **about: object):
    return pipeline.cut_frame(Picture(frame, "PNG"), Picture(backdrop, "PNG"), CutSettings(**about), hands=work or Hands())


@quickly
@given(scenes, hands, st.integers(0, 100), st.sampled_from(["auto", "strands", "clear", "pale"]))
def test_alpha_and_colour_are_in_range_whatever_is_asked(made: Scene, work: Hands, match: int, material: str) -> None:
    _, found = cut(made.frame, made.backdrop, work, match=match, material=material)
    for plane in (found.alpha, found.foreground):
        assert np.isfinite(plane).all()
        assert plane.min() >= 0
        assert plane.max() <= 1
    assert found.alpha.shape == SIZE


@quickly
@given(
    st.one_of(
        st.integers(1, 254).map(lambda level: np.full((*SIZE, 3), level, np.uint8)),
        st.integers(0, 2**16).map(lambda seed: np.random.default_rng(seed).integers(0, 256, (*SIZE, 3)).astype(np.uint8)),
        scenes.map(lambda made: made.frame),
    ),
    st.sampled_from(["auto", "strands", "pale"]),
)
def test_identical_frame_and_backdrop_give_zero_alpha(pixels: np.ndarray, material: str) -> None:
    decision, found = cut(pixels, pixels.copy(), material=material)
    assert found.alpha.max() == 0
    assert decision.judgement.verdict is Verdict.REDO


@quickly
@given(scenes, st.integers(0, 2**16))
def test_a_little_more_noise_hardly_moves_the_cut(made: Scene, seed: int) -> None:
    rng = np.random.default_rng(seed)
    one, clean = cut(made.frame, made.backdrop)
    noisy = [np.clip(p + rng.normal(0, 1.0, p.shape), 0, 255).round().astype(np.uint8) for p in (made.frame, made.backdrop)]
    other, found = cut(*noisy)
    assert abs(one.proposal.match - other.proposal.match) <= 20
    assert np.abs(found.alpha - clean.alpha).mean() < 0.01


@quickly
@given(scenes)
def test_a_cut_over_its_own_backdrop_gives_the_frame_back(made: Scene) -> None:
    """Inside the outline's band and the product; elsewhere the frame is backdrop by decision, shadow and all."""
    decision, found = cut(made.frame, made.backdrop)
    if decision.judgement.verdict is Verdict.REDO:
        return
    frame, backdrop = (Picture(p, "PNG").linear() for p in (made.frame, made.backdrop))
    outline = decision.outline
    behind = backdrop * np.asarray(outline.gain, np.float32) * outline.shadow[..., None]
    alpha = found.alpha[..., None]
    again = alpha * found.foreground + (1 - alpha) * behind
    off = np.abs(encode_pixels(again).astype(int) - made.frame)
    assert off.mean() < 3
    assert np.abs(again - frame)[found.alpha == 1].max(initial=0) < 1e-5


@quickly
@given(st.integers(0, 2**16), st.floats(0.9, 1.1))
def test_a_product_that_equals_the_backdrop_is_never_called_clean(seed: int, gain: float) -> None:
    """As light as the empty set in every pixel, with other noise."""
    made = scene("nothing", size=SIZE, seed=seed, gain=gain)
    empty = scene("nothing", size=SIZE, seed=seed + 1, gain=gain).frame
    decision, _ = cut(empty, made.backdrop)
    assert decision.judgement.verdict is not Verdict.CLEAN


@quickly
@given(scenes, st.floats(1.15, 1.6))
def test_a_scaled_backdrop_changes_nothing_but_the_gain(made: Scene, factor: float) -> None:
    darker = np.clip(made.backdrop / factor ** (1 / 2.2), 0, 255).round().astype(np.uint8)
    try:
        decision, found = cut(made.frame, darker)
    except BackdropDoesNotFit:
        pytest.fail("a drift of less than a stop must be taken")
    _, before = cut(made.frame, made.backdrop)
    assert decision.outline.gain[1] > 1.05
    assert np.abs(found.alpha - before.alpha).mean() < 0.02
