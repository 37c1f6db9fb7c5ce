"""Small signs of a wrong outline: one of them is usual, several are worth a look."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, photographed
from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.small_signs import WORTH_A_LOOK, Sign, signs_of, small_signs
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.later import Later
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, Hands, Touch, TouchSettings

PURPLE = np.array([0.10, 0.05, 0.28])
KEPT, MOVES = "a stricter match would keep a little more", "the outline moves a little with backdrop match"


STEEL = 0.71 * np.exp(-0.5) * np.array([1.0, 0.99, 0.97])
BALL = _disc(360, 240, 120)


def _prepared(wide: int) -> pipeline.Prepared:
    """A purple ball, and at its right a grey plate that stands out so many pixels."""
    plate = ((X > 440) & (480 + wide > X) & (np.abs(Y - 240) < 40)).astype(float)
    surface = np.where(BALL[..., None] > 0.5, PURPLE, STEEL)
    made = photographed(np.maximum(BALL, plate), surface, noise=0.003)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))


@pytest.fixture(scope="module")
def ball() -> pipeline.Prepared:
    return _prepared(0)


@pytest.fixture(scope="module")
def both() -> pipeline.Prepared:
    return _prepared(20)


def _decided(prepared: pipeline.Prepared) -> tuple[Evidence, Decided]:
    """The ball alone, and with its plate at a stricter match."""
    whole = pipeline.product_at(prepared, 50, "auto")
    alone = whole & (BALL > 0.5)
    decided = Decided(alone, alone, alone, whole & ~alone, 50, 0.001, prepared.busy, alone, stricter=whole)
    return prepared.evidence, decided


def amounts(evidence: Evidence, decided: Decided) -> dict[str, float]:
    return {sign.said: sign.amount for sign in signs_of(evidence, decided)}


def test_a_plain_cut_shows_hardly_any(ball: pipeline.Prepared) -> None:
    assert sum(amounts(*_decided(ball)).values()) < WORTH_A_LOOK / 4
    assert small_signs(*_decided(ball)) == ([], 0.0)


def test_one_alone_is_never_enough_and_two_are(both: pipeline.Prepared) -> None:
    evidence, decided = _decided(both)
    doubtful = replace(decided, unrest=0.01)
    signs = {sign.said: sign for sign in signs_of(evidence, doubtful)}
    assert signs[KEPT].amount > 20 and signs[KEPT].counts < WORTH_A_LOOK
    assert signs[KEPT].counts + signs[MOVES].counts > WORTH_A_LOOK
    ((said, at),) = small_signs(evidence, doubtful)[0]
    assert KEPT in said and MOVES in said and at


def test_many_small_ones_are_all_told(both: pipeline.Prepared, monkeypatch: pytest.MonkeyPatch) -> None:
    evidence, decided = _decided(both)
    signs = [Sign(f"sign {number}", amount, decided.moving) for number, amount in enumerate((1.0, 1.1, 0.9, 0.3, 1.0, 0.95))]
    monkeypatch.setattr("true_backdrop.core.cut.small_signs.signs_of", lambda *_: signs)
    ((said, _),) = small_signs(evidence, decided)[0]
    assert ": sign 1, sign 0, sign 4, sign 5 and sign 2;" in said


def test_a_part_more_counts_by_its_area_and_thin_lines_do_not() -> None:
    found = [_decided(_prepared(wide)) for wide in (3, 20, 40)]
    areas = [np.count_nonzero(decided.stricter & ~decided.product) for _, decided in found if decided.stricter is not None]
    thin, narrow, broad = (amounts(*decided)[KEPT] for decided in found)
    assert thin == 0 < areas[0]
    assert broad / narrow == pytest.approx(areas[2] / areas[1], rel=0.1)


def test_a_shadow_that_a_stricter_match_keeps_is_no_part() -> None:
    depth = 0.3 * np.exp(-(((X - 405) / 40) ** 2 + ((Y - 335) / 25) ** 2))
    made = photographed(_disc(300, 240, 120), np.broadcast_to(PURPLE, (*SIZE, 3)), noise=0.003, shadow=np.exp(-depth))
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    evidence, decided = _decided(prepared)
    in_shadow = decided.product | (cv2.resize(depth, evidence.shape[::-1], interpolation=cv2.INTER_AREA) > 0.15)
    assert np.count_nonzero(in_shadow & ~decided.product) > 500
    assert amounts(evidence, replace(decided, stricter=in_shadow))[KEPT] == 0


def test_an_outline_that_moves_one_way_only_rests(both: pipeline.Prepared) -> None:
    """A stricter match that changes nothing says that this one is strict enough."""
    evidence, decided = _decided(both)
    one, two = (
        amounts(evidence, replace(decided, looser=decided.stricter, stricter=other))[MOVES]
        for other in (decided.product, decided.stricter)
    )
    assert one < 0.5 < 1 < two


def test_what_was_touched_or_is_clear_is_not_asked_about(both: pipeline.Prepared) -> None:
    evidence, decided = _decided(both)
    doubtful = replace(decided, unrest=0.01)
    assert small_signs(evidence, doubtful)[0]
    touched = decided.product.copy()
    touched[:, : touched.shape[1] // 2] = False
    for settled in (replace(doubtful, product=touched), replace(doubtful, clear=True)):
        assert small_signs(evidence, settled) == ([], 0.0)


def test_they_make_a_verdict_where_nothing_else_does_until_somebody_looks(
    ball: pipeline.Prepared, both: pipeline.Prepared, monkeypatch: pytest.MonkeyPatch
) -> None:
    settings = CutSettings()
    monkeypatch.setattr("true_backdrop.core.cut.small_signs.WORTH_A_LOOK", 2.0)
    proposal = pipeline.propose_match(ball, settings)
    assert pipeline.decide_cut(ball, settings, proposal).judgement.verdict is Verdict.CLEAN
    shaky = replace(proposal, unrest=0.01)
    judged = pipeline.decide_cut(ball, settings, shaky).judgement
    assert judged.verdict is Verdict.LOOK_AGAIN
    assert [reason.split(",")[0] for reason in judged.reasons] == ["small signs add up"]
    stroke = Touch(kind="product", points=((0.66, 0.5), (0.675, 0.5)), width=0.02, reach=0.0)
    hands = Hands(touches=TouchSettings(strokes=(stroke,)))
    assert pipeline.decide_cut(ball, settings, shaky, hands).judgement.verdict is Verdict.CLEAN
    # Where the plate was left out there is a plainer reason.
    decided, whole = _decided(both)[1], pipeline.product_at(both, 50, "auto")
    alone, packed = (np.packbits(both.busy.of_proxy(mask)) for mask in (decided.product, whole))
    without = replace(
        pipeline.propose_match(both, settings), match=50, packed=alone, unrest=0.01, tried=((50, alone), (70, packed))
    )
    reasons = pipeline.decide_cut(both, settings, without).judgement.reasons
    assert reasons and not any(reason.startswith("small signs") for reason in reasons)


AS_STRANDS = "a part is cut as strands that nobody named"


def test_strands_that_nobody_named_count_by_their_area(ball: pipeline.Prepared) -> None:
    evidence, decided = _decided(ball)
    assert AS_STRANDS not in amounts(evidence, decided)
    part = decided.product.copy()
    part[:, : int(np.median(np.nonzero(part)[1]))] = False
    half = amounts(evidence, replace(decided, strands=part))[AS_STRANDS]
    assert half == pytest.approx(amounts(evidence, replace(decided, strands=decided.product))[AS_STRANDS] / 2, rel=0.05)


def test_strands_between_which_much_is_open_are_beyond_doubt(ball: pipeline.Prepared) -> None:
    evidence, decided = _decided(ball)
    rows = np.arange(decided.product.shape[0])[:, None]
    little, much = (decided.product & (rows % every == 0) for every in (50, 8))
    assert AS_STRANDS in amounts(evidence, replace(decided, strands=decided.product, open=little))
    assert AS_STRANDS not in amounts(evidence, replace(decided, strands=decided.product, open=much))


BESIDE = "there are edges beside the product"


@pytest.mark.parametrize(("soft_px", "counts"), [(3.0, False), (0.6, True)])
def test_edges_of_a_streak_of_shadow_do_not_count(soft_px: float, counts: bool) -> None:
    streak = cv2.GaussianBlur(((np.abs(X - 560) < 30) & (np.abs(Y - 240) < 5)).astype(float), (0, 0), soft_px)
    made = photographed(BALL, np.broadcast_to(PURPLE, (*SIZE, 3)), noise=0.003, shadow=np.exp(-0.7 * streak / streak.max()))
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    evidence, decided = _decided(prepared)
    assert (amounts(evidence, decided)[BESIDE] > 0.2) == counts


DEEP, OPENING = "strands are cut deep inside", "a grey place may be an opening in shadow"


def test_strands_count_as_deep_by_what_surrounds_the_product(ball: pipeline.Prepared) -> None:
    """Along an opening of its own they are as deep inside as ever."""
    evidence, decided = _decided(ball)
    middle, rim = _disc(360, 240, 30) > 0.5, (BALL > 0.5) & (_disc(360, 240, 112) < 0.5)
    holed = decided.product & ~(_disc(360, 240, 15) > 0.5)
    along_the_hole, along_the_outline = middle & holed, rim & holed
    for strands, deep in ((along_the_hole, True), (along_the_outline, False)):
        found = amounts(evidence, replace(decided, product=holed, at_match=holed, strands=strands))
        assert (found[DEEP] > 4) == deep
        assert found[AS_STRANDS] > 0
    much_open = decided.product & (np.arange(SIZE[0])[:, None] % 8 == 0)
    assert DEEP not in amounts(evidence, replace(decided, strands=middle & decided.product, open=much_open))


def test_openings_too_small_to_be_asked_about_alone_count_by_their_area(ball: pipeline.Prepared) -> None:
    evidence, decided = _decided(ball)
    little, more = (_disc(360, 240, radius) > 0.5 for radius in (6, 12))
    found = [{sign.said: sign for sign in signs_of(evidence, decided, place)}[OPENING] for place in (little, more)]
    assert found[1].amount / found[0].amount == pytest.approx(np.count_nonzero(more) / np.count_nonzero(little))
    assert OPENING not in amounts(evidence, decided)
    ((said, at),) = small_signs(evidence, replace(decided, unrest=0.005), more)[0]
    assert OPENING in said and at
    assert small_signs(evidence, replace(decided, unrest=0.005))[0] == []


@pytest.mark.parametrize(("shape", "some"), [("disc", False), ("strands", True)])
def test_only_what_dissolves_into_strands_is_cut_as_such(shape: str, some: bool) -> None:
    made = scene(shape)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    decision = pipeline.decide_cut(prepared, CutSettings(), pipeline.propose_match(prepared, CutSettings()))
    assert decision.outline.as_strands.any() == some
    assert not (decision.outline.as_strands & ~decision.outline.product).any()


def test_a_line_beside_the_outline_counts_by_its_length_if_it_is_longer_than_chance(ball: pipeline.Prepared) -> None:
    evidence, decided = _decided(ball)
    beside = decided.busy.of_proxy(decided.product)
    for unrest, length, asked in ((0.0225, 0.01, False), (0.018, 0.02, True)):
        line = Later(lambda part=length: (beside, part))
        reasons, _ = small_signs(evidence, replace(decided, unrest=unrest), None, line)
        assert bool(reasons) is asked
    assert "a line runs along beside the outline" in reasons[0][0]


@pytest.mark.parametrize(("across", "counts"), [(360, False), (478, True)], ids=["a gap inside", "a part at the side"])
def test_a_gap_that_a_stricter_match_closes_is_no_part_of_the_product(across: int, counts: bool, ball: pipeline.Prepared) -> None:
    evidence, decided = _decided(ball)
    gap = ((np.abs(X - across) < 14) & (np.abs(Y - 240) < 20)) & decided.product
    less = decided.product & ~gap
    opened = replace(decided, product=less, at_match=less, proposed=less, stricter=decided.product)
    assert (amounts(evidence, opened)[KEPT] > 2) is counts
