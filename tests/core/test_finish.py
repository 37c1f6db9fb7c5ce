"""Finished squares and their audit."""

from __future__ import annotations

import io

import cv2
import numpy as np
import pytest
from PIL import Image

from tests.scenes import scene
from true_backdrop.core import codec, marks, pipeline
from true_backdrop.core.audit import Finding, audit
from true_backdrop.core.errors import ByteLimitTooLow, NotAPicture
from true_backdrop.core.finish.compose import unsharp_mask, without_specks
from true_backdrop.core.finish.framing import place
from true_backdrop.core.finish.ground import CLEAR_RIM, Square, faded, own_shadow
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.spec import SHIPPED, Spec
from true_backdrop.core.treatment import FrameSettings, GroundSettings, SharpenSettings, Treatment


def finished(spec: Spec, treatment: Treatment | None = None, shape: str = "disc", **options: object) -> np.ndarray:
    made, treatment = scene(shape, **options), treatment or Treatment()
    frame, backdrop = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    prepared = pipeline.prepare(frame, backdrop)
    decision = pipeline.decide_cut(prepared, treatment.cut, pipeline.propose_match(prepared, treatment.cut))
    square = pipeline.finish(frame, prepared.backdrop_proxy, decision.outline, treatment, spec)
    assert square is not None
    return square


def failing(findings: list[Finding]) -> list[str]:
    return [finding.rule for finding in findings if not finding.passed]


@pytest.mark.parametrize("name", SHIPPED)
@pytest.mark.parametrize("shape", ["disc", "ring", "box"])
def test_finished_pictures_pass_the_audit_of_the_shipped_outlets(name: str, shape: str) -> None:
    spec = SHIPPED[name]
    data, quality = pipeline.encode_for(finished(spec, shape=shape), spec)
    assert failing(audit(data, "x.jpg", spec)) == []
    assert quality is not None and quality >= 80


@pytest.mark.parametrize("coverage", [0.6, 0.85, 0.95])
@pytest.mark.parametrize("side", [300, 1000])
def test_product_is_centred_at_the_chosen_coverage(coverage: float, side: int) -> None:
    spec = Spec(name="x", title="X", side_px=side, quality=90)
    square = finished(spec, Treatment(frame=FrameSettings(coverage=coverage)), centre=(0.42, 0.55))
    dark = square.min(axis=-1) < 128
    rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
    assert (rows[-1] - rows[0] + 1) / side == pytest.approx(coverage, abs=0.015)
    assert (rows[0] + rows[-1] + 1) / 2 == pytest.approx(side / 2, abs=0.006 * side)
    assert (columns[0] + columns[-1] + 1) / 2 == pytest.approx(side / 2, abs=0.006 * side)


def test_backdrop_is_exact_white_without_shadow() -> None:
    square = finished(SHIPPED["kiosk-nine"])
    y, x = np.mgrid[-1:1:1000j, -1:1:1000j]
    outside = np.hypot(x, y) > 0.9
    assert (square[outside] == 255).all()


def test_own_shadow_is_kept_at_its_strength() -> None:
    spec = SHIPPED["larkfield-home"].model_copy(update={"side_px": 600})
    frame = FrameSettings(coverage=0.6)
    levels = [
        finished(spec, Treatment(frame=frame, ground=GroundSettings(shadow=s)))[488:498, 280:320].mean() for s in (0.0, 0.5, 1.0)
    ]
    assert levels[0] == 255
    assert levels[0] > levels[1] > levels[2]


def test_colour_of_the_product_does_not_move() -> None:
    """CIEDE2000 below 1 is below what is seen side by side (common practice)."""
    made = scene("disc")
    frame, backdrop, treatment = (
        Picture(made.frame, "PNG"),
        Picture(made.backdrop, "PNG"),
        Treatment(sharpen=SharpenSettings(amount=0)),
    )
    spec = SHIPPED["kiosk-nine"]
    prepared = pipeline.prepare(frame, backdrop)
    decision = pipeline.decide_cut(prepared, treatment.cut, pipeline.propose_match(prepared, treatment.cut))
    square = pipeline.finish(frame, prepared.backdrop_proxy, decision.outline, treatment, spec)
    assert marks.colour_moved(prepared, decision.outline, treatment, spec, square) < 1.0


