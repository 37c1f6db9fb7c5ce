"""The cut on scenes of known opacity."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.scenes import Scene, scene
from true_backdrop.core import pipeline
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.band import _calmed
from true_backdrop.core.cut.edge import View, as_seen, cut_view, held
from true_backdrop.core.cut.propose import VISIBLE_PART
from true_backdrop.core.cut.region import decide
from true_backdrop.core.cut.strands import FIRM_BAND
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.measures import matte_error
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.treatment import CutSettings, FramingBox


def cut(made: Scene, **settings: object):
    return pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings(**settings))


TEAL, BLACK, RED, GREY = (0.05, 0.18, 0.25), (0.02, 0.02, 0.02), (0.5, 0.1, 0.05), (0.45, 0.45, 0.45)


@pytest.mark.parametrize(
    ("shape", "colour"),
    # A ring as grey as the shadow that is seen through it cannot be told apart without touches; it is not here.
    [
        (shape, colour)
        for shape in ("disc", "box", "ring")
        for colour in (TEAL, BLACK, RED, GREY)
        if (shape, colour) != ("ring", GREY)
    ],
)
def test_alpha_is_near_the_truth(shape: str, colour: tuple[float, float, float]) -> None:
    made = scene(shape, colour)
    _, found = cut(made)
    assert matte_error(found.alpha, made.alpha.astype(np.float32)).mse < 6e-4


@pytest.mark.parametrize("shape", ["disc", "box"])
def test_pale_product_is_cut_though_its_shadow_differs_more_than_it_does(shape: str) -> None:
    """A tenth below the backdrop, its shadow a third below: a difference threshold cannot have both."""
    made = scene(shape, (0.70, 0.69, 0.68), shadow=0.3)
    _, found = cut(made)
    assert matte_error(found.alpha, made.alpha.astype(np.float32)).mse < 4e-3
    difference = np.abs(made.frame.astype(int) - made.backdrop).max(axis=-1)
    best = min(float(((difference > level) - made.alpha).__pow__(2).mean()) for level in range(2, 60, 2))
    assert matte_error(found.alpha, made.alpha.astype(np.float32)).mse < best / 4


def test_a_hole_shows_the_backdrop() -> None:
    made = scene("ring")
    _, found = cut(made)
    height, width = made.alpha.shape
    assert found.alpha[height // 2, width // 2] == 0


def test_glass_stays_and_a_hole_beside_it_opens() -> None:
    """In clear material too: what shows the bare backdrop is a hole, what dims and breaks it is glass, and shines through."""
    made = scene("ring")
    height, width = made.alpha.shape
    _, found = cut(made, material="clear")
    assert found.alpha[height // 2, width // 2] == 0
    y, x = np.mgrid[0:height, 0:width]
    pane = (made.alpha < 0.01) & (np.hypot(x - width / 2, y - height / 2) < height * 0.1)
    streaks = 0.95 + 0.04 * np.sin(x / 3.0)
    glass = np.where(pane[..., None], np.round(made.frame * streaks[..., None]), made.frame).astype(np.uint8)
    _, found = cut(replace(made, frame=glass), material="clear")
    middle = slice(height // 2 - 15, height // 2 + 15), slice(width // 2 - 15, width // 2 + 15)
    assert 0.01 < np.median(found.alpha[middle]) < 0.15  # it takes 1 to 9 % of the light
    _, solid = cut(replace(made, frame=glass))
    assert solid.alpha[height // 2, width // 2] == 1


def test_edges_carry_no_fringe_of_the_backdrop() -> None:
    """Along the edge the unmixed colour is the product's, though the frame there is half backdrop."""
    made = scene("disc", (0.05, 0.18, 0.25))
    _, found = cut(made)
    edge = (made.alpha > 0.3) & (made.alpha < 0.7) & (found.alpha > 0.1)
    assert edge.sum() > 200
    colour = np.median(found.foreground[edge], axis=0)
    assert np.abs(colour - np.array([0.05, 0.18, 0.25])).max() < 0.04


def test_product_colour_is_left_alone_inside() -> None:
    made = scene("disc")
    _, found = cut(made)
    inside = found.alpha == 1
    assert np.array_equal(found.foreground[inside], Picture(made.frame, "PNG").linear()[inside])


@pytest.mark.parametrize("gain", [0.75, 0.9, 1.0, 1.1])
def test_exposure_drift_is_corrected(gain: float) -> None:
    made = scene("disc")
    other = scene("disc", gain=gain)
    _, found = cut(replace(made, frame=other.frame))
    assert matte_error(found.alpha, made.alpha.astype(np.float32)).mse < 6e-4


def test_strands_are_between_firm_and_nothing() -> None:
    made = scene("strands", (0.03, 0.02, 0.02))
    _, found = cut(made, material="strands")
    error = matte_error(found.alpha, made.alpha.astype(np.float32)).mse
    difference = np.abs(made.frame.astype(int) - made.backdrop).max(axis=-1) > 40
    assert error < matte_error(difference.astype(np.float32), made.alpha.astype(np.float32)).mse


