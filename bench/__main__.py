"""Run all measurements and print a table.

    ./run bench [--write]                  --write also puts the table into docs/bench.md
    ./run bench verdicts SEED [EACH]       how far verdicts can be trusted, on frames that nothing was set on (verdicts.py)

Times are ratios against a floor measured in the same run on the same files, because machines differ and
are noisy; medians over frames, one thread.
"""

from __future__ import annotations

import os

os.environ.setdefault("OMP_NUM_THREADS", "1")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
os.environ.setdefault("NUMBA_NUM_THREADS", "1")

import sys
from pathlib import Path

from bench import accuracy, compressed, conditions, cutting, drawn, lots, outside, small, speed, table, verdicts, way
from true_backdrop.jobs.whole_frames import for_whole_frames

TARGET = Path(__file__).parents[1] / "docs" / "bench.md"


def main() -> int:
    if sys.argv[1:2] == ["verdicts"]:
        return verdicts.main(sys.argv[2:])
    for_whole_frames()
    text = "# Measured\n\nMade by `./run bench --write`; see bench/ for how. One thread, one process.\n"
    at_work = speed.table, table.table, way.table, cutting.table
    right = accuracy.table, outside.table, outside.materials, lots.table, conditions.table, drawn.table
    for part in (*at_work, *right, small.table, compressed.table):
        found = "\n" + "\n".join(part()) + "\n"
        print(found, flush=True)
        text += found
    if "--write" in sys.argv:
        TARGET.parent.mkdir(exist_ok=True)
        TARGET.write_text(text)
    return 0


if __name__ == "__main__":
    sys.exit(main())
