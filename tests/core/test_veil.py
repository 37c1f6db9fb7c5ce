"""Strands as light as the backdrop, told by their colour alone; and print in one colour, which is none."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_among_strands import head
from tests.scenes import OVER, Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.band import _signed_distance
from true_backdrop.core.cut.veil import _told, open_by_colour, veil
from true_backdrop.core.cut.woven import woven
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE = (480, 720)
PAPER, PINK = np.array([0.62, 0.62, 0.61]), np.array([0.86, 0.42, 0.58])
BODY = (270, 180, 450, 300)


def _small(big: np.ndarray) -> np.ndarray:
    return np.asarray(big.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3)) / 255)


def _body(big: np.ndarray) -> None:
    cv2.rectangle(big, (BODY[0] * OVER, BODY[1] * OVER), (BODY[2] * OVER - 1, BODY[3] * OVER - 1), 255, -1)


def _fringe(seed: int, lengths: tuple[int, int] = (40, 110)) -> np.ndarray:
    """Cover (H, W) of a cloth with 110 threads of some lengths below it, 1.4 pixels wide."""
    rng, big = np.random.default_rng(seed), np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    _body(big)
    for x in np.linspace(BODY[0] + 1, BODY[2] - 1, 110):
        tip = x + rng.normal(0, 9), BODY[3] + rng.uniform(*lengths)
        ends = [tuple(int(v * OVER) for v in point) for point in ((x, BODY[3] - 3), tip)]
        cv2.line(big, ends[0], ends[1], 255, round(1.4 * OVER))
    return _small(big)


def _photographed(alpha: np.ndarray, colour: np.ndarray, seed: int, noise: float = 0.004) -> Scene:
    rng = np.random.default_rng(seed)
    light = alpha[..., None] * colour + (1 - alpha[..., None]) * PAPER
    bare = np.broadcast_to(PAPER, light.shape)
    frame, empty = (_encode(each * (1 + rng.normal(0, noise, each.shape))) for each in (light, bare))
    return Scene(frame, empty, alpha)


def _pictures(made: Scene) -> tuple[Picture, Picture]:
    return Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")


@pytest.fixture(scope="module")
def fringe() -> Scene:
    alpha = _fringe(4)
    brightness = np.exp(0.15 * cv2.GaussianBlur(np.random.default_rng(1).normal(0, 12, SIZE), (0, 0), 12))
    return _photographed(alpha, PINK * brightness[..., None], 4)


def test_how_much_backdrop_is_seen_is_told_whatever_the_threads_brightness(fringe: Scene) -> None:
    """The colour's brightness changes by a fifth from place to place; the share that is seen does not."""
    evidence = pipeline.prepare(*_pictures(fringe)).evidence
    half = cv2.resize(fringe.alpha.astype(np.float32), (SIZE[1] // 2, SIZE[0] // 2), interpolation=cv2.INTER_AREA)
    threads = np.zeros(half.shape, bool)
    threads[BODY[3] // 2 + 4 : BODY[3] // 2 + 20, BODY[0] // 2 + 4 : BODY[2] // 2 - 4] = True
    seen = veil(evidence, threads, np.zeros(half.shape, np.float32))
    assert seen.tells[threads].mean() > 0.98
    assert np.corrcoef(seen.share[threads], 1 - half[threads])[0, 1] > 0.9
    # No pixel is covered wholly, so that the purest colour around is a mixture, and a little less is seen than there is.
    assert -0.16 < float((seen.share[threads] - (1 - half[threads])).mean()) < 0.02


def test_between_threads_of_a_fringe_the_backdrop_goes_and_the_cloth_stays(fringe: Scene) -> None:
    alpha = pipeline.cut_frame(*_pictures(fringe), CutSettings())[1].alpha
    threads = np.zeros(SIZE, bool)
    threads[BODY[3] + 4 : BODY[3] + 40, BODY[0] : BODY[2]] = True
    gaps = threads & (fringe.alpha < 0.3)
    assert gaps.sum() > 500
    assert np.abs(alpha - fringe.alpha)[gaps].mean() < 0.12
    cloth = np.zeros(SIZE, bool)
    cloth[BODY[1] + 3 : BODY[3] - 6, BODY[0] + 3 : BODY[2] - 3] = True
    assert (alpha[cloth] < 0.9).mean() < 0.002


def test_threads_cut_to_one_length_could_be_cloth_until_somebody_says_strands() -> None:
    made = _photographed(_fringe(7, (70, 71)), PINK * np.ones((*SIZE, 1)), 7)
    evidence = pipeline.prepare(*_pictures(made)).evidence
    around = np.zeros(SIZE, bool)
    around[BODY[1] : BODY[3] + 70, BODY[0] : BODY[2]] = True
    signed, level, nothing = _signed_distance(around), np.zeros(SIZE, np.float32), np.zeros(SIZE, bool)
    threads = np.zeros(SIZE, bool)
    threads[BODY[3] + 6 : BODY[3] + 60, BODY[0] + 10 : BODY[2] - 10] = True
    between = threads & (made.alpha < 0.5)
    found = [open_by_colour(evidence, signed, signed, level, nothing, said=said) for said in (False, True)]
    assert not found[0].any()
    assert found[1][between].mean() > 0.8
    assert not found[1][BODY[1] : BODY[3] - 20].any()


@pytest.mark.parametrize("wave", [5.0, 9.0])
def test_stripes_of_the_backdrop_s_own_colour_are_no_gaps_where_the_outline_is_firm(wave: float) -> None:
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    _body(big)
    x, y = np.arange(SIZE[1]), np.arange(SIZE[0])[:, None]
    pale = np.clip(0.5 + 1.5 * np.sin(2 * np.pi * (x + 0.4 * y) / wave), 0, 1)[..., None]
    made = _photographed(_small(big), PINK * (1 - pale) + 0.9 * PAPER * pale, 2)
    alpha = pipeline.cut_frame(*_pictures(made), CutSettings())[1].alpha
    assert (alpha[made.alpha > 0.99] < 0.9).mean() < 0.05


def test_without_another_colour_nothing_is_told() -> None:
    alpha = _fringe(5)
    made = _photographed(alpha, 0.4 * PAPER * np.ones((*SIZE, 1)), 5)
    evidence = pipeline.prepare(*_pictures(made)).evidence
    signed = _signed_distance(cv2.morphologyEx((alpha > 0.1).astype(np.uint8), cv2.MORPH_CLOSE, np.ones((9, 9))) > 0)
    level, nothing = np.zeros(signed.shape, np.float32), np.zeros(signed.shape, bool)
    assert not veil(evidence, signed[::2, ::2] > 0, level[::2, ::2]).tells.any()
    assert not open_by_colour(evidence, signed, signed, level, nothing).any()


def test_a_product_of_nothing_but_fringe_is_asked_about_and_hair_on_a_head_is_not(fringe: Scene) -> None:
    alpha = fringe.alpha.copy()
    alpha[: BODY[3] - 6] = 0
    for made, asked in ((_photographed(alpha, PINK * np.ones((*SIZE, 1)), 4), True), (head(), False)):
        decided, _ = pipeline.cut_frame(*_pictures(made), CutSettings())
        assert any("print or weave" in reason for reason in decided.judgement.reasons) == asked


def test_what_is_cut_as_strands_along_a_firm_outline_may_be_print_and_hair_is_not() -> None:
    """Of a square with straight sides, and of a head of hair, what is near the outline is said to be strands, or hardly any."""
    prepared = pipeline.prepare(*_pictures(head()))
    match, square = pipeline.propose_match(prepared, CutSettings()), np.zeros(SIZE, bool)
    square[BODY[1] : BODY[3], BODY[0] : BODY[2]] = True
    outline = pipeline.outline_at(prepared, match.match, "auto")
    decided = pipeline._decided(prepared, "auto", (outline, square, square), match.match, match)
    for product, asked in ((square, True), (head().alpha > 0.3, False)):
        deep = cv2.distanceTransform(product.astype(np.uint8), cv2.DIST_L2, 5)
        for reach, some in ((12, asked), (1.2, False)):
            strands = product & (deep < reach)
            held = replace(decided, product=product, strands=strands, open=None, veiled=None)
            assert bool(woven(held)[0]) is some


def _net(width: int, cell: int) -> tuple[np.ndarray, np.ndarray]:
    """Cover (H, W) of a net of crossing bars, and what it is taken for: filled, but for the ends of the bars."""
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    body = tuple(v * OVER for v in (200, 120, 520, 360))
    for at in range(-400, 800, cell):
        for slope in (1, -1):
            ends = (200 + at) * OVER, (120 if slope > 0 else 360) * OVER
            cv2.line(big, ends, (ends[0] + 240 * OVER, ends[1] + slope * 240 * OVER), 255, width * OVER)
    inside = np.zeros_like(big)
    cv2.rectangle(inside, body[:2], (body[2] - 1, body[3] - 1), 255, -1)
    cover = _small(cv2.bitwise_and(big, inside))
    return cover, (cover > 0.5) | (cv2.erode(_small(inside), np.ones((41, 41), np.uint8)) > 0.5)


def _veiled(cover: np.ndarray, product: np.ndarray, colour: np.ndarray) -> np.ndarray:
    evidence = pipeline.prepare(*_pictures(_photographed(cover, colour, 5))).evidence
    distance = _signed_distance(product)
    nothing = np.zeros(SIZE, bool)
    return open_by_colour(evidence, distance, distance, np.zeros(SIZE, np.float32), nothing)


def test_wide_meshes_of_a_net_are_open_to_their_middle() -> None:
    """What is as the backdrop is not for colour to say if it is broad; but not even white product floats in a mesh."""
    cover, product = _net(width=5, cell=34)
    open_there = _veiled(cover, product, PINK)
    meshes = cv2.erode((cover < 0.02).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    inner = meshes & (cv2.erode(product.astype(np.uint8), np.ones((31, 31), np.uint8)) > 0)
    assert inner.sum() > 3000
    assert open_there[inner].mean() > 0.97


def test_of_firm_bars_a_lens_shows_a_part_of_the_backdrop_along_their_edges_only() -> None:
    """But for a speck here and there: their mask is theirs already; half the size of the proxy, in distances of whole pixels."""
    across = np.abs((np.arange(360) - 20) % 16 - 8)
    depth = np.broadcast_to(np.float32(2) * (7 - across).astype(np.float32), (240, 360)).copy()
    found = []
    for farther in (2.5, 6.0):
        share = np.where((depth > 0) & (depth < farther), np.float32(0.5), np.float32(0))
        share[::20, 10::20] = 0.5
        found.append(bool(_told(np.ones((120, 180), bool), share, depth > 1.5, depth, 720).any()))
    assert found == [False, True]


@pytest.mark.parametrize(("seen", "told"), [(0.9, True), (0.25, False)], ids=["meshes", "a paler weave"])
def test_where_bars_are_told_the_backdrop_is_seen_plainly_somewhere(seen: float, told: bool) -> None:
    """At the edge a lens shows a part of the backdrop of cloth and of bars alike; half the size of the proxy."""
    y, x = np.mgrid[:240, :360]
    depth = np.float32(2) * np.minimum(np.minimum(y - 40, 199 - y), np.minimum(x - 60, 299 - x)).astype(np.float32)
    share = np.where((depth > 12) & (x % 4 < 2) & (y % 4 < 2), np.float32(seen), np.float32(0))
    share[(depth > 0) & (depth < 4)] = 0.5
    zone = depth > 1.5
    good = cv2.resize(zone.astype(np.uint8), (180, 120), interpolation=cv2.INTER_AREA) > 0
    assert bool(_told(good, share.astype(np.float32), zone, depth, 720).any()) is told
