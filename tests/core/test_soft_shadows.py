"""Contact shadow that was taken for product goes where it ends softly below a coloured one; a neutral foot stays."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from true_backdrop.core import pipeline
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.soft_shadows import _below_colour, soft_shadows
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Picture

RED, GREY, STEEL = (0.45, 0.10, 0.12), (0.24, 0.24, 0.235), (0.36, 0.36, 0.355)
SLAB = (np.abs(X - 360) < 130) & (Y >= 140) & (Y < 300)
FOOT = (np.abs(X - 360) < 120) & (Y >= 300) & (Y < 322)
WHOLE = (slice(0, SIZE[0]), slice(0, SIZE[1]))


def _taken(cover: np.ndarray, colour: np.ndarray, around: np.ndarray, shadow: np.ndarray | None = None) -> np.ndarray:
    """What is taken for shadow of a mask drawn `around` a product that covers so much (H, W each)."""
    made = photographed(cover.astype(float), colour, shadow=shadow)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    limits = Tolerances.of(50, evidence.noise, evidence.long_side)
    return soft_shadows(evidence, around, Closing(evidence), WHOLE, limits)


def _contact(depth: float) -> np.ndarray:
    """Light that a wedge under a slab leaves: as dark as that close to it, softer by five pixels outwards."""
    return 1 - depth * np.clip(cv2.GaussianBlur((SLAB | FOOT).astype(float), (0, 0), 5), 0, 1)


@pytest.mark.parametrize("depth", [0.4, 0.6, 0.75])
def test_a_neutral_wedge_below_a_red_slab_is_shadow(depth: float) -> None:
    red = np.broadcast_to(RED, (*SIZE, 3))
    taken = _taken(SLAB, red, SLAB | FOOT, _contact(depth))
    inner = FOOT & (Y >= 304) & (Y < 318)
    assert taken[inner].mean() > 0.8
    assert not taken[SLAB & (Y < 296)].any()


@pytest.mark.parametrize("foot", [GREY, STEEL])
def test_a_grey_foot_of_a_red_slab_ends_as_sharply_as_the_slab_and_stays(foot: tuple[float, float, float]) -> None:
    colour = np.where(FOOT[..., None], np.array(foot), np.array(RED))
    assert not _taken(SLAB | FOOT, colour, SLAB | FOOT).any()


def test_below_a_grey_slab_nothing_tells_its_foot_from_shadow_by_colour() -> None:
    grey = np.broadcast_to((0.3, 0.3, 0.295), (*SIZE, 3))
    foot = np.where(FOOT[..., None], np.array(GREY), grey)
    assert not _taken(SLAB | FOOT, foot, SLAB | FOOT).any()


@pytest.mark.parametrize(("top", "taken"), [(300, True), (118, False)])
def test_a_neutral_place_as_soft_as_shadow_is_one_below_colour_and_none_above(top: int, taken: bool) -> None:
    """A pompon on a red cap may end as softly, but nothing coloured stands on it."""
    place = (np.abs(X - 360) < 60) & (top <= Y) & (top + 22 > Y)
    colour = np.where(SLAB[..., None], np.array(RED), np.array(GREY))
    made = photographed((SLAB | place).astype(float), colour)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    closing = Closing(evidence)
    closing.__dict__.update(soft=np.ones(SIZE, bool), sharp=evidence.step)
    found = _below_colour(evidence, place, place | SLAB, closing, WHOLE, 100)
    assert bool(found[place].mean() > 0.8) is taken


@pytest.mark.parametrize("rounded", [1.6, 1.9, 2.2])
def test_a_broad_grey_post_below_a_red_box_stays_though_its_rounded_sides_are_less_sharp(rounded: float) -> None:
    """A shadow so broad ends softly."""
    post = (np.abs(X - 360) < 40) & (Y >= 298) & (Y < 390)
    cover = np.maximum(SLAB, cv2.GaussianBlur(post.astype(float), (0, 0), rounded))
    colour = np.where((Y < 300)[..., None], np.array(RED), np.array(GREY))
    assert not _taken(cover, colour, cover > 0.5)[post & (Y >= 310)].any()


def _strip(sigma: float) -> np.ndarray:
    """What is taken for shadow of a red slab on a narrow contact shadow, whose edge a lens could have drawn nearly as sharply."""
    below = (np.abs(X - 360) < 125) & (Y >= 300) & (Y < 312)
    light = 1 - 0.45 * cv2.GaussianBlur(below.astype(float), (0, 0), sigma)
    return _taken(SLAB, np.broadcast_to(RED, (*SIZE, 3)), SLAB | below, light)[below & (Y >= 303) & (Y < 309)]


def test_a_contact_shadow_too_narrow_to_be_soft_is_told_by_being_less_sharp_than_the_slab() -> None:
    assert _strip(2.2).mean() > 0.9
    assert not _strip(0.4).any()


def test_of_such_a_strip_what_has_half_of_the_slabs_colour_is_the_slabs() -> None:
    """A dark fold of the slab hangs into the strip: of a thing so dark a shadow could have its tint."""
    below = (np.abs(X - 360) < 125) & (Y >= 300) & (Y < 312)
    fold, teal = below & (np.abs(X - 300) < 14), 0.7 * np.array([0.6, 1.05, 0.9])
    colour = np.where(fold[..., None], teal * np.exp(-0.6), teal * np.exp(-0.2))
    light = 1 - 0.45 * cv2.GaussianBlur(below.astype(float), (0, 0), 2.2)
    taken = _taken(SLAB | fold, colour, SLAB | below, light)
    assert taken[below & ~fold & (Y >= 303) & (Y < 309) & (np.abs(X - 300) > 18)].mean() > 0.9
    assert not taken[fold & (np.abs(X - 300) < 10) & (Y < 308)].any()


@pytest.mark.parametrize(("left", "top", "right", "bottom", "taken"), [(250, 300, 470, 312, True), (200, 140, 232, 330, False)])
def test_a_grey_panel_beside_a_coloured_one_is_no_shadow_although_its_edge_is_softer(
    left: int, top: int, right: int, bottom: int, taken: bool
) -> None:
    """Most of a contact shadow has the product right above it."""
    panel = (left <= X) & (right > X) & (top <= Y) & (bottom > Y)
    light = 1 - 0.45 * cv2.GaussianBlur(panel.astype(float), (0, 0), 2.2)
    found = _taken(SLAB, np.broadcast_to(RED, (*SIZE, 3)), SLAB | panel, light)
    assert bool(found[cv2.erode(panel.astype(np.uint8), np.ones((7, 7))) > 0].mean() > 0.8) is taken


PIECE = (np.abs(X - 470) < 30) & (np.abs(Y - 345) < 6)


def test_a_small_piece_apart_that_ends_softly_is_shadow() -> None:
    """A streak of a shadow that lies beside a red slab was left over as a part of its own."""
    shadow = 1 - 0.4 * cv2.GaussianBlur(PIECE.astype(float), (0, 0), 3)
    taken = _taken(SLAB, np.broadcast_to(RED, (*SIZE, 3)), SLAB | PIECE, shadow)
    assert taken[PIECE].mean() > 0.9
    assert not taken[SLAB].any()


@pytest.mark.parametrize("colour", [GREY, (0.3, 0.2, 0.2)], ids=["as sharp as the slab", "of a colour"])
def test_a_small_piece_apart_stays_if_it_is_sharp_or_has_a_colour(colour: tuple[float, float, float]) -> None:
    sharp = colour == GREY
    cover = SLAB | PIECE if sharp else SLAB + PIECE * cv2.GaussianBlur(PIECE.astype(float), (0, 0), 3)
    parts = np.where(SLAB[..., None], np.array(RED), np.array(colour))
    assert not _taken(np.clip(cover, 0, 1), parts, SLAB | PIECE).any()


HANGING = (X >= 488) & (X < 530) & (np.abs(Y - 285) < 9)
SOFTLY = cv2.GaussianBlur(HANGING.astype(float), (0, 0), 3)


@pytest.mark.parametrize(("slab", "taken"), [(RED, True), ((0.1, 0.1, 0.098), False)], ids=["red", "black"])
def test_a_streak_that_hangs_on_a_coloured_product_is_shadow(slab: tuple[float, float, float], taken: bool) -> None:
    """It is neither below the product nor apart from it. On a black one it may be a part that is out of focus."""
    found = _taken(SLAB, np.broadcast_to(slab, (*SIZE, 3)), SLAB | HANGING, 1 - 0.35 * SOFTLY)
    assert bool(found[HANGING & (X > 496)].mean() > 0.8) is taken
    assert taken or not found.any()
    assert not found[SLAB & (X < 480)].any()


BROWN = 0.7 * np.exp(-0.8) * np.array([1.13, 1.0, 0.92])


def test_a_streak_is_told_from_product_that_is_nearly_as_grey() -> None:
    """The two together would lie along the backdrop for less than half of their border."""
    block = (X >= 400) & (X < 488) & (np.abs(Y - 285) < 14)
    parts = np.where(block[..., None], BROWN, np.array(RED))
    found = _taken(SLAB, parts, SLAB | HANGING, 1 - 0.35 * SOFTLY)
    assert found[HANGING & (X > 496)].mean() > 0.8
    assert not found[block & (X < 484)].any()


BEIGE = 0.3 * np.array([1.14, 1.0, 0.86])


@pytest.mark.parametrize(
    ("long", "soft_px", "slab", "taken"),
    [(42, 3, BEIGE, True), (12, 3, BEIGE, False), (42, 1.9, BEIGE, False), (42, 1.9, np.array(RED), True)],
    ids=["open and soft", "less open", "less soft", "less soft, on red"],
)
def test_on_product_of_little_colour_a_streak_is_mostly_open_and_very_soft(
    long: int, soft_px: float, slab: np.ndarray, taken: bool
) -> None:
    streak = (X >= 488) & (488 + long > X) & (np.abs(Y - 285) < 9)
    softly = cv2.GaussianBlur(streak.astype(float), (0, 0), soft_px)
    light = 1 - 0.35 * softly / softly.max()
    found = _taken(SLAB, np.broadcast_to(slab, (*SIZE, 3)), SLAB | streak, light)
    assert bool(found[streak & (X > 492)].mean() > 0.5) is taken


@pytest.mark.parametrize(
    ("cover", "colour"), [(HANGING, GREY), (SOFTLY, (0.44, 0.34, 0.34))], ids=["as sharp as the slab", "of a colour"]
)
def test_what_hangs_on_a_product_stays_if_it_is_sharp_or_has_a_colour(
    cover: np.ndarray, colour: tuple[float, float, float]
) -> None:
    parts = np.where(SLAB[..., None], np.array(RED), np.array(colour))
    assert not _taken(np.maximum(SLAB, cover), parts, SLAB | HANGING).any()


@pytest.mark.parametrize("by", [0.1, -0.9], ids=["pale", "black"])
def test_a_small_piece_apart_that_is_lighter_than_a_shadow_or_darker_stays(by: float) -> None:
    light = 1 + by * cv2.GaussianBlur(PIECE.astype(float), (0, 0), 3) / cv2.GaussianBlur(PIECE.astype(float), (0, 0), 3).max()
    assert not _taken(SLAB, np.broadcast_to(RED, (*SIZE, 3)), SLAB | PIECE & (np.abs(light - 1) > 0.9 * abs(by)), light).any()


def test_pieces_of_what_is_nothing_else_stay() -> None:
    """Where all of it is in small pieces there is nothing to hold their outlines against."""
    pieces = np.zeros(SIZE, bool)
    for left in range(60, 660, 40):
        for row in range(100, 400, 30):
            pieces[row : row + 12, left : left + 20] = True
    assert not _taken(pieces, np.broadcast_to(GREY, (*SIZE, 3)), pieces).any()


GRIP = (np.abs(X - 360) < 24) & (Y >= 300) & (Y < 400)
SHAFT = (np.abs(X - 360) < 7) & (Y >= 100) & (Y < 300)


def test_a_dark_grip_that_hangs_on_a_coloured_shaft_stays_however_softly_its_bevel_ends() -> None:
    """It has no colour and its edge is softer than the shaft's, but hardly any of its border is the shaft's."""
    cover = np.maximum(SHAFT, cv2.GaussianBlur(GRIP.astype(float), (0, 0), 2.4))
    colour = np.where(GRIP[..., None], np.array(GREY), np.array(RED))
    taken = _taken(cover, colour, SHAFT | GRIP)
    assert not taken[GRIP].any()


def test_what_hangs_on_a_product_stays_if_a_part_of_its_border_is_steeper_than_any_shadows() -> None:
    """The lower edge is in focus, the others are not."""
    cover = np.maximum(SLAB, np.where((Y >= 285 - 9) & (Y < 285 + 9) & (X >= 488) & (X < 530) & (Y > 288), 1.0, SOFTLY))
    colour = np.where(SLAB[..., None], np.array(RED), np.array(GREY))
    assert not _taken(cover, colour, SLAB | HANGING).any()


def test_so_does_a_small_one_on_a_shaft_of_something_large() -> None:
    """Small enough for a streak of shadow that hangs on a coloured product."""
    shaft, grip = (np.abs(X - 360) < 3) & (Y >= 300) & (Y < 330), (np.abs(X - 360) < 11) & (Y >= 330) & (Y < 390)
    cover = np.maximum(SLAB | shaft, cv2.GaussianBlur(grip.astype(float), (0, 0), 2.4))
    colour = np.where(grip[..., None], np.array(GREY), np.array(RED))
    assert not _taken(cover, colour, SLAB | shaft | grip)[grip].any()


def test_a_tinted_place_below_a_coloured_one_is_its_own() -> None:
    """As soft as a shadow, but with more colour than the slab throws on the table."""
    place = (np.abs(X - 360) < 60) & (Y >= 300) & (Y < 322)
    tinted = np.where(SLAB[..., None], np.array(RED), np.array([0.29, 0.22, 0.22]))
    made = photographed((SLAB | place).astype(float), tinted)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    closing = Closing(evidence)
    closing.__dict__.update(soft=np.ones(SIZE, bool), sharp=evidence.step)
    assert not _below_colour(evidence, place, place | SLAB, closing, WHOLE, 100).any()
