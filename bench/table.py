"""From a fetched take to its finished square for the screen: the parts, with 24-megapixel takes."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from typing import Any

from bench.speed import CODES, frames
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.frames import check_frame
from true_backdrop.core import codec, pipeline
from true_backdrop.core.freshness import freshness
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import Treatment

TIMES = 3
SPEC = Spec(name="preview", title="Preview", side_px=480, quality=88, shadow="own")
AIM_S = 1.5


def _take(data: bytes, number: int, proxy: Any, size: tuple[int, int], blobs: BlobStore) -> dict[str, float]:
    """Seconds of each part, as web process and worker do them one after the other."""
    parts: dict[str, float] = {}

    def timed(name: str, work: Callable[[], Any]) -> Any:
        began = time.perf_counter()
        result = work()
        parts[name] = time.perf_counter() - began
        return result

    checked = timed("check: read whole, small picture", lambda: check_frame("take.jpg", data))
    timed("store the original", lambda: blobs.put(checked.data + bytes([number])))  # the same bytes are stored only once
    frame = timed("decode in the worker", lambda: codec.decode(data, "take.jpg"))
    treatment = Treatment()
    prepared = timed("hold against the backdrop frame", lambda: pipeline.prepare(frame, size, proxy))
    proposal = timed("propose the match", lambda: pipeline.propose_match(prepared, treatment.cut))
    decision = timed("cut and judge", lambda: pipeline.decide_cut(prepared, treatment.cut, proposal))
    timed("freshness", lambda: freshness(prepared.aligned, decision.outline.product))
    square = timed("finish for the screen", lambda: pipeline.finish(frame, proxy, decision.outline, treatment, SPEC))
    timed("encode and store it", lambda: blobs.put(codec.encode_preview(square)))
    return parts


def table() -> list[str]:
    files = frames()
    backdrop = codec.decode(files["empty"], "backdrop")
    proxy, size = pipeline.backdrop_proxy(backdrop), (backdrop.height, backdrop.width)
    del backdrop
    with tempfile.TemporaryDirectory() as folder:
        blobs = BlobStore(folder)
        _take(files[CODES[0]], 255, proxy, size, blobs)  # what is made once is not of a take
        takes = [_take(files[code], n, proxy, size, blobs) for n in range(TIMES) for code in CODES]
    sums = sorted(sum(take.values()) for take in takes)
    lines = [
        "## From a fetched take to its finished square, 24 megapixels",
        "",
        "| part | median |",
        "|---|---|",
    ]
    for name in takes[0]:
        values = sorted(take[name] for take in takes)
        lines.append(f"| {name} | {1000 * values[len(values) // 2]:.0f} ms |")
    p95 = sums[min(len(sums) - 1, int(0.95 * len(sums)))]
    lines += [
        f"| all of it, 95th percentile (median {1000 * sums[len(sums) // 2]:.0f} ms; aim with download and page: {1000 * AIM_S:.0f} ms) | {1000 * p95:.0f} ms |",
        "",
        "Not in it: the camera's own exposure and download, the queue's handing over, and the page's drawing.",
    ]
    return lines
