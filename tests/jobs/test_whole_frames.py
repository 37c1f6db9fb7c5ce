"""A worker keeps the memory of one frame for the next."""

from __future__ import annotations

import subprocess
import sys

import pytest

RESIDENT = """
import cv2, numpy
from pathlib import Path
from true_backdrop.jobs.whole_frames import for_whole_frames
if {set}:
    for_whole_frames()
    assert cv2.getNumThreads() == 1
def resident_mb():
    return int(Path("/proc/self/status").read_text().split("VmRSS:")[1].split()[0]) // 1024
before = resident_mb()
frame = numpy.ones(2**24, numpy.float64)
del frame
print(resident_mb() - before)
"""


@pytest.mark.parametrize("is_set", [True, False])
def test_what_a_frame_took_stays_with_the_process_that_works_on_whole_ones(is_set: bool) -> None:
    text = RESIDENT.format(set=is_set)
    done = subprocess.run([sys.executable, "-c", text], capture_output=True, text=True, check=True)
    # The frame took 128 MB.
    assert (int(done.stdout) > 64) is is_set
