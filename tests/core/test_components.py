"""Parts of masks, against OpenCV's own statistics."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays

from true_backdrop.core.cut.components import all_of, components, counted, hanging_together
from true_backdrop.core.cut.masks import near


@settings(deadline=None)  # it is compiled at the first
@given(arrays(np.bool_, array_shapes(min_dims=2, max_dims=2, min_side=1, max_side=24)), st.sampled_from([4, 8]))
def test_parts_are_opencvs(mask: np.ndarray, connectivity: Literal[4, 8]) -> None:
    labels, stats = components(mask, connectivity)
    _, wanted, of_parts, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=connectivity)
    assert labels.shape == mask.shape and len(stats) == len(of_parts) and not stats[0].any()
    # Each part may have another number.
    same = {tuple(pair) for pair in np.stack([labels.ravel(), wanted.ravel()], axis=1).tolist()}
    assert len(same) == len({a for a, _ in same}) == len({b for _, b in same})
    for mine, theirs in same - {(0, 0)}:
        np.testing.assert_array_equal(stats[mine], of_parts[theirs])


def test_a_view_of_a_larger_mask_is_read_as_it_is() -> None:
    whole = np.zeros((40, 60), bool)
    whole[5:9, 10:50:4] = True
    labels, stats = components(whole[4:20, 8:30], 8)
    assert len(stats) == 6 and labels.max() == 5
    np.testing.assert_array_equal(stats[1], [2, 1, 1, 4, 4])


def test_an_empty_mask_has_no_parts() -> None:
    labels, stats = components(np.zeros((7, 9), np.uint8), 4)
    assert not labels.any() and stats.tolist() == [[0, 0, 0, 0, 0]]


MASKS = arrays(np.bool_, array_shapes(min_dims=2, max_dims=2, min_side=1, max_side=24))


@settings(deadline=None)
@given(st.data(), MASKS, st.sampled_from([4, 8]))
def test_what_hangs_together_with_some_pixels_is_what_a_flood_from_them_reaches(
    data: st.DataObject, mask: np.ndarray, connectivity: Literal[4, 8]
) -> None:
    some = data.draw(arrays(np.bool_, mask.shape))
    flooded = np.pad(mask.astype(np.uint8), 1)
    for y, x in np.argwhere(some & mask):
        cv2.floodFill(flooded, None, (int(x) + 1, int(y) + 1), (2,), flags=connectivity)
    np.testing.assert_array_equal(hanging_together(mask, some, connectivity), flooded[1:-1, 1:-1] == 2)


def test_pixels_are_counted_by_their_part_and_looked_up_again() -> None:
    mask = np.zeros((9, 30), bool)
    mask[1:4, 2:6] = mask[2:7, 10:21] = mask[8, 29] = True
    labels, stats = components(mask, 4)
    there = np.zeros_like(mask)
    there[3:8, 4:12] = True
    assert counted(labels, there, len(stats)).tolist() == [40 - 2 - 8, 2, 8, 0]
    np.testing.assert_array_equal(all_of(labels, np.array([True, False, True, True])), mask & (labels > 1))


@settings(deadline=None)
@given(MASKS, st.sampled_from([1, 1.5, 2, 3, 5, 6, 7, 9]))
def test_what_is_near_is_told_by_the_distance_transform(mask: np.ndarray, reach: float) -> None:
    if not mask.any():
        assert not near(mask, reach).any()
        return
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5)
    np.testing.assert_array_equal(near(mask, reach), away <= reach)