def test_the_canvas_is_added_where_the_square_leaves_the_frame() -> None:
    placement = place((10, 200, 470, 300), (480, 720), 0.5, 1000)
    assert placement.window.top == 0 and placement.window.bottom == 480
    assert placement.offset[0] > 200
    assert placement.shape[0] + placement.offset[0] <= 1000


def test_lone_specks_and_faint_spots_become_white_and_small_product_stays() -> None:
    square = np.full((1000, 1000, 3), 255, np.uint8)
    square[400:600, 400:600] = 90
    kept = square.copy()
    square[100, 100] = 40  # a grain
    square[200:204, 200:205] = 244  # a faint spot
    square[300:304, 300:305] = kept[300:304, 300:305] = 60  # as small, but plain to see: a bead
    assert np.array_equal(without_specks(square, 1000), kept)


def test_only_what_is_not_white_is_worked_on_and_it_lies_where_the_whole_would_have_it() -> None:
    box, frame_size = (1000.0, 1500.0, 2600.0, 2100.0), (4000, 6000)
    whole = place(box, frame_size, 0.85, 2000)
    part = place(box, frame_size, 0.85, 2000, Region(980, 1480, 2620, 2120))
    assert part.shape[0] * part.shape[1] < 0.5 * whole.shape[0] * whole.shape[1]
    for axis, edge in enumerate(("top", "left")):
        moved = getattr(part.window, edge) - getattr(whole.window, edge)
        assert abs(part.offset[axis] - whole.offset[axis] - moved * 2000 * 0.85 / 1600) <= 1
    assert not any(edge % 2 for edge in (part.window.top, part.window.left, part.window.bottom, part.window.right))


def test_a_frame_averaged_by_halves_keeps_its_light() -> None:
    """Two ways to the same size: by way of the halved frame, and directly in one step."""
    rng = np.random.default_rng(3)
    picture = Picture(rng.integers(0, 256, (240, 360, 3), dtype=np.uint8), "PNG")
    small = picture.linear(size=(60, 90))
    direct = cv2.resize(picture.linear(), (90, 60), interpolation=cv2.INTER_AREA)
    assert np.abs(small - direct).max() < 1e-4
    odd = Picture(picture.pixels[:239], "PNG").linear(size=(60, 90))
    assert odd.mean() == pytest.approx(small.mean(), abs=0.002)


def test_place_refuses_an_empty_box() -> None:
    with pytest.raises(ValueError, match="empty"):
        place((5, 5, 5, 5), (100, 100), 0.85, 500)


def test_unsharp_mask_leaves_white_white_and_zero_changes_nothing() -> None:
    square = np.full((80, 80, 3), 255, np.uint8)
    square[30:50, 30:50] = 90
    sharp = unsharp_mask(square, 1.0, 0.8)
    assert (sharp[:20] == 255).all()
    assert sharp[31, 40, 0] < 90
    assert unsharp_mask(square, 0.0, 0.8) is square


class TestShadowOnWhite:
    PRODUCT = np.zeros((200, 300), bool)
    PRODUCT[60:140, 110:190] = True

    def shadow(self, depth: np.ndarray | float, strength: float = 1.0) -> np.ndarray:
        return own_shadow(np.asarray(1 - np.broadcast_to(depth, self.PRODUCT.shape), np.float32), strength, self.PRODUCT)

    def test_the_rim_of_the_square_is_white_and_under_the_product_it_is_as_shot(self) -> None:
        square = Square(10, 60, 180)
        ground = faded(self.shadow(0.4), self.PRODUCT, square)
        clear = round(CLEAR_RIM * square.side)
        assert (ground[: 10 + clear - 1] == 1).all() and (ground[190 - clear :] == 1).all()
        assert (ground[:, : 60 + clear - 1] == 1).all() and (ground[:, 240 - clear :] == 1).all()
        assert ground[100, 150] == pytest.approx(0.6, abs=1e-6)

    def test_it_ends_nowhere_in_a_line(self) -> None:
        """From product to rim it only grows fainter, and no pixel's step is more than a few times the mean step."""
        down = faded(self.shadow(0.4), self.PRODUCT, Square(10, 60, 180))[139:192, 150]
        steps = np.diff(down)
        assert (steps >= -1e-6).all()
        assert steps.max() < 3 * steps.mean()

    def test_unevenness_is_no_shadow(self) -> None:
        assert (self.shadow(0.01) == 1).all()

    def test_far_out_noise_is_gone_and_the_shadow_stays(self) -> None:
        noisy = 0.15 + np.random.default_rng(3).normal(0, 0.03, self.PRODUCT.shape)
        far = self.shadow(noisy)[10:30, 10:60]
        assert far.std() < 0.006
        assert far.mean() == pytest.approx(0.85, abs=0.01)


