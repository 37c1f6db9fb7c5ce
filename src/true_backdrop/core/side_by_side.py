"""Two things at a time, where somebody waits for a picture: OpenCV, NumPy and compiled loops let another thread run.

It is done where OpenCV may use two threads as well, as for the page; in the workers each frame has one.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

import cv2

A = TypeVar("A")
B = TypeVar("B")

_HELPERS = ThreadPoolExecutor(2, thread_name_prefix="side-by-side")


def both(one: Callable[[], A], other: Callable[[], B]) -> tuple[A, B]:
    """What two functions return that have nothing to do with each other; the first error is raised once both have ended.

    What no helper has begun when the first is done, is done here: so whatever is worked on side by side may itself be.
    """
    if cv2.getNumThreads() < 2:
        return one(), other()
    later = _HELPERS.submit(other)
    try:
        first = one()
    finally:
        waiting = later.cancel()
        if not waiting:
            later.exception()
    return first, other() if waiting else later.result()


def in_halves(work: Callable[[int, int], None], count: int) -> None:
    """Do `work` from 0 up to `count`, each half (begin, end) by itself; neither may need what the other makes."""
    if cv2.getNumThreads() < 2:
        work(0, count)
    else:
        both(lambda: work(0, count // 2), lambda: work(count // 2, count))