def test_strands_are_found_without_being_told_and_firm_outlines_are_not_taken_for_strands() -> None:
    def widest_band(shape: str) -> float:
        decision, _ = cut(scene(shape, (0.03, 0.02, 0.02)))
        near = np.abs(decision.outline.signed) < 4
        return float(decision.outline.band[near].mean())

    assert widest_band("strands") > 3 * FIRM_BAND
    for shape in ("disc", "box"):
        assert widest_band(shape) < 1.2 * FIRM_BAND


def test_the_proposal_is_the_cut_that_it_was_tried_with() -> None:
    made = scene("box")
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    quick = pipeline.propose_match(prepared, CutSettings())
    surveyed = pipeline.propose_match(prepared, CutSettings(), survey=True)
    assert quick.match == surveyed.match
    assert len(surveyed.trials) == 11 > len(quick.trials)
    busy = prepared.busy
    decided = busy.decide(quick.match, "auto")
    assert np.array_equal(quick.decided(busy, quick.match), decided)
    product = busy.on_proxy(busy.completed(decided, "auto"))
    assert np.array_equal(quick.product(busy), product)
    assert quick.decided(busy, 51) is None
    for match in (30, 51):
        anew = pipeline.product_at(prepared, match, "auto")
        assert np.array_equal(pipeline.product_at(prepared, match, "auto", quick), anew)
    whole = decide(prepared.evidence, quick.match, "auto")
    assert np.count_nonzero(whole ^ product) < 0.002 * np.count_nonzero(product)


def test_an_unseen_outline_is_calm_and_a_plain_one_stays_put() -> None:
    rng = np.random.default_rng(2)
    y, x = np.mgrid[:200, :200]
    smooth = 60.0 - np.hypot(y - 100, x - 100)
    ragged = (smooth + rng.normal(0, 3, smooth.shape)).astype(np.float32)
    unseen = _calmed(ragged, np.zeros(ragged.shape, np.float32))
    plain = _calmed(ragged, np.full(ragged.shape, 0.2, np.float32))
    near = np.abs(smooth) < 8
    assert np.abs(unseen - smooth)[near].mean() < 0.35 * np.abs(ragged - smooth)[near].mean()
    assert np.array_equal(plain, ragged)


@pytest.mark.parametrize("light", [0.1, 0.5])
def test_a_thin_wire_that_stands_far_out_is_part_of_the_product(light: float) -> None:
    """A wire two pixels wide, three times as long as the body it leaves: where product is looked for must hold it."""
    rng = np.random.default_rng(0)
    backdrop = np.full((480, 720, 3), 0.8, np.float32)
    cover = np.zeros((480, 720), np.float32)
    cover[360:430, 320:400] = 1
    cover[60:360, 355:357] = 1
    shot = backdrop * (1 - cover[..., None]) + 0.8 * light * cover[..., None]
    frame, empty = (
        Picture(encode_pixels((scene + rng.normal(0, 0.003, scene.shape)).astype(np.float32)), "PNG")
        for scene in (shot, backdrop)
    )
    decision, found = pipeline.cut_frame(frame, empty, CutSettings())
    assert pipeline.prepare(frame, empty).busy.region.top < 60
    assert np.flatnonzero(decision.outline.product.any(axis=1))[0] <= 62
    assert found.alpha[100:340, 355:357].mean() > 0.9


def test_bright_lines_along_the_rim_of_metal_are_not_opened_as_if_they_lay_between_strands() -> None:
    """A dark lid turned on a lathe, its grooves as bright as the backdrop: they run along the outline, strands cross it."""
    rng = np.random.default_rng(1)
    y, x = np.mgrid[:480, :720]
    radius = np.hypot(y - 240, x - 360)
    light = np.where(radius < 110, 0.15, 0.8)
    for groove in (92, 102):
        light[np.abs(radius - groove) < 3] = 0.8
    frame, empty = (
        Picture(encode_pixels((plane[..., None] + rng.normal(0, 0.003, (480, 720, 3))).astype(np.float32)), "PNG")
        for plane in (light, np.full((480, 720), 0.8))
    )
    found = pipeline.cut_frame(frame, empty, CutSettings())[1].alpha
    assert found[radius < 106].mean() > 0.99


def test_a_verdict_counts_against_the_proposed_cut_itself() -> None:
    made = scene("box")
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    proposal = pipeline.propose_match(prepared, CutSettings())
    at_proposal = pipeline.decide_cut(prepared, CutSettings(match=proposal.match), proposal)
    assert at_proposal.judgement.verdict is Verdict.CLEAN
    for match in (0, 25, 100):
        found = pipeline.decide_cut(prepared, CutSettings(match=match), proposal)
        area = np.count_nonzero(at_proposal.outline.product)
        leftover = np.count_nonzero(found.outline.product & ~at_proposal.outline.product) / area
        lost = np.count_nonzero(at_proposal.outline.product & ~found.outline.product) / area
        for part, words in ((leftover, f"left over ({leftover:.1%}"), (lost, f"lost ({lost:.1%}")):
            assert any(words in reason for reason in found.judgement.reasons) == (part > 2 * VISIBLE_PART)


