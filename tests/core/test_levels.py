"""The chart of a set: the product at every backdrop match from one plane."""

from __future__ import annotations

import numpy as np
import pytest
from skimage.morphology import reconstruction

from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.levels import CHARTED, Risk, _reach, chart, levels, product_at, risk
from true_backdrop.core.cut.propose import SURVEYED, VISIBLE_PART
from true_backdrop.core.cut.region import decide
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings


def test_flooding_is_reconstruction_by_dilation() -> None:
    """The same plane as scikit-image's (Vincent 1993), on random levels."""
    passable = np.random.default_rng(4).integers(0, 102, (60, 90)).astype(np.uint8)
    seed = np.zeros_like(passable)
    for line in (np.s_[0], np.s_[-1], np.s_[:, 0], np.s_[:, -1]):
        seed[line] = passable[line]
    reached = np.zeros_like(passable)
    _reach(passable, reached)
    cross = np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]])
    np.testing.assert_array_equal(reached, reconstruction(seed, passable, method="dilation", footprint=cross))


@pytest.mark.parametrize(
    ("shape", "colour"), [("disc", (0.05, 0.18, 0.25)), ("ring", (0.05, 0.18, 0.25)), ("box", (0.70, 0.69, 0.68))]
)
def test_the_plane_tells_where_the_full_decision_loses_product(shape: str, colour: tuple[float, float, float]) -> None:
    made = scene(shape, colour)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    decision = pipeline.decide_cut(prepared, CutSettings(), pipeline.propose_match(prepared, CutSettings()))
    plane = pipeline.levels_of(prepared, decision, "auto")
    area = decision.outline.product.mean()
    assert product_at(plane, decision.match).mean() == pytest.approx(area, rel=0.02)
    told = risk(plane, decision.match, (30, 50))
    for i, match in enumerate((30, 50)):
        full = prepared.busy.on_proxy(decide(prepared.busy.evidence, match, "auto"))
        lost = (decision.outline.product & ~full).mean() / area
        assert (told.lost[i] > VISIBLE_PART) == (lost > VISIBLE_PART)


def test_at_the_values_that_were_decided_the_plane_says_the_same() -> None:
    """Pale product, whose outline moves with the match; and where a touch took a part away it is gone at all of them."""
    made = scene("box", (0.70, 0.69, 0.68), shadow=0.3)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    proposal = pipeline.propose_match(prepared, CutSettings())
    match = proposal.match
    anchors = proposal.anchors(prepared.busy, match, "auto")
    assert {30, 50, 70, *SURVEYED} <= set(anchors)
    area = anchors[match].mean()
    plane = levels(prepared.evidence, anchors[match], match, prepared.busy.region, anchors)
    for value, mask in anchors.items():
        told = product_at(plane, value).mean()
        assert abs(told - mask.mean()) <= 0.02 * area
    touched = anchors[match].copy()
    touched[:, : touched.shape[1] // 2] = False
    plane = levels(prepared.evidence, touched, match, prepared.busy.region, anchors)
    for value in anchors:
        assert product_at(plane, value)[:, : plane.shape[1] // 2 - 1].mean() < 0.02


def test_risk_grows_away_from_where_the_cut_stands() -> None:
    plane = np.array([[0, 0, 20, 40], [0, 60, 80, 255], [0, 0, 50, 101]], np.uint8)
    told = risk(plane, 50, (10, 50, 90))
    area = 8  # 0 five times, 20, 40, 50
    assert told.lost == (3 / area, 0.0, 0.0)
    assert told.leftover == (0.0, 0.0, 2 / area)


def test_the_valley_is_the_middle_of_the_longest_best_stretch() -> None:
    values = (10, 20, 30, 40, 50)
    one = Risk(leftover=(0, 0, 0, 0, 0.1), lost=(0.2, 0.1, 0, 0, 0))
    two = Risk(leftover=(0, 0, 0, 0, 0), lost=(0.2, 0, 0, 0, 0))
    columns, proposed = chart([(7, one), (8, two)], values)
    assert proposed == 40
    assert columns[0].lost == (7, 8) and columns[1].lost == (7,) and columns[4].leftover == (7,)
    assert chart([], values)[1] == 30


def test_three_hundred_shots_have_a_chart_of_thirty_three_values() -> None:
    assert len(CHARTED) == 33
    plane = np.random.default_rng(1).integers(0, 102, (171, 256)).astype(np.uint8)
    columns, _ = chart((n, risk(plane, 50)) for n in range(300))
    assert len(columns) == 33
