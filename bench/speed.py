"""Whole job per frame against the codec floor, peak memory, and the time to answer a moved control."""

from __future__ import annotations

import multiprocessing
import statistics
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import cv2
import imagecodecs
import numpy as np
from demo.seed import LAYERS, jpeg

from bench.desk import opened
from true_backdrop.core import codec, pipeline
from true_backdrop.core.picture import Picture
from true_backdrop.core.spec import SHIPPED
from true_backdrop.core.treatment import CutSettings, Treatment
from true_backdrop.jobs.whole_frames import for_whole_frames
from true_backdrop.studio.simulated.layers import Shutter, exposed, read_layer
from true_backdrop.web.preview import THREADS

SIZE = (4000, 6000)
CODES = ("HT-101", "HT-204", "HT-215", "HT-310", "HT-402", "HT-619")
SPEC = SHIPPED["pennywharf"]


def frames() -> dict[str, bytes]:
    """Six 24-megapixel JPEG frames and their backdrop frame."""
    shutter, out = Shutter(), {}
    for code in (*CODES, "empty"):
        rng = np.random.default_rng(7)
        front, back = read_layer(LAYERS / f"{code}_front.jxl"), read_layer(LAYERS / f"{code}_backdrop.jxl")
        out[code] = jpeg(exposed(front, back, shutter, rng, SIZE))
    return out


def floor(data: bytes) -> None:
    """What no program can do without: decode, area resize to 2000 px, encode."""
    pixels = imagecodecs.jpeg8_decode(data)  # the fastest decoder here
    small = cv2.resize(pixels, (2000, 1333), interpolation=cv2.INTER_AREA)
    codec.encode_jpeg(small, 85)


def whole_job(data: bytes, backdrop: Picture, proxy: np.ndarray) -> None:
    """Decode, cut, white, frame, encode 2000 x 2000 under 150 KB; the backdrop frame is decoded once for all."""
    frame, treatment = codec.decode(data, "frame"), Treatment()
    prepared = pipeline.prepare(frame, backdrop, proxy)
    decision = pipeline.decide_cut(prepared, treatment.cut, pipeline.propose_match(prepared, treatment.cut))
    decision.judged.get()
    square = pipeline.finish(frame, proxy, decision.outline, treatment, SPEC)
    if square is not None:
        pipeline.encode_for(square, SPEC)


def _timed(work: Callable[[], object]) -> float:
    began = time.process_time()
    work()
    return time.process_time() - began


def _peak(files: dict[str, bytes], answer: multiprocessing.Queue) -> None:  # type: ignore[type-arg]
    for_whole_frames()
    backdrop = codec.decode(files["empty"], "backdrop")
    proxy = pipeline.backdrop_proxy(backdrop)
    for code in CODES[:3]:
        whole_job(files[code], backdrop, proxy)
    # ru_maxrss is handed down from the process that started this one; the high-water mark is this one's own.
    status = Path("/proc/self/status").read_text()
    answer.put(int(status.split("VmHWM:")[1].split()[0]) / 1024)


def peak_memory_mb(files: dict[str, bytes]) -> float:
    """Largest resident size of a fresh process that does three frames."""
    context = multiprocessing.get_context("spawn")
    answer = context.Queue()
    process = context.Process(target=_peak, args=(files, answer))
    process.start()
    found = float(answer.get())
    process.join()
    return found


@contextmanager
def as_on_the_page() -> Iterator[None]:
    """With as many threads as the web application gives OpenCV."""
    before = cv2.getNumThreads()
    cv2.setNumThreads(THREADS)
    try:
        yield
    finally:
        cv2.setNumThreads(before)


def moved_control_ms(frame: bytes, backdrop: bytes) -> list[float]:
    """Time from a new backdrop match to the JPEG of the preview, on the desk that the page asks."""
    out = []
    with opened(frame, backdrop) as bench:
        for match in range(20, 81, 4):
            began = time.perf_counter()
            bench.look(CutSettings(match=match))
            out.append(1000 * (time.perf_counter() - began))
    return out


def table() -> list[str]:
    files = frames()
    backdrop = codec.decode(files["empty"], "backdrop")
    proxy = pipeline.backdrop_proxy(backdrop)
    floors, ratios = [], []
    for code in CODES:
        # In turns, so that a slow moment of the machine hits both; the quickest of each is nearest to the truth.
        turns = [
            (_timed(lambda c=code: floor(files[c])), _timed(lambda c=code: whole_job(files[c], backdrop, proxy)))
            for _ in range(5)
        ]
        least, job = (min(times) for times in zip(*turns, strict=True))
        floors.append(least)
        ratios.append(job / least)
    ratio = statistics.median(ratios)
    with as_on_the_page():
        moves = sorted(ms for code in CODES[:3] for ms in moved_control_ms(files[code], files["empty"]))
    memory = peak_memory_mb(files)
    return [
        "## Speed and memory, 24-megapixel JPEG frames",
        "",
        "| what | measured | aim |",
        "|---|---|---|",
        f"| whole job per frame and core, as a multiple of the codec floor (floor {statistics.median(floors):.2f} s here) | {ratio:.1f} x | 3 x |",
        f"| peak memory of a worker's work | {memory:.0f} MB | 700 MB |",
        f"| moved control to preview, 95th percentile (median {statistics.median(moves):.0f} ms) | {moves[int(0.95 * len(moves))]:.0f} ms | 150 ms |",
    ]
