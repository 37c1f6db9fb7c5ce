"""Spectacles with a cord: the table in its loop lies in their shadow, and no lens is before it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, photographed
from tests.scenes import Scene
from true_backdrop.core import pipeline
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

LENSES = [(np.hypot(X - at, Y - 170) < 66) for at in (280, 440)]
LOOP = (((X - 360) / 272) ** 2 + ((Y - 320) / 92) ** 2 < 1) & (Y > 262)


def spectacles() -> Scene:
    """Black rims with lenses that take up to 17 % and bend what is seen, and the loop of a black cord below."""
    rims = np.maximum(_disc(280, 170, 80), _disc(440, 170, 80))
    cord = cv2.morphologyEx(LOOP.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((13, 13), np.uint8)) > 0
    alpha = np.maximum(rims, cord | ((np.abs(X - 360) < 12) & (np.abs(Y - 250) < 20)))
    shadow = 1 - 0.28 * np.exp(-(((X - 360) / 160) ** 4) - ((Y - 330) / 90) ** 2)
    light = (0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2)[..., None] * np.array([1.0, 0.99, 0.97])
    bent = np.minimum(0.95 + 0.12 * np.sin(X / 3) * np.sin(Y / 3), 1)
    product = np.where((LENSES[0] | LENSES[1])[..., None], light * (bent * shadow)[..., None], 0.03)
    return photographed(alpha, product, shadow=shadow, noise=0.004)


@pytest.mark.parametrize("match", [30, 50, 70])
def test_the_table_in_a_loop_of_a_clear_product_is_open_and_its_lenses_are_not(match: int) -> None:
    made, settings = spectacles(), CutSettings(material="clear", match=match)
    decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), settings)
    assert (found.alpha[_inner(LOOP) & (made.alpha < 0.01)] > 0.02).mean() < 0.02
    product = cv2.resize(decision.outline.product.astype(np.uint8), SIZE[::-1]) > 0
    for lens in LENSES:
        assert product[_inner(lens)].mean() > 0.98


def _inner(place: np.ndarray) -> np.ndarray:
    """Off its edge."""
    return np.asarray(cv2.erode(place.astype(np.uint8), np.ones((21, 21), np.uint8)) > 0)