def test_any_part_at_any_time_gives_the_same_alpha() -> None:
    """A look at a part computes what the whole would have held there."""
    made = scene("disc")
    frame, backdrop = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    decision, whole = pipeline.cut_frame(frame, backdrop, CutSettings())
    part = Region(100, 200, 260, 420)
    view = View(part, (part.height, part.width), (frame.height, frame.width))
    got = cut_view(held(frame.linear(part)), as_seen(held(backdrop.linear(part))), decision.outline, view)
    assert np.abs(got.alpha - whole.alpha[part.slices]).max() < 1e-3
    assert np.abs(got.foreground - whole.foreground[part.slices])[got.alpha > 0].max() < 1e-3


@pytest.mark.parametrize(
    ("centre", "side"), [((0.08, 0.5), "left"), ((0.95, 0.5), "right"), ((0.5, 0.1), "top"), ((0.5, 0.93), "bottom")]
)
def test_product_at_the_edge_is_to_be_redone_and_the_side_is_named(centre: tuple[float, float], side: str) -> None:
    decision, _ = cut(scene("box", centre=centre))
    assert decision.judgement.verdict is Verdict.REDO
    assert side in decision.judgement.reasons[0]


def test_the_empty_set_has_no_product() -> None:
    decision, found = cut(scene("nothing"))
    assert decision.judgement.verdict is Verdict.REDO
    assert "no product" in decision.judgement.reasons[0]
    assert not found.alpha.any()


def test_a_clear_case_is_clean() -> None:
    decision, _ = cut(scene("disc"))
    assert decision.judgement.verdict is Verdict.CLEAN
    assert decision.judgement.reasons == ()
    assert 20 <= decision.match <= 80


def test_a_strict_match_keeps_more_and_a_loose_one_less() -> None:
    made = scene("disc", (0.70, 0.69, 0.68), shadow=0.3)
    areas = [float(cut(made, match=match)[1].alpha.sum()) for match in (0, 50, 100)]
    assert areas[0] <= areas[1] * 1.01
    assert areas[1] <= areas[2] * 1.02  # what faint edges enclose counts at either


def test_backdrop_of_another_size_is_said() -> None:
    made = scene()
    with pytest.raises(BackdropDoesNotFit, match="720 x 480 px but the backdrop frame is 360 x 240"):
        pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop[::2, ::2].copy(), "PNG"))


def test_another_scene_is_said() -> None:
    rng = np.random.default_rng(0)
    import cv2

    other = cv2.resize(rng.integers(0, 255, (12, 18, 3), dtype=np.uint8), (720, 480), interpolation=cv2.INTER_CUBIC)
    with pytest.raises(BackdropDoesNotFit, match="another scene"):
        pipeline.prepare(Picture(scene().frame, "PNG"), Picture(other, "PNG"))


def test_an_exposure_far_off_is_said() -> None:
    with pytest.raises(BackdropDoesNotFit, match="EV darker"):
        pipeline.prepare(Picture(scene(gain=0.3).frame, "PNG"), Picture(scene().backdrop, "PNG"))


def test_keys_change_with_every_input() -> None:
    keys = {
        pipeline.cut_key("a" * 64, "b" * 64, CutSettings()),
        pipeline.cut_key("c" * 64, "b" * 64, CutSettings()),
        pipeline.cut_key("a" * 64, "c" * 64, CutSettings()),
        pipeline.cut_key("a" * 64, "b" * 64, CutSettings(match=40)),
        pipeline.cut_key("a" * 64, "b" * 64, CutSettings(material="pale")),
    }
    assert len(keys) == 5


def test_a_framing_box_leaves_out_what_stands_outside_it() -> None:
    """A stand at the left and a dark strip above: with the box around the product, the cut is as if they were not there."""
    made = scene("disc")
    cluttered = made.frame.copy()
    cluttered[:, :60] = 40
    cluttered[:40] = 25
    assert cut(replace(made, frame=cluttered))[1].alpha[:40].mean() > 0.9
    decision, found = cut(replace(made, frame=cluttered), framing=FramingBox(left=0.12, top=0.12, right=0.95))
    _, plain = cut(made)
    assert decision.judgement.verdict is Verdict.CLEAN
    assert np.mean((found.alpha - plain.alpha) ** 2) < 5e-5
    assert found.alpha[:40].max() == 0


def test_a_framing_box_of_the_whole_frame_changes_nothing() -> None:
    made = scene("ring")
    assert np.abs(cut(made, framing=FramingBox())[1].alpha - cut(made)[1].alpha).max() < 0.02


def test_a_shadow_across_the_side_of_the_box_leaves_no_edge_there() -> None:
    made = scene("disc", shadow=0.5)
    shaded = FramingBox(left=0.25, right=0.75, bottom=0.8)
    assert cut(made, framing=shaded)[1].alpha[-110:].max() == 0
