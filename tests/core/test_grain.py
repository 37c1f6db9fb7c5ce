"""The backdrop's grain tells backdrop from product by itself, whatever light and shadow lie over it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core.cut.grain import Grain, along_rim, compared, shows_grain

HEIGHT, WIDTH = 320, 480
Y, X = np.mgrid[:HEIGHT, :WIDTH].astype(np.float64)
Planes = tuple[np.ndarray, np.ndarray, np.ndarray]


def disc(y: float, x: float, radius: float) -> np.ndarray:
    return np.asarray(np.hypot(Y - y, X - x) < radius)


def grained(plainly: float, seed: int = 7) -> Planes:
    """Log brightness of a backdrop frame; and against it a take of the same paper, and of something else with such a structure.

    `plainly` is the variance of the paper's grain over that of the noise of one frame; all are as smooth as evidence is.
    """
    rng = np.random.default_rng(seed)

    def smooth(sigma: float) -> np.ndarray:
        plane = cv2.GaussianBlur(rng.standard_normal((HEIGHT, WIDTH)), (0, 0), sigma)
        return np.asarray(plane / plane.std(), np.float32)

    paper, other = (0.004 * np.sqrt(plainly) * smooth(1.5) for _ in range(2))
    bare, take, unlike = (structure + 0.004 * smooth(0.9) for structure in (paper, paper, other))
    return bare.astype(np.float32), (take - bare).astype(np.float32), (unlike - bare).astype(np.float32)


def told(tone: np.ndarray, of: Planes, where: np.ndarray) -> bool | None:
    """What is said of a place in a frame whose rim is bare paper."""
    bare, paper, _ = of
    return shows_grain(tone.astype(np.float32), bare, where, along_rim(paper, bare))


@pytest.mark.parametrize(("plainly", "radius"), [(9.0, 8), (4.0, 12), (3.0, 20)])
def test_the_fainter_the_grain_the_larger_a_place_must_be(plainly: float, radius: int) -> None:
    planes = grained(plainly)
    assert told(planes[1], planes, disc(160, 240, radius)) is True
    assert told(planes[2], planes, disc(160, 240, radius)) is not True
    assert told(planes[2], planes, disc(160, 240, 60)) is False


def test_a_place_that_is_too_small_says_nothing() -> None:
    planes = grained(9.0)
    assert told(planes[1], planes, disc(160, 240, 4)) is None


def test_a_line_that_none_of_the_samples_meets_says_nothing() -> None:
    """Of a large place every other pixel of every other row is looked at, or fewer."""
    plane = np.random.default_rng(1).normal(0, 0.01, (40, 900)).astype(np.float32)
    line = np.zeros(plane.shape, bool)
    line[7] = True
    assert compared(plane, plane, line) is None


def test_chance_hardly_ever_decides() -> None:
    """Many papers and many small places: none that is product passes, and hardly any of paper is refused."""
    passed, refused = 0, 0
    for seed in range(40):
        planes = grained(3.0, seed)
        place = disc(160, 240, 9)
        passed += told(planes[2], planes, place) is True
        refused += told(planes[1], planes, place) is False
    assert passed <= 1
    assert refused <= 1


@pytest.mark.parametrize("lost", [0.2, 0.5, 0.9])
def test_a_steep_shadow_in_a_narrow_gap_hides_nothing(lost: float) -> None:
    """Between two legs light falls off within a few pixels; what is only smoothed away there swamps the grain."""
    planes = grained(6.0)
    gap = (np.abs(X - 240) < 6) & (np.abs(Y - 200) < 40)
    slope = -lost / (1 + np.exp(-(Y - 200) / 9)) - 0.1 * lost * np.abs(X - 240) / 6
    shaded = planes[1] + slope
    assert told(shaded, planes, gap) is True


def test_a_surface_with_shading_of_its_own_is_refused() -> None:
    """As a white mug: smooth shading and a faint pattern, as bright as the paper."""
    planes = grained(6.0)
    body = disc(160, 240, 60)
    pattern = 0.02 * np.sin(X / 7) * np.sin(Y / 9) + 0.05 * ((X - 240) / 60) ** 2
    assert told(pattern - planes[0], planes, body) is False


def test_of_a_place_that_is_half_paper_nothing_is_said() -> None:
    planes = grained(6.0)
    half = np.where(X < 240, planes[1], planes[2])
    assert told(half, planes, disc(160, 240, 60)) is None


@pytest.mark.parametrize(("seen", "answer"), [(0.9, True), (0.4, None), (0.0, False)])
def test_how_much_of_the_grain_is_asked_for(seen: float, answer: bool | None) -> None:
    """Behind a thick veil of light there is less of it, relative to all of the light."""
    planes = grained(20.0)
    veiled = seen * (planes[1] + planes[0]) + (1 - seen) * (planes[2] + planes[0]) * 0.3 - planes[0]
    assert told(veiled, planes, disc(160, 240, 50)) is answer


def test_a_backdrop_without_grain_tells_nothing() -> None:
    rng = np.random.default_rng(1)
    noise = [cv2.GaussianBlur(rng.normal(0, 0.004, (HEIGHT, WIDTH)), (0, 0), 0.9).astype(np.float32) for _ in range(2)]
    assert along_rim(noise[0] - noise[1], noise[1]) is None
    assert along_rim(noise[0], np.zeros_like(noise[0])) is None
    assert shows_grain(noise[0], noise[1], disc(160, 240, 50), None) is None


def test_likely_backdrop_needs_less_proof_than_any_other_place() -> None:
    bare, paper, _ = grained(6.0)
    on_bare = along_rim(paper, bare)
    answers = dict.fromkeys((False, True), 0)
    for x in range(100, 400, 12):
        for likely in answers:
            answers[likely] += shows_grain(paper, bare, disc(160, x, 5.2), on_bare, likely=likely) is True
    assert answers[True] > answers[False]


def test_light_of_second_degree_is_taken_away_whole() -> None:
    """Whatever the shape of the place: only the grain is left, and it is all there."""
    bare, _, _ = grained(50.0)
    light = 0.3 - 0.002 * X + 0.001 * Y + 1e-5 * (X - 200) ** 2 - 2e-5 * (X - 200) * (Y - 100) + 3e-5 * (Y - 100) ** 2
    for place in (disc(160, 240, 20), (np.abs(X - Y) < 5) & (X < 200), (X < 90) & (Y < 3)):
        found = compared(light.astype(np.float32), bare, place)
        assert found is not None
        assert found.again == pytest.approx(1, abs=0.01)
        assert found.explained > 0.98


def test_what_is_left_is_that_of_a_weighted_least_squares_fit() -> None:
    """Against NumPy's own solver, one pixel after another (normalized convolution, Knutsson and Westin 1993)."""
    bare, _, unlike = grained(6.0)
    place = (np.abs(X - 240) < 8) & (np.abs(Y - 160) < 8)
    rows, columns = np.nonzero(place)
    left: list[list[float]] = [[], []]
    for y, x in zip(rows, columns, strict=True):
        near = place & (np.abs(Y - y) <= 7) & (np.abs(X - x) <= 7)
        across, down = (X[near] - x) / 4, (Y[near] - y) / 4
        basis = np.stack([np.ones_like(across), across, down, across**2, across * down, down**2], axis=1)
        root = np.exp(-(across**2 + down**2) / 4)[:, None]
        for k, plane in enumerate((bare, unlike + bare)):
            surface = np.linalg.lstsq(root * basis, root[:, 0] * plane[near], rcond=None)[0]
            left[k].append(float(plane[y, x] - surface[0]))
    one, other = np.array(left)
    # All pixels of so small a place are asked, every other one of a larger.
    assert len(one) < 300
    found = compared(unlike, bare, place)
    assert isinstance(found, Grain)
    assert found.again == pytest.approx(one @ other / (one @ one), abs=0.01)
    assert found.explained == pytest.approx((one @ other) ** 2 / ((one @ one) * (other @ other)), abs=0.01)
