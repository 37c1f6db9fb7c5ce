"""Product that goes on over the outline where no edge is seen, and what lies beside it that does not."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from true_backdrop.core import pipeline
from true_backdrop.core.cut import region
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.going_on import parts_going_on
from true_backdrop.core.cut.masks import outline_of
from true_backdrop.core.picture import Picture
from true_backdrop.core.prepare import Prepared
from true_backdrop.core.treatment import CutSettings

#: A panel, a part at its right side, and the line between the two.
PANEL = (X >= 200) & (X < 400) & (Y >= 120) & (Y < 320)
PART = (X >= 400) & (X < 440) & (Y >= 160) & (Y < 280)
BETWEEN = (X >= 398) & (X < 402) & (Y >= 160) & (Y < 280)
NOTHING = np.zeros(SIZE, bool)
AROUND = outline_of(PANEL | PART)


def _prepared(tone: float = -0.1, tint: float = 0.05) -> Prepared:
    """The panel and the part, of such a tone and tint (log units), against paper."""
    colour = np.array([0.72, 0.7128, 0.6984]) * np.exp(tone) * np.array([1 + tint, 1.0, 1 - tint])
    made = photographed((PANEL | PART).astype(float), np.broadcast_to(colour, (*SIZE, 3)))
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))


def _added(
    more: dict[int, np.ndarray], seen: np.ndarray = AROUND, evidence: Evidence | None = None
) -> tuple[np.ndarray, list[int]]:
    """What is added to the panel where other matches have so much more, and which of these were decided."""
    asked = []

    def at_match(match: int) -> np.ndarray:
        asked.append(match)
        return PANEL | more.get(match, NOTHING)

    return parts_going_on(_prepared().evidence if evidence is None else evidence, PANEL, seen, at_match), asked


@pytest.mark.parametrize("match", [70, 90])
def test_a_part_that_no_edge_parts_from_the_product_is_added(match: int) -> None:
    added, asked = _added({match: PART})
    assert (added == PART).all() and asked == [70, 90]


def test_a_part_beyond_an_edge_is_not() -> None:
    """Along a third of what they have in common there may be one."""
    assert not _added({90: PART}, AROUND | (BETWEEN & (Y < 240)))[0].any()
    assert (_added({90: PART}, AROUND | (BETWEEN & (Y < 200)))[0] == PART).all()


def test_where_all_of_the_outline_is_an_edge_no_other_match_is_decided() -> None:
    added, asked = _added({90: PART}, AROUND | BETWEEN)
    assert not added.any() and asked == []


def test_where_nothing_beside_it_has_a_colour_no_other_match_is_decided_but_for_an_opening_without_an_edge() -> None:
    evidence, hole = _prepared(tint=0.0).evidence, (X >= 250) & (X < 300) & (Y >= 200) & (Y < 240)
    assert _added({90: PART}, evidence=evidence)[1] == []
    outline, asked = outline_of(~hole), []

    def at_match(match: int) -> np.ndarray:
        asked.append(match)
        return PANEL & ~hole

    parts_going_on(evidence, PANEL & ~hole, AROUND | BETWEEN | (outline & ((X < 298) | (Y < 222))), at_match)
    assert asked == []
    parts_going_on(evidence, PANEL & ~hole, AROUND | BETWEEN, at_match)
    assert asked == [70, 90]


def test_shadow_on_the_table_that_the_product_lies_along_for_a_little_is_not() -> None:
    wide = ~PANEL & (X >= 400) & (X < 600) & (Y >= 100) & (Y < 400)
    assert not _added({90: wide})[0].any()


@pytest.mark.parametrize(
    ("tone", "tint", "added"), [(-0.6, 0.05, False), (-0.6, 0.12, True), (-0.3, 0.05, True), (-0.3, 0.0, False)]
)
def test_what_has_no_colour_is_not_and_in_a_deep_shadow_it_has_more(tone: float, tint: float, added: bool) -> None:
    assert _added({90: PART}, evidence=_prepared(tone, tint).evidence)[0].any() == added


@pytest.mark.parametrize(("wide", "added"), [(5, False), (20, True)])
def test_a_long_and_narrow_strip_as_of_an_edge_out_of_focus_is_not(wide: int, added: bool) -> None:
    strip = (X >= 400) & (400 + wide > X) & (Y >= 130) & (Y < 310)
    assert _added({90: strip}, outline_of(PANEL) & (X < 390))[0].any() == added


@pytest.mark.parametrize(("wide", "added"), [(4, False), (8, True)])
def test_a_short_and_narrow_one_is_not_either(wide: int, added: bool) -> None:
    short = (X >= 400) & (400 + wide > X) & (Y >= 200) & (Y < 230)
    assert _added({90: short})[0].any() == added


def test_a_long_one_with_product_all_around_is() -> None:
    """Of a colour or not."""
    stripe = (X >= 210) & (X < 390) & (Y >= 210) & (Y < 216)
    product = PANEL & ~stripe
    assert (parts_going_on(_prepared(tint=0.0).evidence, product, NOTHING, lambda _: PANEL) == stripe).all()


def test_a_speck_is_not() -> None:
    assert not _added({90: (X >= 400) & (X < 403) & (Y >= 200) & (Y < 212)})[0].any()


@pytest.mark.parametrize(("width", "added"), [(450, True), (440, False)])
def test_what_reaches_the_rim_is_light_on_the_table(width: int, added: bool) -> None:
    """It falls off as far as one can see, and the product would be at the rim only by what was added."""
    box = slice(0, SIZE[0]), slice(0, width)
    evidence = _prepared().evidence.part(box)
    found = parts_going_on(evidence, PANEL[box], AROUND[box], lambda _: (PANEL | PART)[box])
    assert (found == PART[box]).all() == added and found.any() == added


def test_they_are_added_when_a_cut_is_decided(monkeypatch: pytest.MonkeyPatch) -> None:
    """But not to strands, which end everywhere, nor through glass, which nothing parts from what is behind it."""
    busy = _prepared().busy
    # The part has an edge all around here.
    monkeypatch.setattr(Closing, "seen_or_untold", busy.of_proxy(AROUND))
    monkeypatch.setattr("true_backdrop.core.cut.region.parts_of_another_hue", lambda *_: busy.of_proxy(NOTHING))
    monkeypatch.setattr("true_backdrop.core.cut.region.tinted_parts", lambda *_: busy.of_proxy(NOTHING))
    panel, part, whole = (busy.of_proxy(mask) for mask in (PANEL, PART, PANEL | PART))
    known = {70: whole, 90: whole}
    for material, share in (("auto", 1.0), ("pale", 1.0), ("strands", 0.0), ("clear", 0.0)):
        assert busy.completed(panel, material, known.__getitem__)[part].mean() == pytest.approx(share, abs=0.05)


def test_what_was_decided_to_complete_a_product_is_kept_for_the_next_match(monkeypatch: pytest.MonkeyPatch) -> None:
    """Otherwise each move of the control would decide it again."""
    prepared = _prepared(-1.0, 0.3)
    monkeypatch.setattr("true_backdrop.core.cut.region.parts_going_on", lambda _, product, __, at_match: product & at_match(90))
    proposal = pipeline.propose_match(prepared, CutSettings())
    assert 90 not in [trial.match for trial in proposal.trials] and proposal.decided(prepared.busy, 90) is not None
    decided, decide = [], region.decide
    monkeypatch.setattr(
        region, "decide", lambda evidence, match, *rest: (decided.append(match), decide(evidence, match, *rest))[1]
    )
    product_at = pipeline.product_at(prepared, 42, "auto", proposal)
    assert decided == [42] and product_at.any()


def test_where_no_edge_could_be_seen_nothing_is_told() -> None:
    """At the rim, and where a framing box fades the frame out."""
    evidence = _prepared().evidence
    shot = np.zeros(SIZE, bool)
    shot[100:300, 100:500] = True
    inside = Closing(evidence, shot).seen_or_untold
    assert inside[~shot].all() and not inside[105:110, 110:490].all()
    plain = Closing(evidence).seen_or_untold
    assert plain[:10].all() and plain[:, -10:].all() and not plain[20:60, 20:700].any()
