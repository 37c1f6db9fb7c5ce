"""A small product is cut as well as one that fills its frame, and nobody need know how it was looked at."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.edge import CutOut
from true_backdrop.core.cut.levels import LONG_SIDE, product_at
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.marks import colour_moved
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.spec import SHIPPED
from true_backdrop.core.treatment import (
    CutSettings,
    EdgeSettings,
    FramingBox,
    Hands,
    OutlineSettings,
    Shape,
    Touch,
    TouchSettings,
    Treatment,
)

HEIGHT, WIDTH = 1600, 2400
#: Middle and radius of a dark ring that stands on the table: down, across, frame pixels.
MIDDLE, RADIUS = (900, 1500), 70
#: What a photographer would have had in the frame from nearer by.
NEAR = Region(MIDDLE[0] - 160, MIDDLE[1] - 180, MIDDLE[0] + 180, MIDDLE[1] + 180)
Y, X = np.mgrid[:HEIGHT, :WIDTH].astype(np.float32)
FROM_MIDDLE = np.hypot(Y - MIDDLE[0], X - MIDDLE[1])


def coverage(radius: float) -> np.ndarray:
    """Of a disc around the middle: its edge is a pixel wide."""
    return np.clip(radius - FROM_MIDDLE + 0.5, 0, 1)


TRUE = coverage(RADIUS) - coverage(RADIUS / 2)


def shots(moved: tuple[float, float] = (0.0, 0.0), grain: float = 0.004) -> tuple[Picture, Picture]:
    """Frame and backdrop frame; the set lies `moved` (right, down) in the frame."""
    rng = np.random.default_rng(4)
    fine = cv2.GaussianBlur(rng.standard_normal((HEIGHT, WIDTH)).astype(np.float32), (0, 0), 2.2)
    bare = (0.75 - 0.1 * (X / WIDTH - 0.4) ** 2) * (1 + grain * fine / fine.std())
    there = cv2.warpAffine(bare, np.array([[1, 0, moved[0]], [0, 1, moved[1]]]), (WIDTH, HEIGHT), borderMode=cv2.BORDER_REFLECT)
    shade = 1 - 0.3 * np.exp(-(((X - MIDDLE[1]) / 90) ** 2) - ((Y - MIDDLE[0] - RADIUS) / 25) ** 2)
    light = TRUE[..., None] * np.array([0.08, 0.16, 0.22]) + ((1 - TRUE) * shade * there)[..., None]
    made = []
    for each in (light, np.repeat(bare[..., None], 3, axis=2)):
        seen = cv2.GaussianBlur(each.astype(np.float32), (0, 0), 0.7)
        made.append(Picture(_encode(seen + rng.normal(0, 0.004, seen.shape)), "PNG"))
    return made[0], made[1]


@pytest.fixture(scope="module")
def pair() -> tuple[Picture, Picture]:
    return shots()


@pytest.fixture(scope="module")
def prepared(pair: tuple[Picture, Picture]) -> pipeline.Prepared:
    return pipeline.prepare(*pair)


def decided(prepared: pipeline.Prepared, hands: Hands = pipeline.UNTOUCHED) -> pipeline.Decision:
    prepared = prepared.seen_for(hands)
    return pipeline.decide_cut(prepared, CutSettings(), pipeline.propose_match(prepared, CutSettings()), hands)


def cut(pair: tuple[Picture, Picture], hands: Hands = pipeline.UNTOUCHED) -> CutOut:
    return pipeline.cut_frame(*pair, CutSettings(), hands=hands)[1]


def nearer(picture: Picture) -> Picture:
    return Picture(np.ascontiguousarray(picture.pixels[NEAR.slices]), picture.format)


def touch(*points: tuple[float, float], kind: str = "backdrop", width_px: float = 10, reach: float = 0.0) -> Hands:
    """A stroke through points (down, across) in frame pixels."""
    at = tuple((x / WIDTH, y / HEIGHT) for y, x in points)
    stroke = Touch(kind=kind, points=at, width=width_px / WIDTH, reach=reach)  # type: ignore[arg-type]
    return Hands(touches=TouchSettings(strokes=(stroke,)))


def test_a_small_product_is_cut_as_from_nearer_by(pair: tuple[Picture, Picture]) -> None:
    decision, found = pipeline.cut_frame(*pair, CutSettings())
    assert decision.judgement.verdict is Verdict.CLEAN
    assert np.abs(found.alpha - TRUE).max() < 0.35
    assert np.abs(found.alpha - TRUE).sum() < 0.02 * TRUE.sum()
    _, near = pipeline.cut_frame(nearer(pair[0]), nearer(pair[1]), CutSettings())
    assert np.abs(found.alpha[NEAR.slices] - near.alpha).sum() < 0.01 * TRUE.sum()


def test_its_square_is_as_from_nearer_by(pair: tuple[Picture, Picture], prepared: pipeline.Prepared) -> None:
    spec, treatment = SHIPPED["kiosk-nine"], Treatment()
    outline = decided(prepared).outline
    square = pipeline.finish(pair[0], prepared.backdrop_proxy, outline, treatment, spec)
    close = nearer(pair[0]), nearer(pair[1])
    other = pipeline.prepare(*close)
    expected = pipeline.finish(close[0], other.backdrop_proxy, decided(other).outline, treatment, spec)
    assert square is not None
    assert expected is not None
    off = np.abs(square.astype(float) - expected.astype(float))
    assert off.mean() < 0.5
    assert np.percentile(off, 99) < 8
    assert colour_moved(prepared, outline, treatment, spec, square) < 3


def test_a_camera_that_was_touched_is_followed_there_too() -> None:
    moved = shots((4.0, -3.0), 0.012)
    prepared = pipeline.prepare(*moved)
    assert prepared.close is not None
    assert prepared.close.aligned.corrected
    assert decided(prepared).outline.product.any()
    assert np.abs(cut(moved).alpha - TRUE).sum() < 0.03 * TRUE.sum()


def test_places_and_boxes_are_those_of_the_frame(prepared: pipeline.Prepared) -> None:
    found = decided(prepared).found
    assert found is not None
    box = (MIDDLE[1] - RADIUS, MIDDLE[0] - RADIUS, MIDDLE[1] + RADIUS, MIDDLE[0] + RADIUS)
    assert np.array(found) * (WIDTH, HEIGHT, WIDTH, HEIGHT) == pytest.approx(box, abs=3)
    half = touch((MIDDLE[0], MIDDLE[1] + 52), kind="backdrop", width_px=60, reach=0.0)
    judgement = decided(prepared, half).judgement
    for place in judgement.places:
        assert place.left * WIDTH > MIDDLE[1] - 2 * RADIUS
        assert place.right * WIDTH < MIDDLE[1] + 2 * RADIUS
    assert pipeline.product_on_proxy(prepared, decided(prepared).outline).shape == prepared.evidence.shape
    on_proxy = np.flatnonzero(pipeline.product_on_proxy(prepared, decided(prepared).outline).any(axis=1))
    assert on_proxy[0] * HEIGHT / prepared.evidence.shape[0] == pytest.approx(MIDDLE[0] - RADIUS, abs=4)


def test_levels_are_those_of_the_frame(prepared: pipeline.Prepared) -> None:
    decision = decided(prepared)
    plane = pipeline.levels_of(prepared, decision, "auto")
    assert plane.shape == (round(HEIGHT * LONG_SIDE / WIDTH), LONG_SIDE)
    small = cv2.resize(TRUE.astype(np.float32), plane.shape[::-1], interpolation=cv2.INTER_AREA) > 0.5
    found = product_at(plane, decision.match)
    assert np.count_nonzero(found ^ small) < 0.25 * np.count_nonzero(small)  # a dozen pixels across


def test_touches_lie_where_they_were_made(pair: tuple[Picture, Picture]) -> None:
    """An exact one, to the pixel; and one that teaches, which takes the whole ring."""
    at = (MIDDLE[0], MIDDLE[1] + 52)
    exact = cut(pair, touch(at, width_px=20)).alpha
    around = np.hypot(Y - at[0], X - at[1])
    assert exact[around < 8].max() == 0
    assert np.abs(exact - TRUE)[around > 12].sum() < 0.02 * TRUE.sum()
    taught = cut(pair, touch(at, width_px=20, reach=1.0)).alpha
    assert taught.sum() < 0.1 * TRUE.sum()


def test_product_that_is_touched_elsewhere_is_kept(pair: tuple[Picture, Picture], prepared: pipeline.Prepared) -> None:
    """What is looked at closely does not hold it, so the frame is looked at as a whole."""
    elsewhere = touch((300, 400), kind="product", width_px=80, reach=0.01)
    assert prepared.seen_for(elsewhere).close is None
    outline = decided(prepared, elsewhere).outline
    assert outline.product.shape == prepared.evidence.shape
    scale = outline.product.shape[0] / HEIGHT
    for y, x in ((300, 400), (MIDDLE[0], MIDDLE[1] + 52)):
        assert outline.product[round(y * scale), round(x * scale)]
    assert prepared.seen_for(touch(MIDDLE, kind="product")).close is not None


@pytest.mark.parametrize("anchor", ["frame", "product"])
def test_outlines_drop_the_same_half(pair: tuple[Picture, Picture], anchor: str) -> None:
    half = ((0.0, 0.0), (MIDDLE[1] / WIDTH, 0.0), (MIDDLE[1] / WIDTH, 1.0), (0.0, 1.0))
    if anchor == "product":
        half = ((-0.5, -0.5), (0.5, -0.5), (0.5, 1.5), (-0.5, 1.5))
    hands = Hands(outlines=OutlineSettings(shapes=(Shape(points=half, keep="inside", anchor=anchor),)))  # type: ignore[arg-type]
    found = cut(pair, hands).alpha
    assert found[:, MIDDLE[1] + 3 :].max() == 0
    left = np.abs(found - TRUE)[:, : MIDDLE[1] - 3]
    assert left.sum() < 0.02 * TRUE.sum()


def test_the_edge_moves_by_pixels_of_the_frame(pair: tuple[Picture, Picture]) -> None:
    wider = cut(pair, Hands(edge=EdgeSettings(shift_px=2.0))).alpha
    grown = coverage(RADIUS + 2) - coverage(RADIUS / 2 - 2)
    assert wider.sum() == pytest.approx(grown.sum(), rel=0.02)


def test_only_a_small_product_is_looked_at_closely(pair: tuple[Picture, Picture], prepared: pipeline.Prepared) -> None:
    assert prepared.close is not None
    near = pipeline.prepare(nearer(pair[0]), nearer(pair[1]))
    assert near.close is None
    assert pipeline.prepare(*pair, box=FramingBox(left=0.3, right=0.9)).close is None
    # Where the backdrop frame is there as a proxy only, someone must be able to get it.
    size, proxy = (HEIGHT, WIDTH), pipeline.backdrop_proxy(pair[1])
    assert pipeline.prepare(pair[0], size, proxy).close is None
    assert pipeline.prepare(pair[0], size, proxy, closer=lambda: pair[1]).close is not None
    assert pipeline.is_small(pipeline.prepare(pair[0], size, proxy))
    assert not pipeline.is_small(near)
