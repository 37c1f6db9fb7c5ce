"""An opening that hangs together with product as light as itself: the opening is backdrop, and the product around it stays."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, cut, photographed
from tests.scenes import Scene
from true_backdrop.core.cut.as_lit import parts_as_lit
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.hole_criteria import HoleCriteria
from true_backdrop.core.cut.holes import holes
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Picture
from true_backdrop.core.prepare import prepare

#: A body with a handle on its right, and what the handle goes round.
BODY = (np.abs(X - 300) < 110) & (np.abs(Y - 230) < 130)
AROUND = np.hypot((X - 410) / 95, (Y - 230) / 90)
HANDLE = (AROUND < 1) & (AROUND > 0.76) & (X > 405)
OPENING = (AROUND < 0.72) & (X > 416)
#: Paper's light.
PAPER = 0.7


def _cup(*, body: float = 0.25, shadow: float = 0.0, seed: int = 1) -> Scene:
    """A cup before paper without grain, so much lighter than that (log units), whose handle turns from as light to dark; with a
    shadow in the lower half of what it goes round."""
    alpha = cv2.GaussianBlur((BODY | HANDLE).astype(np.float32), (0, 0), 0.8)
    turned = np.clip((X - 410) / 90, 0, 1)
    tone = np.where(BODY, body, body - (body + 0.9) * turned) - 0.06 * np.abs((X - 300) / 110) ** 2 * BODY
    colour = PAPER * np.exp(tone)[..., None] * np.array([1.0, 0.99, 0.98])
    dark = np.exp(-shadow * np.exp(-(((X - 440) / 60) ** 2)) / (1 + np.exp(-(Y - 240) / 12)))
    return photographed(alpha, colour, shadow=dark, seed=seed, noise=0.004)


@pytest.mark.parametrize("body", [0.25, -0.2, 0.1])
@pytest.mark.parametrize("match", [30, 50, 70])
def test_what_a_handle_goes_round_is_backdrop_and_the_handle_is_not(body: float, match: int) -> None:
    made = _cup(body=body)
    prepared = prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    busy = prepared.seen.busy
    product = busy.on_proxy(busy.decide(match, "auto"))
    opening, dark = (cv2.resize(mask.astype(np.uint8), product.shape[::-1]) > 0 for mask in (OPENING, HANDLE & (X > 470)))
    assert product[opening].mean() < 0.05
    assert product[dark].mean() > 0.9


def test_backdrop_goes_on_into_the_shadow_in_it() -> None:
    _, alpha = cut(_cup(shadow=0.25))
    assert alpha[OPENING].mean() < 0.03
    assert alpha[HANDLE & (X > 470)].mean() > 0.95


def _evidence(tone: np.ndarray, bare: float = -0.4) -> Evidence:
    """Neutral, without steps or grain, of such a tone (H, W) and hardly any noise."""
    flat = np.zeros(SIZE, np.float32)
    tone = (tone + np.random.default_rng(1).normal(0, 0.003, SIZE)).astype(np.float32)
    relief = np.zeros((*SIZE, 3), np.uint8)
    return Evidence(tone, flat, flat, flat, relief, np.full(SIZE, bare, np.float32), 0.0, 0.003, max(SIZE))


def _parts(tone: np.ndarray, *, bare: float = -0.4) -> list[np.ndarray]:
    """Parts (H, W) of a place that is all of the body and the opening, of such a tone (H, W)."""
    evidence, flat = _evidence(tone, bare), np.zeros(SIZE, np.float32)
    whole = slice(0, SIZE[0]), slice(0, SIZE[1])
    found = []
    for here, part in parts_as_lit(evidence, whole, BODY | OPENING, flat, np.zeros(SIZE, bool)):
        mask = np.zeros(SIZE, bool)
        mask[here] = part
        found.append(mask)
    return found


def test_a_part_as_light_as_the_backdrop_that_ends_in_a_step_is_found() -> None:
    tone = np.where(OPENING, 0.0, np.where(BODY, 0.15, -0.5))
    (part, *_) = _parts(tone)
    assert part[OPENING].mean() > 0.8
    assert part[~OPENING].mean() == 0


def test_shading_that_crosses_the_backdrops_tone_is_no_part() -> None:
    """A broad band of the body has the backdrop's light, and goes over into darker and lighter without a step."""
    assert not _parts(np.where(OPENING, -0.3, (X - 300) * 0.0012))


def test_nothing_is_told_where_the_backdrop_is_blown_out() -> None:
    assert not _parts(np.where(OPENING, 0.0, np.where(BODY, 0.15, -0.5)), bare=-0.01)


def test_a_place_that_is_backdrop_all_over_has_no_parts() -> None:
    assert not _parts(np.zeros(SIZE))


def test_of_a_product_said_to_be_clear_no_part_is_asked_by_itself() -> None:
    """What is as light as the backdrop there may be glass."""
    evidence = _evidence(np.where(OPENING, 0.0, np.where(BODY, 0.15, -0.5)))
    nothing, neck = np.zeros(SIZE, bool), (X > 400) & (X < 425) & (np.abs(Y - 230) < 4)
    limits = Tolerances.of(50, evidence.noise, evidence.long_side)
    for material, opens in (("auto", True), ("clear", False)):
        criteria = HoleCriteria(evidence, limits, 0.01, np.zeros(SIZE, np.float32), material)
        assert (holes(criteria, BODY | OPENING | neck, nothing)[OPENING].mean() > 0.8) == opens


@pytest.mark.parametrize(("of_the_whole", "of_a_part", "open_"), [(False, None, False), (False, True, True), (None, None, True)])
def test_a_part_of_what_lacks_the_backdrops_grain_opens_only_if_it_shows_it(
    of_the_whole: bool | None, of_a_part: bool | None, open_: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of the white of an eye a small part did not lack it by chance."""
    place = np.hypot(X - 360, Y - 240) < 40
    half = place & (X < 360)
    made = photographed(np.zeros(SIZE), np.zeros((*SIZE, 3)))
    evidence = prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    criteria = HoleCriteria(evidence, Tolerances.of(50, evidence.noise), 0.001, np.zeros(SIZE, np.float32), "auto")
    whole = int(np.count_nonzero(place) * 0.75)
    monkeypatch.setattr(HoleCriteria, "opens", lambda _, here, part: bool(np.count_nonzero(part) < whole))
    monkeypatch.setattr(
        HoleCriteria, "shown", lambda _, here, part: of_the_whole if np.count_nonzero(part) > whole else of_a_part
    )
    everywhere = (slice(0, SIZE[0]), slice(0, SIZE[1]))
    monkeypatch.setattr("true_backdrop.core.cut.holes.parts_as_lit", lambda *_: [(everywhere, half)])
    monkeypatch.setattr("true_backdrop.core.cut.holes._shaded", lambda *_: np.zeros(_[2].shape, bool))
    assert holes(criteria, place, np.zeros(SIZE, bool))[half & (X > 330)].all() == open_
