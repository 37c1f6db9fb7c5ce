"""Contact shadow under a product is taken off it up to the crease, and nothing else is."""

from __future__ import annotations

import numpy as np
import pytest

from true_backdrop.core.cut.crease import off_the_crease

#: Rows of a column through the base: product, the crease (darkest), and shadow that grows lighter outwards.
SHADOW = [-2.4, -2.0, -1.6, -1.2, -0.9, -0.7, -0.5, -0.35, -0.2]


def column(body: float, *, base_tint: float = 0.1, shadow: list[float] = SHADOW) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Product (20 rows of a tone) above a shadow, 61 columns wide; the outline was drawn six rows too low."""
    down = np.array([body] * 20 + shadow + [0.0] * 10, np.float32)
    tone = np.repeat(down[:, None], 61, axis=1)
    tint = np.full(tone.shape, base_tint, np.float32)
    tint[:20] = 0.6
    product = np.zeros(tone.shape, bool)
    product[:25, 1:60] = True
    return product, tone, tint


@pytest.mark.parametrize("body", [-0.6, -1.4])
def test_the_outline_moves_up_to_the_crease(body: float) -> None:
    product, tone, tint = column(body)
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert product[:21, 30].all() and not product[21:, 30].any()


def test_tinted_pixels_are_product_however_dark_they_are() -> None:
    product, tone, tint = column(-0.6, base_tint=0.7)
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert product[:25, 30].all()


def test_a_black_product_in_its_own_shadow_loses_no_more_than_its_soft_edge() -> None:
    product, tone, tint = column(-2.6, shadow=[-2.6, -2.6, -2.6, -1.9, -0.9, -0.4, -0.3, -0.2, -0.1])
    tint[:] = 0.05
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert product[:23, 30].all()


def test_an_edge_against_bright_backdrop_is_left_alone() -> None:
    product, tone, tint = column(-1.0, shadow=[-0.6, -0.1, 0, 0, 0, 0, 0, 0, 0])
    before = product.copy()
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert (product == before).all()


#: Rows of a column in which the shadow ends within some pixels, so that its slope was taken for an edge; the crease is row 20.
ABRUPT = [-2.0, -1.8, -1.5, -1.2, -0.9, -0.65, -0.45, -0.3, -0.18, -0.1, -0.06, -0.03]


def test_a_contact_shadow_that_ends_abruptly_is_taken_off_up_to_its_darkest() -> None:
    product, tone, tint = column(-0.6, shadow=ABRUPT)
    product[:28, 1:60] = True
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert product[:20, 30].all() and not product[21:, 30].any()


def test_a_round_wire_keeps_its_dark_side() -> None:
    """Its edge is as steep as the lens makes it; inside it gets darker, and lighter again."""
    down = np.array([0.0] * 10 + [-0.3, -0.8, -1.0, -0.9, -0.8, -1.0, -1.1, -0.8, -0.3] + [-0.03] + [0.0] * 10, np.float32)
    tone = np.repeat(down[:, None], 9, axis=1)
    product = tone < -0.2
    before = product.copy()
    off_the_crease(product, tone, np.full(tone.shape, 0.02, np.float32), 0.06, 1024)
    assert (product == before).all()


def test_lines_that_were_left_standing_in_a_taken_shadow_go_too() -> None:
    product, tone, tint = column(-0.6, shadow=ABRUPT)
    product[:28, 1:60] = True
    tone[25, 30] = -0.3  # something in this column stops the walk
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert not product[22:, 30].any()


def test_in_a_small_picture_a_short_slope_may_be_an_edge() -> None:
    product, tone, tint = column(-0.6, shadow=ABRUPT)
    product[:28, 1:60] = True
    before = product.copy()
    off_the_crease(product, tone, tint, 0.06, 480)
    assert (product == before).all()


@pytest.mark.parametrize("degrees", [45, 55, 65])
def test_an_inclined_wire_keeps_its_lower_side(degrees: int) -> None:
    """Straight down its soft edge is as long as a shadow's; across it is as steep as the lens makes it."""
    y, x = np.mgrid[-60:60, -60:60].astype(np.float32)
    turn = np.deg2rad(degrees)
    across = y * np.cos(turn) - x * np.sin(turn)
    below = np.interp(across, [-5, -3, 1, 4, 8], [0.0, -0.7, -1.5, -0.4, 0.0])  # lit from above, dark below
    tone = below.astype(np.float32)
    product = tone < -0.2
    before = product.copy()
    off_the_crease(product, tone, np.full(tone.shape, 0.02, np.float32), 0.06, 1024)
    assert (product == before).all()


#: Rows of a column with a dark rim (the first eight, as a lens draws them) that stands in a soft shadow.
RIM = [-0.24, -0.45, -0.72, -0.86, -0.88, -0.88, -0.88, -0.86, -0.79, -0.66, -0.52, -0.44, -0.41, -0.4, -0.39, -0.37, -0.35]
FADING = [-0.32, -0.29, -0.26, -0.23, -0.2, -0.17, -0.14, -0.11, -0.08, -0.05, -0.03]


@pytest.mark.parametrize("noise", [0.0, 0.006])
def test_a_dark_rim_in_a_soft_shadow_stays(noise: float) -> None:
    """It is level behind its edge, where a contact shadow gets darker up to the product."""
    product, tone, tint = column(-0.2, shadow=RIM + FADING)
    tone += noise * np.random.default_rng(1).standard_normal(tone.shape).astype(np.float32)
    tint[:] = 0.02
    product[:30, 1:60] = True
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert product[:29, 8:53].all()


#: The same of a black frame around a grey panel, with a black line between the two that is darker still.
FRAME = [-1.9, -2.3, -2.8, -2.95, -2.95, -2.75, -2.45, -2.25, -2.19, -2.18, -2.17, -2.12, -1.85, -1.27, -0.75, -0.53, -0.49]


def test_a_dark_frame_with_a_darker_line_behind_it_stays() -> None:
    """It is level behind its edge and in front of the line; a contact shadow has one slope."""
    product, tone, tint = column(-1.85, shadow=[*FRAME, -0.47, -0.44, -0.41, -0.37, *FADING])
    tone += 0.004 * np.random.default_rng(1).standard_normal(tone.shape).astype(np.float32)
    tint[:] = 0.02
    product[:34, 1:60] = True
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert product[:32, 8:53].all()


def test_the_same_slope_without_a_level_rim_is_shadow() -> None:
    product, tone, tint = column(-0.2, shadow=[-0.9, -1.1, -0.98, -0.88, -0.79, *RIM[9:], *FADING])
    tint[:] = 0.02
    product[:26, 1:60] = True
    off_the_crease(product, tone, tint, 0.06, 1024)
    assert not product[22:, 30].any()
