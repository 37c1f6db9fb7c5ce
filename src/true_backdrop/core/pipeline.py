"""The stages in order: prepare, decide, cut, finish. The same code for preview and final.

    frame, backdrop ─ prepare ─▶ Prepared ─ decide_cut ─▶ Decision ─ cut_whole / look / finish ─▶ pixels

`Prepared` does not depend on any setting, so a moved control starts at `decide_cut`.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.close_up import part_of
from true_backdrop.core.cut.by_hand import by_hand, dropped
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.edge import CutOut, Light, View, as_seen, cut_view, enlarged, resample
from true_backdrop.core.cut.glass import seen_through
from true_backdrop.core.cut.levels import Levels, levels
from true_backdrop.core.cut.material import seems_made_of
from true_backdrop.core.cut.outline import Outline, trace
from true_backdrop.core.cut.propose import Proposal, propose
from true_backdrop.core.cut.shapes import box_in_parts
from true_backdrop.core.cut.touches import said_product, touched
from true_backdrop.core.cut.verdict import Judgement, by_retoucher, guessed, judge, with_complaint
from true_backdrop.core.finish.finishing import encode_for, finish, product_box, product_window
from true_backdrop.core.later import Later
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.prepare import (
    PROXY_LONG_SIDE,
    Beside,
    Prepared,
    backdrop_proxy,
    empty_in_its_light,
    prepare,
    prepare_guessed,
    prepare_proxies,
    prepare_with,
    with_hand_made,
    with_silhouette,
)
from true_backdrop.core.side_by_side import both
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import CutSettings, Hands, Material, Touch, TouchSettings, Treatment

#: Raised whenever the same inputs would give another cut or finish; part of every stage key.
CODE_VERSION = "50"
UNTOUCHED = Hands()

__all__ = [
    "CODE_VERSION",
    "PROXY_LONG_SIDE",
    "UNTOUCHED",
    "Beside",
    "Decision",
    "Prepared",
    "after_touches",
    "backdrop_proxy",
    "cut_frame",
    "cut_key",
    "decide_cut",
    "empty_in_its_light",
    "encode_for",
    "finish",
    "finish_key",
    "is_small",
    "levels_of",
    "outline_at",
    "prepare",
    "prepare_guessed",
    "prepare_proxies",
    "prepare_with",
    "product_at",
    "product_box",
    "product_on_proxy",
    "product_window",
    "propose_match",
    "seems",
    "with_hand_made",
    "with_silhouette",
]


@dataclass(frozen=True, slots=True)
class Decision:
    """Where the outline lies, at which backdrop match, and what to think of it (`judgement`, worked out when first asked for).

    `found` is the box around the product before outlines by hand, which those that follow the product are placed in: left,
    top, right, bottom in parts of the frame.
    """

    outline: Outline
    match: int
    proposal: Proposal
    judged: Later[Judgement]
    found: tuple[float, float, float, float] | None = None

    @property
    def judgement(self) -> Judgement:
        return self.judged.get()


def propose_match(prepared: Prepared, settings: CutSettings, *, survey: bool = False) -> Proposal:
    """The automatic backdrop match and how it compares with other values; with `survey`, with the whole range."""
    return propose(prepared.seen.busy, settings.material, survey=survey)


def outline_at(prepared: Prepared, match: int, material: Material, hands: Hands = UNTOUCHED) -> Outline:
    """The outline at a backdrop match that was settled before: a cut taken up again, not made again."""
    at_match = product_at(prepared, match, material)
    product = after_touches(prepared, at_match, hands.touches.strokes)
    return _in_frame(prepared, _traced(prepared, product, at_match, material, hands), hands)


def product_at(
    prepared: Prepared,
    match: float,
    material: Material,
    proposal: Proposal | None = None,
    kept: Callable[[float, Callable[[], Mask]], Mask] | None = None,
) -> Mask:
    """The product (H, W) on the proxy of what is seen, at a backdrop match, before anybody touched it.

    What a `proposal` for that material has tried already is not decided again; all else is asked of `kept`, which gets a match
    and a function that decides it: other matches are needed to complete the product, and the same for many.
    """
    busy = prepared.seen.busy
    if proposal is not None and match == proposal.match:
        return proposal.product(busy)

    @cache
    def at_match(at: float) -> Mask:
        decided = None if proposal is None else proposal.decided(busy, at)
        if decided is not None:
            return decided
        return busy.decide(at, material) if kept is None else kept(at, lambda: busy.decide(at, material))

    return busy.on_proxy(busy.completed(at_match(match), material, at_match))


def after_touches(prepared: Prepared, product: Mask, strokes: tuple[Touch, ...], done: int = 0) -> Mask:
    """Such a product (H, W) after touches (in parts of the frame), the first `done` of which it has already."""
    seen = _hands_seen(prepared, Hands(touches=TouchSettings(strokes=strokes))).touches.strokes
    return touched(product, prepared.seen.aligned, seen, done)


def _hands_seen(prepared: Prepared, hands: Hands) -> Hands:
    """What was done by hand in parts of what is seen."""
    return hands if prepared.close is None else prepared.close.seen_by(hands)


def _in_frame(prepared: Prepared, outline: Outline, hands: Hands) -> Outline:
    return outline if prepared.close is None else prepared.close.traced(outline, hands)


def _traced(prepared: Prepared, product: Mask, at_match: Mask, material: Material, hands: Hands) -> Outline:
    """The outline of a product (H, W) after touches, with what else was done by hand; `at_match` is it before.

    All of it is on the proxy of what is seen, which may be a part of the frame; see `_in_frame`.
    """
    hands, seen = _hands_seen(prepared, hands), prepared.seen
    if prepared.hand_made is not None:
        product = prepared.hand_made.product((int(product.shape[0]), int(product.shape[1])))
    removed = at_match & ~product
    taken_out = cv2.dilate(removed.astype(np.uint8), np.ones((7, 7), np.uint8)) > 0 if removed.any() else None
    kept = said_product(hands.touches.strokes, product)
    unsaid = material == "auto" and prepared.hand_made is None
    outline, through = both(
        lambda: trace(seen.aligned, seen.plainly, product, material, seen.backlit, taken_out, kept),
        lambda: seen_through(seen.evidence, product) if unsaid else None,
    )
    light = seen.aligned, seen.evidence, outline.shadow
    work = by_hand(hands, material, *light, product, made=prepared.hand_made, through=through)
    if work is None:
        return outline
    return replace(outline, by_hand=work, product=dropped(work.outlines, product))


def decide_cut(
    prepared: Prepared,
    settings: CutSettings,
    proposal: Proposal,
    hands: Hands = UNTOUCHED,
    *,
    at_match: Mask | None = None,
    product: Mask | None = None,
) -> Decision:
    """Find the outline at the chosen backdrop match, or at the proposed one; then what was done by hand.

    `at_match` is `product_at` for the chosen match, `product` the same after all touches, where they are there already.
    """
    match = proposal.match if settings.match is None else settings.match
    moved = match != proposal.match
    before = product_at(prepared, match, settings.material, proposal) if at_match is None else at_match
    if product is None:
        product = after_touches(prepared, before, hands.touches.strokes)
    outline, found = _traced(prepared, product, before, settings.material, hands), box_in_parts(product)

    def judged() -> Judgement:
        proposed = proposal.product(prepared.seen.busy) if moved else before
        judgement = _judged(prepared, settings.material, (outline, before, proposed), match, proposal)
        if prepared.close is None:
            return judgement
        return replace(judgement, places=tuple(prepared.close.place(place) for place in judgement.places))

    if prepared.close is not None and found is not None:
        found = prepared.close.box(found)
    return Decision(_in_frame(prepared, outline, hands), match, proposal, Later(judged), found)


def _judged(
    prepared: Prepared, material: Material, found: tuple[Outline, Mask, Mask], match: int, proposal: Proposal
) -> Judgement:
    """What to think of an outline; `found` is that, and the product (H, W) at the match and at the proposed one, untouched."""
    if prepared.hand_made is not None:
        judgement = by_retoucher(found[0].product)
    else:
        decided = _decided(prepared, material, found, match, proposal)
        judgement = judge(prepared.seen.aligned, prepared.seen.evidence, prepared.seen.plainly, decided)
    if prepared.complaint is not None:
        judgement = with_complaint(judgement, prepared.complaint)
    return guessed(judgement, prepared.guessed) if prepared.guessed else judgement


def _decided(
    prepared: Prepared, material: Material, found: tuple[Outline, Mask, Mask], match: int, proposal: Proposal
) -> Decided:
    outline, at_match, proposed = found
    busy, clear, by_hand = prepared.seen.busy, material == "clear", outline.by_hand
    return Decided(
        outline.product,
        at_match,
        proposed,
        proposal.moving(busy),
        match,
        proposal.unrest,
        busy,
        busy.on_proxy(busy.closing.hinted),
        clear,
        material == "auto",
        None if clear or by_hand is None or by_hand.clear is None else by_hand.clear > 0,
        outline.product & (outline.signed < 0),
        proposal.stricter(busy, match),
        proposal.looser(busy, match),
        outline.as_strands if material == "auto" else None,
        outline.veiled if material == "auto" else None,
        outline.printed if material == "auto" else None,
        proposal.taken(busy, match),
        proposal.strictest(busy, match),
    )


def levels_of(prepared: Prepared, decision: Decision, material: Material) -> Levels:
    """The product of a decision at every backdrop match, for the chart of its set (see cut/levels.py)."""
    seen = prepared.seen
    anchors = decision.proposal.anchors(seen.busy, decision.match, material)
    found = levels(seen.evidence, decision.outline.product, decision.match, seen.busy.region, anchors)
    return found if prepared.close is None else prepared.close.levels(found)


def seems(prepared: Prepared, decision: Decision) -> Material | None:
    """The material that the cut speaks for where nobody named one; None where there is no product."""
    return seems_made_of(prepared.seen.evidence, decision.outline)


def is_small(prepared: Prepared) -> bool:
    """Whether a product is so small in its frame that it is looked at closely, where its backdrop frame is at hand."""
    return prepared.close is not None or part_of(prepared.busy, prepared.frame_size) is not None


def product_on_proxy(prepared: Prepared, outline: Outline) -> Mask:
    """The product of an outline on the proxy of the whole frame, (H, W)."""
    shape = prepared.evidence.shape
    if outline.covers is None:
        return outline.product
    view = View(Region(0, 0, *prepared.frame_size), shape, prepared.frame_size)
    return np.asarray(resample(outline.product.astype(np.float32), view, covers=outline.covers) > 0.5)


def cut_frame(
    frame: Picture,
    backdrop: Picture | None,
    settings: CutSettings,
    silhouette: tuple[Picture, Picture | None] | None = None,
    hands: Hands = UNTOUCHED,
) -> tuple[Decision, CutOut]:
    """The whole cut at the frame's own size. The cut-out is full-frame, alpha 0 where there is no product.

    Without a backdrop frame it is guessed, and the verdict is `look again` at best. `silhouette` is the silhouette frame
    and the empty set in its light, which is guessed where it is None.
    """
    box = settings.framing
    prepared = prepare_guessed(frame, box) if backdrop is None else prepare(frame, backdrop, box=box)
    prepared = prepared.seen_for(hands)
    if silhouette is not None:
        prepared = with_silhouette(prepared, silhouette[0], empty_in_its_light(*silhouette, box), box)
    decision = decide_cut(prepared, settings, propose_match(prepared, settings), hands)
    size = (frame.height, frame.width)
    whole = CutOut.empty(size)
    window = product_window(decision.outline, size)
    if window is not None:
        view = View(window, (window.height, window.width), size)
        # A backdrop that was guessed, or moved after a touched camera, is there at the proxy's size only.
        shot = None if prepared.aligned.corrected else backdrop
        behind = enlarged(prepared.backdrop_proxy, view) if shot is None else as_seen(_part_of(shot, window))
        backlit = None
        if silhouette is not None and prepared.backlit_proxy is not None:
            backlit = _part_of(silhouette[0], window), enlarged(prepared.backlit_proxy, view)
        part = CutOut(whole.alpha[window.slices], whole.foreground[window.slices])
        cut_view(_part_of(frame, window), behind, decision.outline, view, backlit, into=part)
    return decision, whole


def _part_of(picture: Picture, window: Region) -> Light:
    return lambda tile: picture.linear(tile.moved(window.top, window.left))


def cut_key(frame_sha: str, backdrop_sha: str, settings: CutSettings, hands: Hands = UNTOUCHED, silhouette: str = "") -> str:
    """Key of a cut: equal for equal inputs, settings and code. `silhouette` stands for its frames."""
    return _key("cut", frame_sha, backdrop_sha, silhouette, settings.model_dump_json(), hands.model_dump_json())


def finish_key(cut: str, treatment: Treatment, spec: Spec) -> str:
    """Key of a finished picture. The cut's own settings are in the cut's key."""
    parts = (treatment.ground, treatment.frame, treatment.sharpen, spec)
    return _key("finish", cut, *(part.model_dump_json() for part in parts))


def _key(*parts: str) -> str:
    return hashlib.sha256("\x1f".join((CODE_VERSION, *parts)).encode()).hexdigest()
