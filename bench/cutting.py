"""What a person waits for at the station Cut: a whole cut-out, a finished size, a preview, a touch, the chart of a set."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from bench.desk import opened
from bench.speed import CODES, SPEC, as_on_the_page, floor, frames
from true_backdrop.core import codec, pipeline
from true_backdrop.core.cut.levels import chart, risk
from true_backdrop.core.treatment import CutSettings, Hands, Touch, TouchSettings, Treatment

SHOTS = 300


def _ms(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return 1000 * (time.perf_counter() - began)


def touches_ms(frame: bytes, backdrop: bytes) -> list[float]:
    """From a touch to the JPEG of the new picture, on the desk that the page asks; each touch on top of those before."""
    out, strokes = [], list[Touch]()
    with opened(frame, backdrop) as bench:
        for number in range(8):
            x, y = 0.35 + 0.04 * number, 0.3 + 0.05 * number
            kind = "product" if number % 2 else "backdrop"
            strokes.append(
                Touch(kind=kind, points=((x, y), (x + 0.02, y + 0.03)), width=0.01, reach=(0.0, 0.2, 0.3, 0.5)[number % 4])
            )
            hands = Hands(touches=TouchSettings(strokes=tuple(strokes)))
            out.append(_ms(lambda hands=hands: bench.look(hands=hands)))
    return out


def table() -> list[str]:
    files = frames()
    backdrop = codec.decode(files["empty"], "empty")
    proxy = pipeline.backdrop_proxy(backdrop)
    whole, sized, preview, floors, verdict, planes = [], [], [], [], [], []
    settings, treatment = CutSettings(), Treatment()
    for code in CODES:
        frame = codec.decode(files[code], code)
        whole.append(_ms(lambda frame=frame: pipeline.cut_frame(frame, backdrop, settings)[0].judgement))
        prepared = pipeline.prepare(frame, backdrop, proxy)
        proposal = pipeline.propose_match(prepared, settings)
        decision = pipeline.decide_cut(prepared, settings, proposal)
        sized.append(_ms(lambda f=frame, d=decision: pipeline.finish(f, proxy, d.outline, treatment, SPEC)))
        # In turns with the codec floor, as in speed.py: the quickest of each is nearest to the truth.
        with as_on_the_page():
            turns = [
                (_ms(lambda p=prepared, d=proposal: pipeline.decide_cut(p, settings, d)), _ms(lambda c=code: floor(files[c])))
                for _ in range(7)
            ]
        looked, least = (min(times) for times in zip(*turns, strict=True))
        preview.append(looked)
        floors.append(least)
        unjudged = pipeline.decide_cut(prepared, settings, proposal)
        with as_on_the_page():
            verdict.append(_ms(lambda d=unjudged: d.judgement))
        planes.append(
            (
                pipeline.levels_of(prepared, decision, settings.material),
                decision.match,
            )
        )
    stored = [(codec.encode_plane(plane), match) for plane, match in planes]

    def tune() -> None:
        chart((n, risk(codec.decode_plane(stored[n % len(stored)][0]), stored[n % len(stored)][1])) for n in range(SHOTS))

    with as_on_the_page():
        touches = sorted(ms for code in CODES[:3] for ms in touches_ms(files[code], files["empty"]))
    rows = [
        (
            "whole 24-megapixel cut-out, decoded frame to alpha, colour and verdict, one core, median",
            statistics.median(whole),
            1500,
        ),
        ("cut and finished at 2000 px, outline decided, median", statistics.median(sized), 350),
        (
            "proxy preview: outline at the proposed match, quickest of seven, median "
            f"({statistics.median(preview) / statistics.median(floors):.2f} of the codec floor in turn with it)",
            statistics.median(preview),
            60,
        ),
        ("its verdict and places, asked for beside the picture, median", statistics.median(verdict), None),
        (
            f"touch to new picture, 95th percentile (median {statistics.median(touches):.0f} ms)",
            touches[int(0.95 * len(touches))],
            200,
        ),
        (f"chart of {SHOTS} shots x 33 values from stored planes, one core", min(_ms(tune) for _ in range(3)), 4000),
    ]
    return [
        "## At the station Cut, 24-megapixel frames",
        "",
        "| what | measured | aim |",
        "|---|---|---|",
        *(f"| {what} | {value:.0f} ms | {'none' if aim is None else f'{aim} ms'} |" for what, value, aim in rows),
    ]
