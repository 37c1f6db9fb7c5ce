"""The placement readout on renders with known moves."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from true_backdrop.core.picture import Picture
from true_backdrop.core.placement import By, CannotTell, Seen, readout, seen, way_to_move
from true_backdrop.studio.simulated.scene import Table

Take = Callable[..., Picture]
SIZE = (320, 480)


def looked_at(photographed: Take, table: Table) -> Seen:
    backdrop = photographed(Table(angle=table.angle)).linear(size=SIZE)
    found = seen(photographed(table).linear(size=SIZE), backdrop)
    assert isinstance(found, Seen), found
    return found


def test_95_of_100_placements_are_read_well(photographed: Take) -> None:
    """Within 0.3 % of width, 0.5 degrees and 1 % of size."""
    rng, errors = np.random.default_rng(0), []
    for code in ("HT-101", "HT-204", "HT-215", "HT-226", "HT-310", "HT-619"):
        guide = looked_at(photographed, Table(code))
        for _ in range(4):
            right, down = rng.uniform(-0.04, 0.04), rng.uniform(-0.03, 0.01)
            turn, size = rng.uniform(-7, 7), rng.uniform(0.94, 1.05)
            told = readout(looked_at(photographed, Table(code, right=right, down=down, turn=turn, size=size)), guide)
            assert told.turn is not None and told.size is not None
            shift = np.hypot(told.right - 100 * right, (told.down - 100 * down) * 640 / 960)
            errors.append((shift / 0.3, abs(told.turn - turn) / 0.5, abs(told.size - 100 * (size - 1)) / 1.0))
    good = np.mean([max(error) <= 1 for error in errors])
    assert good >= 0.95, errors


def test_the_same_product_is_known_by_its_features_and_told_what_to_do(photographed: Take) -> None:
    guide = looked_at(photographed, Table("HT-204"))
    told = readout(looked_at(photographed, Table("HT-204", right=0.03)), guide)
    assert told.by is By.FEATURES
    assert way_to_move(told) == "left"
    assert way_to_move(readout(looked_at(photographed, Table("HT-204", turn=6)), guide)) == "turn left"
    assert way_to_move(readout(looked_at(photographed, Table("HT-204", size=0.9)), guide)) == "nearer"
    assert way_to_move(readout(looked_at(photographed, Table("HT-204")), guide)) == "there"


def test_another_shape_is_held_to_middle_and_base_line(photographed: Take) -> None:
    told = readout(looked_at(photographed, Table("HT-226", right=0.05)), looked_at(photographed, Table("HT-204")))
    assert told.by is By.BASE
    assert told.size is None and told.turn is None
    moved = readout(looked_at(photographed, Table("HT-226", right=0.07)), looked_at(photographed, Table("HT-204")))
    assert moved.right - told.right == pytest.approx(2.0, abs=0.4)


def test_it_says_when_it_cannot_tell(photographed: Take) -> None:
    backdrop = photographed(Table()).linear(size=SIZE)
    nothing = seen(photographed(Table()).linear(size=SIZE), backdrop)
    assert isinstance(nothing, CannotTell) and "no product" in nothing.reason
    outside = seen(photographed(Table("HT-204", right=0.42)).linear(size=SIZE), backdrop)
    assert isinstance(outside, CannotTell) and "right edge" in outside.reason
