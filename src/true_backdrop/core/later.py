"""A result that is worked out when first asked for, by whichever thread asks; what it was made from is let go then."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")


class Later(Generic[T]):
    """What `work` returns, worked out once. `work` must not ask for it itself; where it failed, asking again tries again."""

    def __init__(self, work: Callable[[], T]) -> None:
        self._work: Callable[[], T] | None = work
        self._result: list[T] = []
        self._lock = threading.Lock()

    def get(self) -> T:
        with self._lock:
            if self._work is not None:
                self._result.append(self._work())
                self._work = None
            return self._result[0]
