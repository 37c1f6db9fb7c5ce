"""Pale product beside the outline that passes for backdrop, but for a faint hue of its own: that is asked about."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from tests.core.test_rim_beyond import EMPTY, PANEL, RED
from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.faint_hue import _MATCHES, of_another_hue, parts_of_another_hue
from true_backdrop.core.cut.hue_doubt import hue_beside
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

#: A plate that stands out to the right of a red panel.
PLATE = (X >= 540) & (X < 556) & (Y >= 150) & (Y < 300)
VIOLET, NEUTRAL, RATHER_RED = (np.array(each) for each in ((0.985, 0.97, 1.01), (0.98, 0.98, 0.98), (1.02, 0.975, 0.975)))


def _photographed(plate: np.ndarray, where: np.ndarray = PLATE, *, noise: float = 0.006, depth: float = 0.0) -> Evidence:
    """The panel and a plate with such a part (3,) of the backdrop's light, both in a shadow of such a depth (log units)."""
    light = np.exp(-depth)
    shadow = np.where(np.abs(X - 420) < 280, light, 1.0) if depth else np.ones(SIZE)
    colour = np.where(PANEL[..., None], RED, plate * light * EMPTY)
    made = photographed((PANEL | where).astype(float), colour, noise=noise, shadow=shadow)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence


def _found(evidence: Evidence, product: np.ndarray = PANEL) -> float:
    """How much of the plate is found, all of which lies in it or where it borders on the backdrop."""
    found = of_another_hue(evidence, product)
    near_it = (X >= 536) & (X < 564) & (Y >= 142) & (Y < 308)
    assert not (found & ~near_it).any()
    return float(np.count_nonzero(found & PLATE) / np.count_nonzero(PLATE))


def test_a_lost_plate_is_found_by_its_hue() -> None:
    assert _found(_photographed(VIOLET)) > 0.5


def test_a_whole_product_has_nothing_of_another_hue_beside_it() -> None:
    assert _found(_photographed(VIOLET), PANEL | PLATE) == 0


@pytest.mark.parametrize("plate", [NEUTRAL, RATHER_RED], ids=["no hue", "what the panel throws"])
def test_no_hue_and_the_products_own_say_nothing(plate: np.ndarray) -> None:
    assert _found(_photographed(plate)) == 0


def test_in_more_noise_more_is_needed() -> None:
    assert _found(_photographed(VIOLET, noise=0.06)) == 0


def test_in_a_shadow_more_is_needed_and_in_a_deep_one_nothing_is_asked() -> None:
    fainter = 0.65 * (VIOLET - 1) + 1
    assert _found(_photographed(fainter, depth=0.1)) < 0.2 < 0.4 < _found(_photographed(fainter))
    assert _found(_photographed(VIOLET, depth=0.1)) > 0.4
    assert _found(_photographed(VIOLET, depth=0.25)) == 0


def test_what_is_small_is_chance() -> None:
    tiny = PLATE & (np.abs(Y - 200) < 3) & (X < 551)
    assert _found(_photographed(VIOLET, tiny)) == 0


def test_where_colour_is_coarser_than_light_it_spreads_over_edges_and_says_nothing() -> None:
    """As in a small JPEG file, where blocks of sixteen pixels have one colour, more or less."""
    evidence = _photographed(VIOLET)
    light = evidence.relief.astype(np.float32)
    level = light.mean(axis=2, keepdims=True)
    smooth = cv2.GaussianBlur(light - level, (0, 0), 2.0)
    coarse = replace(evidence, relief=np.clip(level + smooth + 0.5, 0, 255).astype(np.uint8))
    assert _found(evidence) > 0.5 and _found(coarse) == 0


def test_what_is_brighter_than_the_backdrop_is_told_by_that() -> None:
    assert _found(_photographed(1.15 * VIOLET)) == 0


def test_what_is_farther_away_may_be_anything() -> None:
    spot = (np.abs(X - 576) < 10) & (np.abs(Y - 220) < 10)
    assert not of_another_hue(_photographed(VIOLET, spot), PANEL).any()


def test_where_hardly_any_backdrop_is_seen_around_nothing_can_be_said() -> None:
    evidence, box = _photographed(VIOLET), (slice(105, 200), slice(180, 559))
    assert not of_another_hue(evidence.part(box), PANEL[box]).any()


