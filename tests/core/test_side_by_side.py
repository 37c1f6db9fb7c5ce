"""Two things at a time: the same results with one thread and with two, however deep one asks for another."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import cv2
import numpy as np
import pytest

from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.picture import Picture
from true_backdrop.core.side_by_side import both, in_halves
from true_backdrop.core.treatment import CutSettings


@pytest.fixture(params=[1, 2])
def threads(request: pytest.FixtureRequest) -> Iterator[int]:
    before = cv2.getNumThreads()
    cv2.setNumThreads(request.param)
    yield request.param
    cv2.setNumThreads(before)


def test_what_both_return_comes_in_their_order(threads: int) -> None:
    assert both(lambda: "one", lambda: threads) == ("one", threads)


def test_one_that_waits_for_the_other_ends_where_there_are_two_threads() -> None:
    before = cv2.getNumThreads()
    cv2.setNumThreads(2)
    met = threading.Barrier(2, timeout=10)
    try:
        both(met.wait, met.wait)
    finally:
        cv2.setNumThreads(before)


def test_however_deep_nothing_waits_for_ever(threads: int) -> None:
    def sum_of(begin: int, end: int) -> int:
        if end - begin == 1:
            return begin
        middle = (begin + end) // 2
        return sum(both(lambda: sum_of(begin, middle), lambda: sum_of(middle, end)))

    assert sum_of(0, 64) == sum(range(64))


@pytest.mark.parametrize("count", [0, 1, 7])
def test_halves_are_all_of_it_and_nothing_twice(threads: int, count: int) -> None:
    done = np.zeros(count, int)

    def work(begin: int, end: int) -> None:
        done[begin:end] += 1

    in_halves(work, count)
    assert (done == 1).all()


@pytest.mark.parametrize("failing", ["one", "other"])
def test_an_error_of_either_is_raised(threads: int, failing: str) -> None:
    def work(name: str) -> None:
        if name == failing:
            raise ValueError(name)

    with pytest.raises(ValueError, match=failing):
        both(lambda: work("one"), lambda: work("other"))


def test_an_error_is_raised_when_what_was_begun_has_ended() -> None:
    """Otherwise it would go on writing into a picture that is somebody else's by then."""
    begun, ended = threading.Event(), list[str]()

    def one() -> None:
        assert begun.wait(10)
        raise ValueError("one")

    def other() -> None:
        begun.set()
        time.sleep(0.1)
        ended.append("other")

    before = cv2.getNumThreads()
    cv2.setNumThreads(2)
    try:
        with pytest.raises(ValueError, match="one"):
            both(one, other)
    finally:
        cv2.setNumThreads(before)
    assert ended == ["other"]


def test_a_cut_is_the_same_with_two_threads() -> None:
    made = scene()
    found = []
    before = cv2.getNumThreads()
    for count in (1, 2):
        cv2.setNumThreads(count)
        try:
            _, cut = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
        finally:
            cv2.setNumThreads(before)
        found.append(cut)
    np.testing.assert_array_equal(found[0].alpha, found[1].alpha)
    np.testing.assert_array_equal(found[0].foreground, found[1].foreground)
