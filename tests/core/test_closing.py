"""Faint edges joined to whole outlines: against an exact minimal cut, and on pale products that edges alone tell."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import breadth_first_order, maximum_flow

from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.minimal_cut import minimal_cut
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

Field = tuple[np.ndarray, np.ndarray, np.ndarray]


def field(size: int = 48) -> Field:
    """A square of edges that cost little, around a spot that is product; nothing else is seen."""
    cost, product = np.ones((size, size), np.float32), np.zeros((size, size), np.float32)
    cost[10, 10:38] = cost[37, 10:38] = cost[10:38, 10] = cost[10:38, 37] = 0.02
    product[20:24, 20:24] = 3
    outer = np.zeros((size, size), bool)
    outer[:2] = outer[-2:] = outer[:, :2] = outer[:, -2:] = True
    return cost, product, outer


def exact(cost: np.ndarray, product: np.ndarray, outer: np.ndarray) -> np.ndarray:
    """The same by a maximal flow (Ford and Fulkerson 1956) as SciPy has it, with four neighbours; all axes alike there."""
    height, width = cost.shape
    count, scale = height * width, 10_000
    number = np.arange(count).reshape(height, width)
    source, sink = count, count + 1
    rows, columns, values = [], [], []

    def join(a: np.ndarray, b: np.ndarray, weight: np.ndarray) -> None:
        rows.append(a.ravel()), columns.append(b.ravel()), values.append(np.round(scale * weight).astype(np.int32).ravel())

    for a, b, weight in ((number[:, :-1], number[:, 1:], cost[:, :-1]), (number[:-1], number[1:], cost[:-1])):
        join(a, b, weight)
        join(b, a, weight)
    join(np.full(count, source), number, product)
    join(number[outer], np.full(int(outer.sum()), sink), np.full(int(outer.sum()), 1e4))
    graph = coo_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), (count + 2, count + 2)).tocsr()
    rest = graph - maximum_flow(graph, source, sink).flow
    rest.data = np.maximum(rest.data, 0)
    rest.eliminate_zeros()
    reached = np.zeros(count + 2, bool)
    reached[breadth_first_order(rest, source)[0]] = True
    return reached[:count].reshape(height, width)


@pytest.mark.parametrize("gap", [0, 6, 11, 20])
def test_a_gap_is_bridged_as_by_the_exact_cut(gap: int) -> None:
    cost, product, outer = field()
    cost[10, 20 : 20 + gap] = 1
    found = minimal_cut(cost, product, outer) > 0.5
    assert found[24, 30] == (gap < 14)  # 14 and the edges cost as much as a line around the spot
    assert np.count_nonzero(found ^ exact(cost, product, outer)) <= 2 * 28  # a pixel along one or two sides, at most


def test_what_is_hardly_enclosed_is_not_product() -> None:
    cost, product, outer = field()
    cost[10, 10:38] = cost[37, 10:38] = 1
    cost[10:38, 37] = 1
    found = minimal_cut(cost, product, outer) > 0.5
    assert found[22, 22]
    assert found.mean() < 0.05
    assert np.count_nonzero(found ^ exact(cost, product, outer)) < 30


def test_a_clear_outline_is_not_doubted() -> None:
    made = scene("disc")
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    assert not prepared.busy.closing.doubts(~prepared.busy.decide(50, "auto"))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_pale_product_with_gaps_in_its_outline_comes_out_whole(seed: int) -> None:
    """A pale disc that is exactly as light as the backdrop along a part of its outline."""
    made = scene("disc", (0.70, 0.69, 0.68), size=(400, 560), seed=seed)
    frame, inside = made.frame.astype(np.float32), made.alpha > 0.5
    rows, columns = np.nonzero(inside)
    toward = np.exp(-(((np.mgrid[:400, :560][0] - rows.mean()) / 22) ** 2)) * (np.mgrid[:400, :560][1] > columns.mean() + 40)
    frame += (toward * made.alpha)[..., None] * (made.backdrop.astype(np.float32) - frame)
    decision, found = pipeline.cut_frame(
        Picture(np.round(frame).astype(np.uint8), "PNG"), Picture(made.backdrop, "PNG"), CutSettings()
    )
    core = cv2.erode(inside.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    assert found.alpha[core].mean() > 0.97
    assert (found.alpha[cv2.dilate(inside.astype(np.uint8), np.ones((15, 15), np.uint8)) == 0] > 0.02).mean() < 0.001
    assert decision.judgement.verdict is not Verdict.REDO


def test_bare_backdrop_encloses_nothing() -> None:
    made = scene("nothing", seed=3)
    other = scene("nothing", seed=4)
    prepared = pipeline.prepare(Picture(other.frame, "PNG"), Picture(made.backdrop, "PNG"))
    assert not Closing(prepared.evidence).enclosed.any()
