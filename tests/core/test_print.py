"""Cloth with a print in the backdrop's light is whole along its edge, or is asked about; strands are opened all the same."""

from dataclasses import replace

import numpy as np
import pytest

from tests.core.test_strands import SIZE, brush
from tests.scenes import OVER, Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.band import _signed_distance
from true_backdrop.core.cut.lines_along import BetweenLines, Lines, Means
from true_backdrop.core.cut.notched import notched, stripes_cut_off
from true_backdrop.core.cut.strands import _printed, bristling
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, Material

TOP, LEFT, BOTTOM, RIGHT = 80, 200, 420, 520


def cloth(*, light: float = 0.74, dark: float = 0.2, dots: bool = False, printed_px: float = 500, period: float = 9.0) -> Scene:
    """A square of cloth with stripes of the backdrop's light, or dots, in the outermost pixels or all over."""
    y, x = np.mgrid[: SIZE[0] * OVER, : SIZE[1] * OVER] / OVER
    depth = np.minimum(np.minimum(x - LEFT, RIGHT - x), np.minimum(y - TOP, BOTTOM - y))
    along, across = np.cos(0.6) * x + np.sin(0.6) * y, np.cos(0.6) * y - np.sin(0.6) * x
    wave = np.sin(2 * np.pi * along / period)
    if dots:
        wave = np.maximum(wave, np.sin(2 * np.pi * across / period))
    dyed = np.where(depth < printed_px, np.clip(0.5 + 2 * wave, 0, 1), 1)

    def seen(plane: np.ndarray) -> np.ndarray:
        return plane.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3))

    alpha, bare = seen(depth > 0), np.full((*SIZE, 3), 0.75)
    lit = seen((depth > 0) * (dark * dyed + light * (1 - dyed)))[..., None] + (1 - alpha[..., None]) * bare
    rng = np.random.default_rng(3)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (lit, bare))
    return Scene(frame, empty, alpha)


def cut(made: Scene, material: Material = "auto") -> tuple[pipeline.Decision, float]:
    """The decision, and the part of the product that is eaten."""
    pictures = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    decision, found = pipeline.cut_frame(*pictures, CutSettings(material=material))
    return decision, float(np.mean(found.alpha[made.alpha > 0.999] < 0.9))


@pytest.mark.parametrize("print_", [{"dots": True}, {"light": 0.7}, {"light": 0.6}], ids=["dots", "stripes", "darker stripes"])
def test_a_print_that_goes_on_deep_inside_is_not_opened_along_the_outline(print_: dict[str, float]) -> None:
    """As strands it was opened nine to thirty pixels deep, 12 to 23 % of it, and called clean."""
    decision, eaten = cut(cloth(**print_))
    assert eaten < 0.03
    assert decision.outline.printed is not None
    assert decision.judgement.verdict is Verdict.LOOK_AGAIN
    assert any("pattern in the backdrop's light" in reason for reason in decision.judgement.reasons)


def test_what_somebody_calls_strands_is_opened() -> None:
    made = cloth()
    assert cut(made)[1] < 0.03
    decision, eaten = cut(made, "strands")
    assert decision.outline.printed is None
    assert eaten > 0.3
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    signed, shade = _signed_distance(made.alpha > 0.5), np.zeros(SIZE, np.float32)
    assert bristling(evidence, signed, shade, "auto").printed.any()
    assert not bristling(evidence, signed, shade, "strands").printed.any()


@pytest.mark.parametrize(("longest_px", "bare", "told"), [(0, 0.0, True), (24, 0.0, False), (0, 0.05, False)])
def test_strands_end_at_different_places_and_show_the_backdrop_itself(longest_px: int, bare: float, told: bool) -> None:
    """Deep inside there is as much of a pattern as along the outline; that is straight, or teeth of different lengths."""
    y, x = np.mgrid[:200, :300]
    teeth = np.random.default_rng(2).integers(0, longest_px + 1, 50)[x // 6]
    distance = np.minimum(np.minimum(x - 60, 240 - x), np.minimum(y - 60 + teeth, 160 - y)).astype(np.float32)
    small = np.ones((50, 75), np.float32)
    at_top = ((np.abs(y - 56) < 20) & (np.abs(x - 150) < 80))[::4, ::4]
    lines = Lines(*(small,) * 3, at_top, *(small,) * 3, distance[::2, ::2], Means(small, 300))
    seen = BetweenLines(small, small, bare * small, *(small,) * 3, (1.0, 1.0))
    assert bool(_printed(lines, seen, 300).max()) is told


def test_bristles_are_no_print() -> None:
    decision, _ = cut(brush())
    assert decision.outline.printed is None
    assert decision.outline.as_strands.any()


@pytest.mark.parametrize(
    ("printed_px", "told"), [(500, True), (6, False)], ids=["stripes go on inside", "the gaps of a comb end"]
)
def test_notches_that_go_on_inside_are_stripes_cut_off(printed_px: float, told: bool) -> None:
    made = cloth(period=14, printed_px=printed_px)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    inner = np.zeros(SIZE, bool)
    inner[TOP + 6 : BOTTOM - 6, LEFT + 6 : RIGHT - 6] = True
    product = (made.alpha > 0.5) & (inner | (made.frame[..., 0] < 200))
    busy = prepared.busy
    found = stripes_cut_off(busy.evidence, busy.of_proxy(product))
    assert (found is not None) == told
    if found is not None:
        assert np.count_nonzero(busy.on_proxy(found) & ~product & (made.alpha > 0.5)) > 0.5 * np.count_nonzero(
            ~product & (made.alpha > 0.5)
        )


def test_they_are_asked_about_unless_somebody_said_what_the_product_is_made_of() -> None:
    made = cloth(period=14)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    proposal, whole = pipeline.propose_match(prepared, CutSettings()), made.alpha > 0.5
    inner = np.zeros(SIZE, bool)
    inner[TOP + 6 : BOTTOM - 6, LEFT + 6 : RIGHT - 6] = True
    outline = pipeline.outline_at(prepared, proposal.match, "auto")
    decided = pipeline._decided(prepared, "auto", (outline, whole, whole), proposal.match, proposal)
    decided = replace(decided, product=whole & (inner | (made.frame[..., 0] < 200)))
    reasons, doubt = notched(prepared.evidence, decided)
    assert "notches along the outline" in reasons[0][0]
    assert reasons[0][1]
    assert doubt > 0
    assert notched(prepared.evidence, replace(decided, unsaid=False)) == ([], 0.0)


def test_a_few_notches_are_nothing_to_ask_about() -> None:
    made = cloth(period=14)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    product = made.alpha > 0.5
    product[TOP : TOP + 6, 300:360] &= made.frame[TOP : TOP + 6, 300:360, 0] < 200
    assert stripes_cut_off(prepared.busy.evidence, prepared.busy.of_proxy(product)) is None
