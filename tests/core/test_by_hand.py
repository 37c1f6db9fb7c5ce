"""What a person does to a cut: touches, outlines, the edge, clear parts, painted shadow."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import shift as shift_plane
from skimage.draw import polygon as sk_polygon

from tests.scenes import Scene, scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.adjust import EdgeWork, shifted
from true_backdrop.core.cut.clear import calm_light, least_alpha
from true_backdrop.core.cut.edge import CutOut
from true_backdrop.core.cut.touches import touched
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.spec import SHIPPED
from true_backdrop.core.treatment import (
    ClearSettings,
    CutSettings,
    EdgeSettings,
    Hands,
    OutlineSettings,
    Shape,
    Touch,
    TouchSettings,
    Treatment,
)


def cut(made: Scene, hands: Hands | None = None, **settings: object) -> tuple[pipeline.Decision, CutOut]:
    pictures = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    return pipeline.cut_frame(*pictures, CutSettings(**settings), hands=hands or Hands())


def touches(*strokes: Touch) -> Hands:
    return Hands(touches=TouchSettings(strokes=strokes))


def stroke(kind: str, *points: tuple[float, float], width: float = 0.02, reach: float = 0.0) -> Touch:
    return Touch(kind=kind, points=points, width=width, reach=reach)


MIDDLE = (0.5, 0.5)


class TestTouches:
    def test_backdrop_here_takes_the_whole_region_away_and_stops_at_its_edge(self) -> None:
        made = scene("disc")
        _, found = cut(made, touches(stroke("backdrop", MIDDLE, reach=1.0)))
        assert found.alpha.max() < 0.5
        # The backdrop around it is not carried along by a touch on the product.
        _, kept = cut(made, touches(stroke("product", (0.5, 0.5), reach=1.0)))
        assert kept.alpha[made.alpha < 0.01].max() < 0.1
        assert kept.alpha[made.alpha > 0.99].min() > 0.9

    def test_reach_says_how_far_like_pixels_follow(self) -> None:
        made = scene("box")
        taken = [
            1 - cut(made, touches(stroke("backdrop", MIDDLE, reach=r)))[1].alpha.sum() / made.alpha.sum() for r in (0, 0.2, 0.35)
        ]
        assert 0 < taken[0] < 0.01 < taken[1] < taken[2]

    def test_exactly_under_the_brush_is_hard_edged_and_as_wide_as_the_brush(self) -> None:
        made = scene("box")
        height, width = made.alpha.shape
        _, found = cut(made, touches(stroke("backdrop", (0.45, 0.5), (0.55, 0.5), width=0.02)))
        column = found.alpha[:, width // 2]
        gone = 1 - column[int(height * 0.4) : int(height * 0.6)]
        assert gone.sum() == pytest.approx(0.02 * width, abs=1)
        assert np.count_nonzero((gone > 0.02) & (gone < 0.98)) <= 2

    def test_an_opposite_touch_or_undo_cures_a_wrong_one(self) -> None:
        made = scene("disc")
        wrong = stroke("backdrop", MIDDLE, reach=1.0)
        _, cured = cut(made, touches(wrong, stroke("product", MIDDLE, reach=1.0)))
        _, before = cut(made)
        assert np.abs(cured.alpha - before.alpha).mean() < 1e-3
        np.testing.assert_array_equal(cut(made, touches())[1].alpha, before.alpha)

    def test_what_was_said_exactly_stays_when_the_opposite_reaches_it(self) -> None:
        made = scene("box")
        hands = touches(stroke("product", MIDDLE, width=0.05, reach=0.02), stroke("backdrop", (0.42, 0.5), reach=1.0))
        alpha = cut(made, hands)[1].alpha
        height, width = alpha.shape
        assert alpha[height // 2, width // 2] == 1
        assert alpha[height // 2, int(width * 0.42)] == 0

    @pytest.mark.parametrize("match", [30, 70])
    def test_touches_survive_other_values_of_backdrop_match(self, match: int) -> None:
        made = scene("disc")
        _, found = cut(made, touches(stroke("product", (0.2, 0.2), width=0.05)), match=match)
        height, width = found.alpha.shape
        assert found.alpha[int(0.2 * height), int(0.2 * width)] == 1

    def test_a_white_part_that_was_lost_comes_back_with_one_touch(self) -> None:
        made = scene("box", (0.70, 0.69, 0.68))
        # The right half as light as the backdrop in every pixel: nothing could find it.
        frame = made.frame.copy()
        half = np.zeros(made.alpha.shape, bool)
        half[:, made.alpha.shape[1] // 2 :] = True
        frame[half] = made.backdrop[half]
        made = replace(made, frame=frame)
        alpha = cut(made, touches(stroke("product", (0.55, 0.45), (0.6, 0.5), width=0.06)))[1].alpha
        assert alpha[int(0.475 * alpha.shape[0]), int(0.575 * alpha.shape[1])] == 1


class TestReach:
    """The way of a touch on a picture where nothing changes, and where one line does."""

    def plain(self, wall: bool = False) -> pipeline.Prepared:
        pixels = np.full((300, 450, 3), 120, np.uint8)
        if wall:
            pixels[:, 260:264] = 160
        backdrop = np.full((300, 450, 3), 200, np.uint8)
        backdrop[20:-20, 20:-20] = pixels[20:-20, 20:-20]  # so that the rim agrees and the inside does, too
        return pipeline.prepare(Picture(backdrop, "PNG"), Picture(backdrop, "PNG"))

    @pytest.mark.parametrize("reach", [0.2, 0.3])
    def test_it_goes_as_far_as_it_says_and_not_farther(self, reach: float) -> None:
        """Against the octagon of a chamfer metric with steps 1 and 1.4142 (Borgefors 1986)."""
        one = stroke("product", (0.5, 0.5), width=0.003, reach=reach)
        found = touched(np.zeros((300, 450), bool), self.plain().aligned, [one])
        y, x = (np.abs(each) for each in np.mgrid[-150:150, -225:225])
        chamfer = np.maximum(x, y) + 0.4142 * np.minimum(x, y)
        budget = 450 * reach * reach
        assert found[chamfer < budget - 4].all()
        assert not found[chamfer > budget + 4].any()

    def test_a_line_of_another_tone_stops_it(self) -> None:
        one = stroke("product", (0.45, 0.5), width=0.01, reach=0.5)
        found = touched(np.zeros((300, 450), bool), self.plain(wall=True).aligned, [one])
        assert found[150, 230] and not found[150, 300:400].any()

    def test_touches_on_top_of_others_equal_all_at_once(self) -> None:
        strokes = [
            stroke("backdrop", (0.45, 0.5), reach=0.2),
            stroke("product", (0.5, 0.45), reach=0.3),
            stroke("shadow", MIDDLE),
        ]
        aligned, begin = self.plain(wall=True).aligned, np.ones((300, 450), bool)
        step = begin
        for done in range(len(strokes)):
            step = touched(step, aligned, strokes[: done + 1], done)
        np.testing.assert_array_equal(step, touched(begin, aligned, strokes))


class TestOutlines:
    square = ((0.5, 0.2), (0.9, 0.2), (0.9, 0.8), (0.5, 0.8))

    def test_what_lies_outside_is_dropped_with_the_coverage_of_its_edge(self) -> None:
        made = scene("disc")
        height, width = made.alpha.shape
        alpha = cut(made, Hands(outlines=OutlineSettings(shapes=(Shape(points=self.square),))))[1].alpha
        before = cut(made)[1].alpha
        inside = np.zeros(alpha.shape, bool)
        inside[
            sk_polygon(
                [0.2 * height, 0.2 * height, 0.8 * height, 0.8 * height],
                [0.5 * width, 0.9 * width, 0.9 * width, 0.5 * width],
                alpha.shape,
            )
        ] = True
        near = np.zeros_like(inside)
        near[:, width // 2 - 2 : width // 2 + 2] = True
        np.testing.assert_array_equal(alpha[inside & ~near], before[inside & ~near])
        assert alpha[~inside & ~near].max() == 0

    def test_inside_can_be_dropped_and_curves_are_rounder_than_their_corners(self) -> None:
        made = scene("box")
        corners = ((0.45, 0.4), (0.55, 0.4), (0.55, 0.6), (0.45, 0.6))
        straight, curved = (
            cut(made, Hands(outlines=OutlineSettings(shapes=(Shape(points=corners, keep="outside", curved=c),))))[1].alpha
            for c in (False, True)
        )
        assert straight[240, 360] == curved[240, 360] == 0
        assert curved.sum() < straight.sum()  # a closed cubic through four corners bulges

    def test_anchored_to_the_product_it_moves_with_it(self) -> None:
        half = Shape(points=((-0.1, -0.1), (0.5, -0.1), (0.5, 1.1), (-0.1, 1.1)), anchor="product")
        left, right = (scene("disc", centre=(x, 0.5)) for x in (0.35, 0.65))
        parts = [cut(made, Hands(outlines=OutlineSettings(shapes=(half,))))[1].alpha for made in (left, right)]
        for made, alpha in zip((left, right), parts, strict=True):
            assert alpha.sum() / made.alpha.sum() == pytest.approx(0.5, abs=0.02)


class TestEdge:
    def test_tenths_of_a_pixel_move_the_edge_by_that_much(self) -> None:
        """Against the same soft edge moved by scipy's spline shift."""
        edge = np.repeat(np.clip((np.arange(60) - 29.3) / 1.6 + 0.5, 0, 1)[None], 20, axis=0).astype(np.float32)
        for by in (-2.0, -0.7, -0.1, 0.3, 1.0, 2.4):
            moved = shift_plane(edge, (0, -by), order=1, mode="nearest")
            got = shifted(edge, by)
            assert got.sum() - edge.sum() == pytest.approx(moved.sum() - edge.sum(), abs=0.02 * 20)

    def test_a_shift_leaves_no_seams_and_fills_with_product_colour(self) -> None:
        made = scene("disc", (0.5, 0.1, 0.05))
        _, before = cut(made)
        _, out = cut(made, Hands(edge=EdgeSettings(shift_px=2.0)))
        radius = np.sqrt(before.alpha.sum() / np.pi)
        assert np.sqrt(out.alpha.sum() / np.pi) - radius == pytest.approx(2.0, abs=0.25)
        new = (out.alpha > 0.9) & (before.alpha < 0.05)
        assert new.any()
        np.testing.assert_allclose(out.foreground[new].mean(axis=0), (0.5, 0.1, 0.05), atol=0.05)

    def test_a_view_in_parts_equals_the_whole(self) -> None:
        made = scene("disc")
        hands = Hands(edge=EdgeSettings(shift_px=-0.6, smooth=0.3, harden=0.4))
        decision, found = cut(made, hands)
        from true_backdrop.core.cut.edge import View, as_seen, cut_view, held

        part = Region(100, 250, 300, 470)
        frame, backdrop = (Picture(p, "PNG") for p in (made.frame, made.backdrop))
        view = View(part, (part.height, part.width), made.alpha.shape)
        got = cut_view(held(frame.linear(part)), as_seen(held(backdrop.linear(part))), decision.outline, view)
        inner = (slice(20, -20), slice(20, -20))
        np.testing.assert_allclose(got.alpha[inner], found.alpha[part.slices][inner], atol=1e-5)

    def test_smoothing_straightens_teeth_and_hardening_narrows_the_edge(self) -> None:
        y, x = np.mgrid[0:80, 0:80]
        teeth = (x + 3 * ((y // 4) % 2) > 40).astype(np.float32)
        smooth, _ = EdgeWork(0.0, 3.0, 1.0).apply(teeth, np.zeros((80, 80, 3), np.float32))
        ends = [np.argmax(row > 0.5) for row in smooth[20:60]]
        assert np.ptp(ends) <= 1 < np.ptp([np.argmax(row > 0.5) for row in teeth[20:60]])
        soft = np.clip((x - 36) / 8.0, 0, 1).astype(np.float32)
        hard, _ = EdgeWork(0.0, 0.0, 6.0).apply(soft, np.zeros((80, 80, 3), np.float32))
        assert np.count_nonzero((hard > 0) & (hard < 1)) < np.count_nonzero((soft > 0) & (soft < 1)) / 3


class TestClear:
    def test_the_least_opacity_is_the_smallest_one_that_explains_the_light(self) -> None:
        rng = np.random.default_rng(3)
        behind, colour, alpha = rng.uniform(0.2, 0.9, (50, 3)), rng.uniform(0, 1, (50, 3)), rng.uniform(0, 1, (50, 1))
        frame = alpha * colour + (1 - alpha) * behind
        least = least_alpha(frame[None].astype(np.float32), behind[None].astype(np.float32))[0].max(axis=1)
        assert (least <= alpha[:, 0] + 1e-5).all()
        back = (frame - (1 - least[:, None]) * behind) / np.maximum(least[:, None], 1e-6)
        assert back.min() > -1e-3
        assert back.max() < 1 + 1e-3

    def glass(self) -> tuple[Scene, np.ndarray]:
        """A dark ring with a tinted pane in it that lets 70, 75 and 80 % of the light through."""
        made = scene("ring", shadow=0.0)
        height, width = made.alpha.shape
        y, x = np.mgrid[0:height, 0:width]
        pane = (made.alpha < 0.01) & (np.hypot(x - width / 2, y - height / 2) < height * 0.1)
        light = np.where(made.frame / 255 <= 0.04045, made.frame / 255 / 12.92, ((made.frame / 255 + 0.055) / 1.055) ** 2.4)
        dimmed = np.where(pane[..., None], light * (0.70, 0.75, 0.80), light)
        encoded = np.where(dimmed <= 0.0031308, 12.92 * dimmed, 1.055 * np.maximum(dimmed, 1e-9) ** (1 / 2.4) - 0.055)
        return replace(made, frame=np.round(255 * encoded).astype(np.uint8)), pane

    def test_glass_over_a_new_backdrop_shows_it_and_keeps_its_tint(self) -> None:
        made, pane = self.glass()
        _, found = cut(made, material="clear")
        inner = pane & (np.roll(pane, 12, 0) & np.roll(pane, -12, 0) & np.roll(pane, 12, 1) & np.roll(pane, -12, 1))
        assert found.alpha[inner].mean() == pytest.approx(0.3, abs=0.05)
        over_white = found.alpha[..., None] * found.foreground + (1 - found.alpha[..., None])
        np.testing.assert_allclose(over_white[inner].mean(axis=0), (0.70, 0.75, 0.80), atol=0.04)
        assert found.alpha[made.alpha > 0.999].min() > 0.95  # the rim stays solid

    def test_opacity_makes_it_solid_again_and_sensitivity_says_what_counts(self) -> None:
        made, pane = self.glass()
        solid = cut(made, Hands(clear=ClearSettings(opacity=1.0)), material="clear")[1].alpha[pane]
        assert np.median(solid) == 1
        strict = cut(made, Hands(clear=ClearSettings(sensitivity=0.0)), material="clear")[1].alpha[pane]
        assert np.median(strict) == 1

    def test_its_noise_is_taken_off_and_its_reflections_stay(self) -> None:
        """Glass that takes 5 % of the light, with a highlight that ends sharply."""
        noise, behind = 0.015, np.full((80, 120, 3), 0.8, np.float32)
        true = 0.95 * behind
        true[:, 60:70] = 1.0
        shot = np.asarray(true + np.random.default_rng(1).normal(0, noise * 0.8, true.shape), np.float32)
        calm = calm_light(shot, behind, noise)
        even = np.s_[15:-15, 15:45]
        assert calm[even].std() < shot[even].std() / 3
        assert calm[even].mean() == pytest.approx(0.76, abs=0.002)
        highlight = calm[15:-15, 59:71].mean(axis=(0, 2))
        np.testing.assert_allclose(highlight, true[0, 59:71, 0], atol=0.02)


class TestPaintedShadow:
    def square(self, *strokes: Touch) -> np.ndarray:
        made = scene("disc", shadow=0.5)
        prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
        treatment = Treatment(touches=TouchSettings(strokes=strokes))
        hands = Hands(touches=treatment.touches)
        decision = pipeline.decide_cut(prepared, CutSettings(), pipeline.propose_match(prepared, CutSettings()), hands)
        spec = SHIPPED["pennywharf"].model_copy(update={"side_px": 500, "shadow": "own"})
        square = pipeline.finish(Picture(made.frame, "PNG"), prepared.backdrop_proxy, decision.outline, treatment, spec)
        assert square is not None
        return square

    def test_shadow_is_painted_away_and_product_stays(self) -> None:
        line = ((0.25, 0.78), (0.5, 0.75), (0.75, 0.78))
        with_shadow, without = self.square(), self.square(stroke("no_shadow", *line, width=0.25))
        assert (without == 255).all(axis=-1).sum() > (with_shadow == 255).all(axis=-1).sum() + 1000
        np.testing.assert_array_equal(with_shadow[200:300, 220:280], without[200:300, 220:280])

    def test_shadow_is_painted_back_as_it_was_shot(self) -> None:
        line = ((0.2, 0.78), (0.5, 0.76), (0.8, 0.78))
        assert self.square(stroke("shadow", *line, width=0.3)).mean() < self.square().mean()
