"""Loops over single pixels, compiled to machine code by Numba; kept beside the source after the first use."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., object])


def compiled(function: F) -> F:
    """The function, compiled on first call for the types it is called with. It lets other threads run.

    What it is given is not checked: every index has to be in range by the caller's own doing.
    """
    return cast(F, numba.njit(cache=True, nogil=True, error_model="numpy")(function))
