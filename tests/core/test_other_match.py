"""What another backdrop match would change is asked about: an opening that a looser one finds, a part that a stricter one keeps."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.core.test_area import SIZE, _disc, photographed
from true_backdrop.core import pipeline
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.other_match import at_other_matches
from true_backdrop.core.cut.propose import Proposal
from true_backdrop.core.picture import Picture

PURPLE = np.array([0.10, 0.05, 0.28])
BALL = _disc(360, 240, 120) > 0.5
PLACE, AT_THE_SIDE, SMALL = (_disc(*at) > 0.5 for at in ((350, 260, 20), (465, 240, 20), (350, 260, 8)))


def _at(place: np.ndarray, colour: tuple[float, float, float]) -> tuple[Evidence, Decided]:
    """A purple ball with a place of a colour, which a looser match takes for backdrop."""
    made = photographed(BALL.astype(float), np.where(place[..., None], np.array(colour), PURPLE))
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    nothing = np.zeros(SIZE, bool)
    return prepared.evidence, Decided(BALL, BALL, BALL, nothing, 50, 0.0, prepared.busy, nothing, looser=BALL & ~place)


def _asked(evidence: Evidence, decided: Decided) -> list[str]:
    return [said for found, _ in at_other_matches(evidence, decided) for said, _ in found]


GREY, BEIGE = (0.52, 0.515, 0.505), (0.6, 0.5, 0.35)


def test_an_opening_that_a_looser_match_finds_is_asked_about() -> None:
    evidence, decided = _at(PLACE, GREY)
    (said,) = _asked(evidence, decided)
    assert "a looser backdrop match would open a place" in said
    assert not _asked(evidence, replace(decided, looser=None))
    assert not _asked(evidence, replace(decided, looser=decided.product))


@pytest.mark.parametrize(
    ("place", "colour"), [(PLACE, BEIGE), (AT_THE_SIDE, GREY), (SMALL, GREY)], ids=["of a colour", "along the outline", "small"]
)
def test_what_a_looser_match_takes_else_is_not(place: np.ndarray, colour: tuple[float, float, float]) -> None:
    assert not _asked(*_at(place, colour))


def test_where_somebody_has_put_product_or_said_clear_nothing_is_asked() -> None:
    evidence, decided = _at(PLACE, GREY)
    before = decided.product & ~PLACE
    assert not _asked(evidence, replace(decided, at_match=before, proposed=before))
    assert not _asked(evidence, replace(decided, clear=True))


@pytest.mark.parametrize(("radius", "asked"), [(40, True), (18, False)])
def test_a_large_part_that_a_stricter_match_keeps_is_asked_about_though_it_has_no_colour(radius: int, asked: bool) -> None:
    """A white stripe that is just as light as the backdrop; a small such place is an opening as often."""
    part = _disc(360, 260, radius) > 0.5
    evidence, decided = _at(part, GREY)
    less = BALL & ~part
    decided = replace(decided, product=less, at_match=less, proposed=less, looser=less, stricter=BALL)
    assert [said for said in _asked(evidence, decided) if "a stricter backdrop match would keep a part more" in said] or not asked
    assert asked or not _asked(evidence, decided)


def test_a_part_that_a_stricter_match_takes_is_asked_about_if_it_is_large() -> None:
    evidence, decided = _at(AT_THE_SIDE, GREY)
    decided = replace(decided, looser=None)
    (said,) = _asked(evidence, replace(decided, taken=AT_THE_SIDE))
    assert said.startswith("a stricter backdrop match takes a part away, right side (2.")
    assert not _asked(evidence, replace(decided, taken=SMALL))
    assert not _asked(evidence, replace(decided, taken=AT_THE_SIDE, clear=True))
    assert not _asked(evidence, replace(decided, taken=~BALL))


def test_only_a_match_in_the_middle_is_held_against_the_strictest_of_the_first() -> None:
    """From a loose one to the middle shadows go that were left over."""
    busy = _at(PLACE, GREY)[1].busy
    masks = {
        match: np.packbits(busy.of_proxy(BALL & ~gone)) for match, gone in ((30, SMALL), (50, SMALL), (70, PLACE), (90, BALL))
    }
    proposal = Proposal(50, (), 0, 0.0, masks[50], masks[50], tuple(masks.items()))
    taken = proposal.taken(busy, 50)
    assert taken is not None
    np.testing.assert_array_equal(taken, PLACE & ~SMALL)
    assert proposal.taken(busy, 30) is None
    assert proposal.taken(busy, 70) is None
    assert proposal.taken(busy, 55) is None
    assert replace(proposal, left_out=frozenset({70})).taken(busy, 50) is None


@pytest.mark.parametrize(("match", "gone"), [(90, AT_THE_SIDE), (70, AT_THE_SIDE), (50, SMALL), (30, None)])
def test_a_match_stricter_than_the_first_ones_is_held_against_the_middle(match: int, gone: np.ndarray | None) -> None:
    """It was chosen because the strictest of these is hardly unlike it: an opening that closes below that is closed in both."""
    busy = _at(PLACE, GREY)[1].busy
    taken = {30: SMALL, 50: AT_THE_SIDE, 70: PLACE, 90: PLACE}
    masks = {value: np.packbits(busy.of_proxy(BALL & ~place)) for value, place in taken.items()}
    looser = Proposal(match, (), 0, 0.0, masks[match], masks[match], tuple(masks.items())).looser(busy, match)
    assert (looser is None) == (gone is None)
    if looser is not None and gone is not None:
        np.testing.assert_array_equal(looser, BALL & ~gone)


@pytest.mark.parametrize(("colour", "asked"), [(BEIGE, True), (GREY, False)])
def test_of_what_the_strictest_match_keeps_only_a_part_of_a_colour_is_asked_about(
    colour: tuple[float, float, float], asked: bool
) -> None:
    """Nearly everything is kept there, shadows with their edges as well."""
    part = _disc(360, 260, 40) > 0.5
    evidence, decided = _at(part, colour)
    less = BALL & ~part
    decided = replace(decided, product=less, at_match=less, proposed=less, looser=less, stricter=less, strictest=BALL)
    assert any("a stricter backdrop match would keep a part more" in said for said in _asked(evidence, decided)) is asked


def test_the_strictest_match_is_none_of_the_first() -> None:
    busy = _at(PLACE, GREY)[1].busy
    masks = {match: np.packbits(busy.of_proxy(BALL & (match < 90))) for match in (30, 50, 70, 90)}
    proposal = Proposal(50, (), 0, 0.0, masks[50], masks[50], tuple(masks.items()))
    strictest = proposal.strictest(busy, 50)
    assert strictest is not None and not strictest.any()
    assert proposal.strictest(busy, 90) is None
    assert replace(proposal, left_out=frozenset({90})).strictest(busy, 50) is None