class TestByteLimit:
    """The best quality that fits."""

    picture = np.random.default_rng(1).integers(0, 255, (200, 200, 3), dtype=np.uint8)

    @pytest.mark.parametrize("limit", [20_000, 40_000, 60_000])
    def test_one_step_better_would_not_fit(self, limit: int) -> None:
        data, quality = codec.encode_jpeg_under(self.picture, limit)
        assert len(data) <= limit
        better = [q for q in range(quality + 1, codec.HIGHEST_QUALITY + 1) if (q < 90) == (quality < 90)]
        assert all(len(codec.encode_jpeg(self.picture, q)) > limit for q in better[:1])

    def test_what_cannot_fit_is_said_with_its_numbers(self) -> None:
        with pytest.raises(ByteLimitTooLow, match="the limit is 2,000"):
            codec.encode_jpeg_under(self.picture, 2000)


class TestAudit:
    """Each rule fails when it is broken."""

    spec = Spec(name="x", title="X", side_px=400, quality=95, coverage=0.85)

    def square(self) -> np.ndarray:
        return finished(self.spec)

    def rules(self, pixels: np.ndarray, spec: Spec | None = None) -> list[str]:
        return failing(audit(codec.encode_jpeg(pixels, 95), "x.jpg", spec or self.spec))

    def test_a_good_one_passes(self) -> None:
        assert self.rules(self.square()) == []

    def test_size_and_square(self) -> None:
        assert {"pixel size", "square"} <= set(self.rules(self.square()[:, :390]))

    def test_border(self) -> None:
        bad = self.square()
        bad[:3, 100:140] = 240
        assert "white border" in self.rules(bad)

    def test_ground_that_is_250_is_not_white(self) -> None:
        bad = self.square()
        bad[bad.min(axis=-1) == 255] = (250, 249, 250)
        assert {"white border", "white backdrop"} <= set(self.rules(bad))

    def test_coverage(self) -> None:
        assert "coverage" in self.rules(self.square(), self.spec.model_copy(update={"coverage": 0.7}))

    def test_bytes(self) -> None:
        spec = self.spec.model_copy(update={"quality": None, "max_bytes": 2000})
        assert self.rules(self.square(), spec) == ["file size"]

    def test_blown_out(self) -> None:
        bad = self.square()
        for y in range(120, 280, 16):
            for x in range(120, 280, 16):
                bad[y : y + 10, x : x + 10] = 255
        assert "product not blown out" in self.rules(bad)

    def test_profile_density_and_format(self) -> None:
        out = io.BytesIO()
        Image.fromarray(self.square()).save(out, "PNG")
        assert {"format", "colour profile", "density"} <= set(failing(audit(out.getvalue(), "x.png", self.spec)))

    def test_something_else_is_refused_by_name(self) -> None:
        with pytest.raises(NotAPicture, match=r"notes\.txt"):
            audit(b"hello", "notes.txt", self.spec)


def test_marks_show_only_what_they_name() -> None:
    square = finished(SHIPPED["kiosk-nine"].model_copy(update={"side_px": 300}))
    assert marks.marked(square, "none") is square
    changed = (marks.marked(square, "not_white") != square).any(axis=-1)
    assert changed.any() and not (changed & (square == 255).all(axis=-1)).any()
    measured = marks.measure(square)
    assert measured.coverage == pytest.approx(0.85, abs=0.02)
    assert measured.not_white == int((square != 255).any(axis=-1).sum())