def test_without_bare_backdrop_around_nothing_can_be_said() -> None:
    evidence, box = _photographed(VIOLET), (slice(105, 355), slice(180, 552))
    assert not of_another_hue(evidence.part(box), PANEL[box]).any()


#: A strip of the table below the panel that a stricter match takes for product.
STRIP = (X >= 200) & (X < 520) & (Y >= 355) & (Y < 375)


def _added(more: dict[int, np.ndarray], product: np.ndarray = PANEL) -> tuple[np.ndarray, list[int]]:
    """What of the panel with a lost plate is added, where other matches have so much more; and which of these were decided."""
    asked = []

    def at_match(match: int) -> np.ndarray:
        asked.append(match)
        return product | more[match]

    return parts_of_another_hue(_photographed(VIOLET), product, at_match), asked


def test_a_part_that_a_stricter_match_has_and_its_hue_tells_is_added() -> None:
    added, asked = _added({70: PLATE | STRIP})
    assert (added == PLATE).all() and asked == [70]


def test_a_still_stricter_match_and_then_a_looser_one_are_asked_for_what_the_first_leaves() -> None:
    added, asked = _added({70: STRIP, 85: PLATE})
    assert (added == PLATE).all() and asked == [70, 85]
    added, asked = _added({70: STRIP, 85: STRIP, 30: PLATE})
    assert (added == PLATE).all() and asked == [70, 85, 30]


@pytest.mark.parametrize("match", _MATCHES[:2])
def test_they_are_stricter_than_the_middle(match: int) -> None:
    """Of backdrop: what counts as such is less."""
    usual, strict = (Tolerances.of(at, 0.005) for at in (50, match))
    assert strict.tint < usual.tint and strict.step < usual.step


def test_of_what_was_saved_coarsely_nothing_is_told() -> None:
    coarse = replace(_photographed(VIOLET), rounding=0.006)
    assert not parts_of_another_hue(coarse, PANEL, lambda _: PANEL | PLATE).any()
    assert of_another_hue(coarse, PANEL).any()


def test_what_is_many_times_as_large_is_not_told_by_it() -> None:
    wide = ~PANEL & (Y > 100) & (X > 100)
    assert not _added({70: wide, 85: wide, 30: wide})[0].any()


def test_without_such_a_hue_no_other_match_is_decided() -> None:
    added, asked = _added({}, PANEL | PLATE)
    assert not added.any() and asked == []


def test_they_are_added_when_a_cut_is_decided(monkeypatch: pytest.MonkeyPatch) -> None:
    busy = _decided(PANEL).busy
    monkeypatch.setattr("true_backdrop.core.cut.region.decide", lambda *_: busy.of_proxy(PANEL | PLATE))
    plate = busy.of_proxy(PLATE)
    assert busy.completed(busy.of_proxy(PANEL), "auto")[plate].mean() > 0.95
    for material in ("strands", "clear"):
        assert busy.completed(busy.of_proxy(PANEL), material)[plate].mean() < 0.5


def _decided(product: np.ndarray) -> Decided:
    made = photographed((PANEL | PLATE).astype(float), np.where(PANEL[..., None], RED, VIOLET * EMPTY))
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    return Decided(product, product, product, np.zeros(SIZE, bool), 50, 0.0, prepared.busy, product)


def test_it_is_asked_about_with_its_place_but_not_where_somebody_has_touched_or_the_product_is_clear() -> None:
    decided = _decided(PANEL)
    ((said, (place,)),) = hue_beside(decided)[0]
    assert "faint hue" in said and "right side" in said
    assert place.left > 0.7
    assert hue_beside(replace(decided, at_match=PANEL | PLATE)) == ([], 0.0)
    assert hue_beside(replace(decided, clear=True)) == ([], 0.0)
    assert hue_beside(_decided(PANEL | PLATE)) == ([], 0.0)
    assert hue_beside(replace(decided, busy=replace(decided.busy, patterned=True))) == ([], 0.0)


def test_the_verdict_asks_about_it(monkeypatch: pytest.MonkeyPatch) -> None:
    made = scene()
    frames = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    assert pipeline.cut_frame(*frames, CutSettings())[0].judgement.verdict is Verdict.CLEAN
    monkeypatch.setattr("true_backdrop.core.cut.hue_doubt.of_another_hue", lambda _, product: product)
    judgement = pipeline.cut_frame(*frames, CutSettings())[0].judgement
    assert judgement.verdict is Verdict.LOOK_AGAIN and "faint hue" in judgement.reasons[0] and judgement.places
