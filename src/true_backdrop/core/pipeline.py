"""The stages in order: prepare, decide, cut, finish. The same code for preview and final.

    frame, backdrop ─ prepare ─▶ Prepared ─ decide_cut ─▶ Decision ─ cut_whole / look / finish ─▶ pixels

`Prepared` does not depend on any setting, so a moved control starts at `decide_cut`.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np

from true_backdrop.core import codec
from true_backdrop.core.arrays import EncodedRGB, LinearRGB, Plane
from true_backdrop.core.cut import align as alignment
from true_backdrop.core.cut.edge import CutOut, View, cut_view, resample
from true_backdrop.core.cut.evidence import Evidence, gather
from true_backdrop.core.cut.outline import Outline, trace
from true_backdrop.core.cut.propose import Proposal, propose
from true_backdrop.core.cut.region import decide
from true_backdrop.core.cut.verdict import Judgement, judge
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.finish.compose import encode_over, exact_white, on_square, unsharp_mask
from true_backdrop.core.finish.framing import Placement, place
from true_backdrop.core.finish.ground import fade_to_rim, own_shadow
from true_backdrop.core.picture import Picture, Region, proxy_size
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import CutSettings, Treatment

#: Long side of the proxy on which the outline is decided, whatever the frame's size.
PROXY_LONG_SIDE = 1280
#: Raised whenever the same inputs would give another cut or finish; part of every stage key.
CODE_VERSION = "1"


@dataclass(frozen=True, slots=True)
class Prepared:
    """A frame and its backdrop frame, compared. Nothing here depends on a setting."""

    aligned: alignment.Aligned
    evidence: Evidence
    backdrop_proxy: LinearRGB
    frame_size: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Decision:
    """Where the outline lies, at which backdrop match, and what to think of it."""

    outline: Outline
    match: int
    proposal: Proposal
    judgement: Judgement


def backdrop_proxy(backdrop: Picture) -> LinearRGB:
    """The backdrop frame at the size of the proxy; the same for every frame that is held against it."""
    return backdrop.linear(size=proxy_size(backdrop.height, backdrop.width, PROXY_LONG_SIDE))


def prepare(frame: Picture, backdrop: Picture, proxy: LinearRGB | None = None) -> Prepared:
    """Compare a frame with its backdrop frame on the proxy.

    `proxy` is `backdrop_proxy(backdrop)` where that is kept ready.

    Raises
    ------
    BackdropDoesNotFit
        When they differ in size, exposure or scene.
    """
    if (frame.height, frame.width) != (backdrop.height, backdrop.width):
        raise BackdropDoesNotFit(
            f"the frame is {frame.width} x {frame.height} px but the backdrop frame is {backdrop.width} x "
            f"{backdrop.height} px; shoot both with the same camera setting"
        )
    return prepare_proxies(
        frame.linear(size=proxy_size(frame.height, frame.width, PROXY_LONG_SIDE)),
        backdrop_proxy(backdrop) if proxy is None else proxy,
        (frame.height, frame.width),
    )


def prepare_proxies(frame: LinearRGB, backdrop: LinearRGB, frame_size: tuple[int, int]) -> Prepared:
    """The same, from proxies that are there already."""
    aligned = alignment.align(frame, backdrop)
    return Prepared(aligned, gather(aligned), backdrop, frame_size)


def propose_match(prepared: Prepared, settings: CutSettings) -> Proposal:
    """The automatic backdrop match and how it compares with other values."""
    return propose(prepared.aligned, settings.material)


def decide_cut(prepared: Prepared, settings: CutSettings, proposal: Proposal) -> Decision:
    """Find the outline at the chosen backdrop match, or at the proposed one."""
    match = proposal.match if settings.match is None else settings.match
    product = decide(prepared.evidence, match, settings.material)
    outline = trace(prepared.aligned, product, settings.material)
    return Decision(outline, match, proposal, judge(prepared.aligned, prepared.evidence, outline, proposal, match))


def cut_frame(frame: Picture, backdrop: Picture, settings: CutSettings) -> tuple[Decision, CutOut]:
    """The whole cut at the frame's own size. The cut-out is full-frame, alpha 0 where there is no product."""
    prepared = prepare(frame, backdrop)
    decision = decide_cut(prepared, settings, propose_match(prepared, settings))
    size = (frame.height, frame.width)
    alpha = np.zeros(size, np.float32)
    foreground = np.zeros((*size, 3), np.float32)
    window = product_window(decision.outline, size)
    if window is not None:
        view = View(window, (window.height, window.width), size)
        part = cut_view(frame.linear(window), backdrop.linear(window), decision.outline, view)
        alpha[window.slices], foreground[window.slices] = part.alpha, part.foreground
    return decision, CutOut(alpha, foreground)


