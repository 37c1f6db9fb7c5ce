"""Contact shadow below a lighter product, with an edge softer than the product's, is taken off it; dark product is not."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core.cut.contact import off_the_contact

SIZE = (120, 140)
Y, X = np.mgrid[: SIZE[0], : SIZE[1]].astype(np.float32)
#: A body of a tone, and what lies below it, in rows from here on; the outline was drawn around both.
FOOT = 70
BODY = (Y < FOOT) & (np.abs(X - 70) < 50)
#: A lens's edge and a shadow's (sigma in pixels).
LENS, SHADOW = 1.2, 3.5
NOISE = 0.003


def _tone(*, body: float = 1.5, strip: float, height: float, edge: float, below: float = 1.0) -> tuple[np.ndarray, np.ndarray]:
    """Log brightness (H, W) of a body on a strip as high as that (pixels), and where the two are product to look at; in light,
    in parts of the backdrop's."""
    under = (FOOT + height > Y) & (np.abs(X - 70) < 50)
    light = cv2.GaussianBlur(np.where(under, np.float32(strip), np.float32(below)).astype(np.float32), (0, 0), edge)
    inside = cv2.GaussianBlur(BODY.astype(np.float32), (0, 0), LENS)
    light = inside * body + (1 - inside) * light
    noise = np.random.default_rng(1).normal(0, NOISE, SIZE)
    return np.log(light + noise).astype(np.float32), under


def _left(tone: np.ndarray, product: np.ndarray, tint: float = 0.0) -> np.ndarray:
    """In which row the product ends along each column of its middle."""
    product = product.copy()
    off_the_contact(product, tone, np.where(BODY, np.float32(0.3), np.float32(tint)), 0.06, NOISE)
    return np.asarray(product[:, 40:100].sum(axis=0))


@pytest.mark.parametrize("height", [4, 8, 12])
@pytest.mark.parametrize("strip", [0.45, 0.7])
def test_a_strip_that_ends_softly_is_shadow(height: float, strip: float) -> None:
    tone, product = _tone(strip=strip, height=height, edge=SHADOW)
    assert np.abs(_left(tone, product) - FOOT).max() <= 1


@pytest.mark.parametrize("strip", [0.3, 0.45, 0.7])
def test_a_strip_as_sharp_as_the_product_is_a_dark_foot(strip: float) -> None:
    tone, product = _tone(strip=strip, height=8, edge=LENS)
    assert (_left(tone, product) == product[:, 70].sum()).all()


def test_a_foot_that_is_lighter_than_the_shadow_it_stands_in_stays() -> None:
    """A grey foot (0.68) with a shadow below it (0.52) that ends softly, and the outline between the two."""
    tone, _ = _tone(strip=0.52, height=16, edge=SHADOW)
    foot = cv2.GaussianBlur(((Y >= FOOT) & (Y < FOOT + 8) & (np.abs(X - 70) < 50)).astype(np.float32), (0, 0), LENS)
    tone = np.log(np.exp(tone) * (1 - foot) + 0.68 * foot).astype(np.float32)
    product = (Y < FOOT + 8) & (np.abs(X - 70) < 50)
    assert (_left(tone, product) == FOOT + 8).all()


def test_black_and_tinted_strips_stay() -> None:
    tone, product = _tone(strip=0.1, height=8, edge=SHADOW)
    assert (_left(tone, product) == product[:, 70].sum()).all()
    tone, product = _tone(strip=0.5, height=8, edge=SHADOW)
    assert (_left(tone, product, tint=0.6) == product[:, 70].sum()).all()


def test_where_a_round_foot_is_seen_aslant_its_shadow_goes_as_well() -> None:
    """The edge to the product rises steeply at both ends; what is left there hangs together with what was taken."""
    foot = FOOT - 12 * ((X - 70) / 50) ** 4
    body, under = (foot > Y) & (np.abs(X - 70) < 50), (Y < FOOT + 6) & (np.abs(X - 70) < 50)
    light = cv2.GaussianBlur(np.where(under, np.float32(0.5), np.float32(1)), (0, 0), SHADOW)
    inside = cv2.GaussianBlur(body.astype(np.float32), (0, 0), LENS)
    tone = np.log(inside * 1.5 + (1 - inside) * light).astype(np.float32)
    product = under.copy()
    off_the_contact(product, tone, np.where(body, np.float32(0.3), np.float32(0)), 0.06, NOISE)
    assert product[body].mean() > 0.99
    assert product[under & ~body].mean() < 0.1


def test_dust_that_a_noisy_frame_shows_is_no_shadow() -> None:
    tone = np.random.default_rng(2).normal(0, 0.05, SIZE).astype(np.float32)
    product = (Y < FOOT) & (np.abs(X - 70) < 50)
    before = product.copy()
    off_the_contact(product, tone, np.zeros(SIZE, np.float32), 0.06, 0.05)
    assert (product == before).all()


@pytest.mark.parametrize("seed", range(8))
def test_whatever_the_planes_are_it_only_takes_product_off(seed: int) -> None:
    """Coarse noise, with levels that repeat: there are edges without any slope beside them."""
    rng = np.random.default_rng(seed)
    tone = np.kron(rng.choice([-1.2, -0.6, -0.2, 0.0, 0.3], (30, 35)), np.ones((4, 4))).astype(np.float32)
    product = np.kron(rng.random((30, 35)) < 0.7, np.ones((4, 4))) > 0
    before = product.copy()
    off_the_contact(product, tone, np.zeros(SIZE, np.float32), 0.06, 0.0)
    assert not (product & ~before).any()
