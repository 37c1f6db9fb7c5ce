"""How far a verdict can be trusted: outside pictures on sets of six kinds, drawn by seeds that nothing was set on.

    ./run bench verdicts SEED [EACH]           as many frames of each kind of set, numbered from SEED on
    ./run bench verdicts vector SEED [EACH]    the same with pictures of another hand (vectors.py)
    ./run bench verdicts KIND:NUMBER ...       some of them again

Prints each frame that is off or asked about, with its reasons, and a row of the table in docs/bench.md.
"""

from __future__ import annotations

import multiprocessing
import os
import sys
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from typing import NamedTuple

import cv2
import numpy as np

from bench import composites, conditions, vectors
from bench.composites import Composite
from bench.outside import WITHIN, mistakes
from true_backdrop.core import pipeline
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

#: On white that is blown out no picture shows where white product ends.
KINDS = tuple(kind for kind in conditions.KINDS if kind != "blown out")
EACH = 40
#: Before the kind of a frame that has a picture of another hand.
_VECTOR = "vector "


class Verdict(NamedTuple):
    """Of one frame: its name, eaten product and leftover backdrop as parts of the product, whether clean, and why not."""

    name: str
    eaten: float
    left: float
    clean: bool
    reasons: tuple[str, ...]

    @property
    def off(self) -> bool:
        return max(self.eaten, self.left) > WITHIN


def frame(name: str) -> Composite:
    """The frame of a name KIND:NUMBER; the number draws the picture as well as how it is photographed."""
    kind, number = name.removeprefix(_VECTOR).rsplit(":", 1)
    if kind not in KINDS:
        raise SystemExit(f"There is no kind of set called {kind}; there are {', '.join(KINDS)}.")
    every = (vectors if name.startswith(_VECTOR) else composites).pictures()
    return conditions.photographed(every[np.random.default_rng(int(number)).integers(len(every))], kind, int(number))


def verdict(name: str) -> Verdict:
    """Cut a frame with automatic settings only."""
    cv2.setNumThreads(1)
    cv2.setRNGSeed(1)
    made = frame(name)
    decision, cut = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    judgement = decision.judgement
    return Verdict(name, *mistakes(cut.alpha, made.alpha), judgement.verdict.value == "clean", judgement.reasons)


def names(seed: int, each: int = EACH, source: str = "") -> list[str]:
    return [f"{source}{kind}:{seed + number * each + i}" for number, kind in enumerate(KINDS) for i in range(each)]


def row(name: str, found: Iterable[Verdict]) -> str:
    """A row of the table of verdicts."""
    of = list(found)
    clean, off = [v for v in of if v.clean], [v for v in of if v.off]
    missed, asked, right = sum(v.off for v in clean), sum(not v.clean for v in off), len(of) - len(off)
    return (
        f"| {name} | {len(of)} | {len(clean)} | {missed} ({100 * missed / max(1, len(clean)):.1f} %) | {len(off)} "
        f"| {asked} ({100 * asked / max(1, len(off)):.0f} %) | {len(of) - len(clean) - asked} of {right} |"
    )


def main(asked: list[str]) -> int:
    source = _VECTOR if asked[:1] == ["vector"] else ""
    numbers, by_name = asked[bool(source) :], bool(asked) and ":" in asked[0]
    if not by_name and not (numbers and all(word.isdecimal() for word in numbers)):
        print(__doc__, file=sys.stderr)
        return 2
    wanted = asked if by_name else names(*map(int, numbers[:2]), source=source)
    frame(wanted[0])  # so that its pictures are fetched before there are several to fetch them
    found = []
    # Forked, a worker would wait for threads of OpenCV that only its parent has.
    with ProcessPoolExecutor(os.cpu_count(), multiprocessing.get_context("spawn")) as workers:
        for one in workers.map(verdict, wanted):
            found.append(one)
            if by_name or one.off or not one.clean:
                state = "clean" if one.clean else "asked"
                wrong = f"eaten {100 * one.eaten:.2f} %, left {100 * one.left:.2f} %"
                print(f"{one.name}: {wrong}, {state}", *one.reasons, sep="; ", flush=True)
    print(row("these" if by_name else f"{source}{numbers[0]}, {len(wanted) // len(KINDS)} of each kind", found))
    return 0