def product_window(outline: Outline, frame_size: tuple[int, int]) -> Region | None:
    """All that is or may be product, in frame pixels; None when nothing is."""
    if outline.box is None:
        return None
    factor = frame_size[0] / outline.shape[0]
    box = outline.box
    return Region(
        int(box.top * factor),
        int(box.left * factor),
        min(frame_size[0], int(np.ceil(box.bottom * factor))),
        min(frame_size[1], int(np.ceil(box.right * factor))),
    )


def product_box(outline: Outline, frame_size: tuple[int, int]) -> tuple[float, float, float, float] | None:
    """Top, left, bottom, right of the product in frame pixels, or None."""
    rows, columns = np.flatnonzero(outline.product.any(axis=1)), np.flatnonzero(outline.product.any(axis=0))
    if rows.size == 0:
        return None
    down, across = frame_size[0] / outline.shape[0], frame_size[1] / outline.shape[1]
    return rows[0] * down, columns[0] * across, (rows[-1] + 1) * down, (columns[-1] + 1) * across


def finish(frame: Picture, backdrop: LinearRGB, outline: Outline, treatment: Treatment, spec: Spec) -> EncodedRGB | None:
    """The finished square (side, side, 3) for one outlet, or None when there is no product to show.

    The work is done at the size that the square needs: a frame larger than that is averaged down before
    the cut, a smaller one is cut at its own size and enlarged with it. `backdrop` is the proxy of the
    backdrop frame: an empty set is smooth, and averaged it carries less noise into the edges.
    """
    size = (frame.height, frame.width)
    box = product_box(outline, size)
    if box is None:
        return None
    placement = place(box, size, spec.wanted_coverage or treatment.frame.coverage, spec.side_px)
    shown, ground = _finished_parts(
        frame, backdrop, outline, placement, 0.0 if spec.shadow == "none" else treatment.ground.shadow
    )
    part = exact_white(encode_over(shown.foreground, shown.alpha, ground), shown.alpha)
    square = on_square(part, placement.offset, placement.side_px)
    return unsharp_mask(square, treatment.sharpen.amount, treatment.sharpen.radius_of_side)


def _finished_parts(
    frame: Picture, backdrop: LinearRGB, outline: Outline, placement: Placement, shadow: float
) -> tuple[CutOut, Plane]:
    view = View(placement.window, placement.shape, (frame.height, frame.width))
    cut = cut_view(frame.linear(placement.window, placement.shape), resample(backdrop, view), outline, view)
    if shadow == 0:
        return cut, np.ones(placement.shape, np.float32)
    ground = np.ones((placement.side_px, placement.side_px), np.float32)
    top, left = placement.offset
    rows, columns = slice(top, top + placement.shape[0]), slice(left, left + placement.shape[1])
    ground[rows, columns] = own_shadow(resample(outline.shadow, view), shadow)
    return cut, fade_to_rim(ground)[rows, columns]


def encode_for(square: EncodedRGB, spec: Spec) -> tuple[bytes, int | None]:
    """The bytes that an outlet gets, and the JPEG quality used."""
    if spec.format == "png":
        return codec.encode_png(square, density_ppi=spec.density_ppi), None
    if spec.max_bytes is not None:
        return codec.encode_jpeg_under(square, spec.max_bytes, density_ppi=spec.density_ppi)
    quality = spec.quality or 85
    return codec.encode_jpeg(square, quality, density_ppi=spec.density_ppi), quality


def cut_key(frame_sha: str, backdrop_sha: str, settings: CutSettings) -> str:
    """Key of a cut: equal for equal inputs, settings and code."""
    return _key("cut", frame_sha, backdrop_sha, settings.model_dump_json())


def finish_key(cut: str, treatment: Treatment, spec: Spec) -> str:
    """Key of a finished picture. The cut's own settings are in the cut's key."""
    parts = (treatment.ground, treatment.frame, treatment.sharpen, spec)
    return _key("finish", cut, *(part.model_dump_json() for part in parts))


def _key(*parts: str) -> str:
    return hashlib.sha256("\x1f".join((CODE_VERSION, *parts)).encode()).hexdigest()
