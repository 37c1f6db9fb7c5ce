"""A process that works on whole frames, one after the other."""

from __future__ import annotations

import ctypes

import cv2

#: GNU C library, malloc.h: the options of mallopt(3).
_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3
#: Larger than anything that one frame needs (bytes).
_ALL = 2**30


def for_whole_frames() -> None:
    """Set this process to work on one frame at a time, in one thread, with memory that it keeps for the next one.

    By default the C library gives large arrays back at once, and the kernel clears them anew for each frame: a tenth of the
    time. Another library is left as it is.
    """
    cv2.setNumThreads(1)
    set_option = getattr(ctypes.CDLL(None), "mallopt", None)
    if set_option is not None:
        set_option(_MMAP_THRESHOLD, _ALL)
        set_option(_TRIM_THRESHOLD, _ALL)
