"""A white field of a product before a backdrop whose light falls off is a surface; an opening, lit or in a shadow, is none."""

import numpy as np
import pytest

from tests.scenes import Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.own_light import with_own_light
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE = (480, 720)
Y, X = np.mgrid[: SIZE[0], : SIZE[1]].astype(float)
BODY = (np.abs(X - 360) < 120) & (np.abs(Y - 240) < 100)
FIELD = (np.abs(X - 360) < 60) & (np.abs(Y - 240) < 40)


def made(field: str, falls_off: float) -> Scene:
    """A dark red frame round a field that is white print, an opening, or an opening in a shadow that deepens downwards."""
    bare = 0.6 * np.exp(-falls_off * (X - 360) / 360)
    within = {
        "print": np.full(SIZE, 0.6),
        "opening": bare,
        "shaded": bare * np.exp(-0.002 * (Y - 150)),
        "twice as steep": 0.36 / bare,
        "slope in shadow": np.full(SIZE, 0.5),
        "checks": 0.6 * np.where((Y // 16) % 2, 1.3, 1),
    }[field]
    lit = np.where(BODY[..., None], np.array([0.2, 0.03, 0.03]), bare[..., None])
    lit = np.where(FIELD[..., None], within[..., None], lit)
    rng = np.random.default_rng(5)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, (*SIZE, 3)))) for each in (lit, bare[..., None] * np.ones(3)))
    alpha = (BODY & ~FIELD) | (FIELD & (field == "print"))
    return Scene(frame, empty, alpha.astype(float))


@pytest.mark.parametrize(
    ("field", "falls_off", "told"),
    [
        ("print", 0.5, True),
        ("print", 0.05, False),
        ("opening", 0.5, False),
        ("shaded", 0.5, False),
        ("twice as steep", 0.5, False),
        ("slope in shadow", 0.5, False),
        ("checks", 0.5, False),
    ],
    ids=[
        "print",
        "where the light hardly varies",
        "opening",
        "in a shadow",
        "falls twice as fast",
        "may be a shadow's",
        "checks",
    ],
)
def test_a_field_whose_light_does_not_follow_the_backdrops_is_a_surface(field: str, falls_off: float, told: bool) -> None:
    scene = made(field, falls_off)
    prepared = pipeline.prepare(Picture(scene.frame, "PNG"), Picture(scene.backdrop, "PNG"))
    found = with_own_light(prepared.evidence, ~BODY | FIELD)
    assert bool(found[FIELD].all()) is told
    assert not found[~FIELD].any()


def test_white_print_is_whole_before_a_backdrop_that_falls_off_and_an_opening_stays_open() -> None:
    for field, light in (("print", 1.0), ("opening", 0.0)):
        scene = made(field, 0.15)
        _, found = pipeline.cut_frame(Picture(scene.frame, "PNG"), Picture(scene.backdrop, "PNG"), CutSettings())
        assert np.abs(found.alpha[FIELD] - light).mean() < 0.08, field


def test_what_reaches_the_rim_is_left_alone() -> None:
    scene = made("print", 0.5)
    prepared = pipeline.prepare(Picture(scene.frame, "PNG"), Picture(scene.backdrop, "PNG"))
    gap = (np.abs(X - 360) < 3) & (Y < 240)
    assert with_own_light(prepared.evidence, FIELD | (gap & (Y > 0))).any()
    assert not with_own_light(prepared.evidence, FIELD | gap).any()
