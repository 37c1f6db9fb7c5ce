"""A frame compared with its empty set, in one light or two: what a cut starts from, and no setting changes."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from true_backdrop.core.arrays import LinearRGB
from true_backdrop.core.close_up import CloseUp, close_up, part_of, small
from true_backdrop.core.compression import Rounding, rounding_of, with_rounding
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.estimate import is_plain
from true_backdrop.core.cut.evidence import Evidence, gather, plainer
from true_backdrop.core.cut.framed import as_shot, estimated_within, framed
from true_backdrop.core.cut.hand_made import HandMade
from true_backdrop.core.cut.patterned import proposed_backdrop
from true_backdrop.core.cut.pixel_noise import pixel_noise
from true_backdrop.core.cut.region import Busy, busy_part
from true_backdrop.core.cut.shift import aligned_with
from true_backdrop.core.cut.silhouette import opaque_in, same_pose
from true_backdrop.core.cut.verdict import Guess
from true_backdrop.core.dead_rim import without_dead_rim
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.picture import Picture, proxy_size
from true_backdrop.core.treatment import FramingBox, Hands

#: Long side of the proxy on which the outline is decided, whatever the frame's size.
PROXY_LONG_SIDE = 1024


@dataclass(frozen=True, slots=True)
class Prepared:
    """A frame and its backdrop frame, compared. Nothing here depends on a setting but the framing box.

    `guessed` says that there was no backdrop frame, and what stands for it was guessed from the frame: a plain backdrop, or
    something patterned before which the product is a mere proposal. `backlit` is the silhouette frame, compared with the empty
    set in its light, `backlit_proxy` that empty set, and `backlit_evidence` what the comparison tells. `hand_made` is a matte
    that came back from a retoucher, `complaint` why something that was shot beside the take could not be used. `close` is a small
    product's own part of the frame, looked at closely.
    """

    aligned: Aligned
    evidence: Evidence
    busy: Busy
    backdrop_proxy: LinearRGB
    frame_size: tuple[int, int]
    guessed: Guess | None = None
    backlit: Aligned | None = None
    backlit_proxy: LinearRGB | None = None
    backlit_evidence: Evidence | None = None
    hand_made: HandMade | None = None
    complaint: str | None = None
    close: CloseUp | None = None

    @property
    def seen(self) -> Prepared | CloseUp:
        """What a cut is decided on: the product's own part of the frame where it is small, else the whole."""
        return self.close or self

    def seen_for(self, hands: Hands) -> Prepared:
        """The same, seen as a whole where somebody touched product outside of what is looked at closely."""
        return self if self.close is None or self.close.holds(hands) else replace(self, close=None)

    @property
    def plainly(self) -> Evidence:
        """The evidence with what is seen in either light."""
        return plainer(self.evidence, self.backlit_evidence)


def backdrop_proxy(backdrop: Picture) -> LinearRGB:
    """The backdrop frame at the size of the proxy; the same for every frame that is held against it."""
    return _proxy(backdrop)[0]


def _proxy(picture: Picture) -> tuple[LinearRGB, Rounding]:
    """A picture at the size of the proxy; what a coarse encoder left of even light is evened out; and its rounding."""
    rounding = rounding_of(picture.pixels)
    return small(picture, proxy_size(picture.height, picture.width, PROXY_LONG_SIDE), rounding), rounding


def prepare(
    frame: Picture,
    backdrop: Picture | tuple[int, int],
    proxy: LinearRGB | None = None,
    box: FramingBox | None = None,
    closer: Callable[[], Picture] | None = None,
) -> Prepared:
    """Compare a frame with its backdrop frame on the proxy, inside the framing box; a small product closely as well.

    `proxy` is `backdrop_proxy(backdrop)` where that is kept ready; then `backdrop` may be its size (height, width), and `closer`
    gets the whole of it when it is needed.

    Raises
    ------
    BackdropDoesNotFit
        When they differ in size, exposure or scene.
    """
    height, width = backdrop if isinstance(backdrop, tuple) else (backdrop.height, backdrop.width)
    if (frame.height, frame.width) != (height, width):
        raise BackdropDoesNotFit(
            f"the frame is {frame.width} x {frame.height} px but the backdrop frame is {width} x {height} px; "
            "shoot both with the same camera setting"
        )
    if proxy is None:
        if isinstance(backdrop, tuple):
            raise ValueError("the size of a backdrop frame alone does not do; its proxy is needed with it")
        proxy = backdrop_proxy(backdrop)
    taken, rounding = _proxy(frame)
    whole = _with_its_noise(prepare_proxies(taken, proxy, (frame.height, frame.width), box, rounding), frame, box)
    covers = None if box is not None else part_of(whole.busy, whole.frame_size)
    if covers is None or (isinstance(backdrop, tuple) and closer is None):
        return whole
    empty = backdrop if isinstance(backdrop, Picture) else closer() if closer is not None else None
    if empty is None or (empty.height, empty.width) != whole.frame_size:
        return whole
    empty_rounding = rounding_of(empty.pixels)
    close = close_up((frame, rounding), (empty, empty_rounding), whole.aligned, covers, PROXY_LONG_SIDE)
    return replace(whole, close=close)


def prepare_guessed(frame: Picture, box: FramingBox | None = None) -> Prepared:
    """A frame without a backdrop frame, held against a guessed one (see cut/estimate.py, and cut/patterned.py).

    Raises
    ------
    BackdropDoesNotFit
        When the frame's rim shows nothing smooth that could be a backdrop, and nothing stands out from it.
    """
    taken, rounding = _proxy(frame)
    size = (frame.height, frame.width)
    guess = estimated_within(taken, box)
    # Inside a framing box the rim of the frame does not count.
    if box is not None or is_plain(taken, guess):
        return _with_its_noise(replace(prepare_proxies(taken, guess, size, box, rounding), guessed="plain"), frame, box)
    prepared = prepare_proxies(taken, proposed_backdrop(taken), size, box, rounding)
    prepared = replace(prepared, guessed="patterned", busy=replace(prepared.busy, patterned=True))
    return _with_its_noise(prepared, frame, box)


def _with_its_noise(prepared: Prepared, frame: Picture, box: FramingBox | None) -> Prepared:
    """The same with the noise of the frame's own pixels."""
    aligned = prepared.aligned
    height, width = (int(length) for length in aligned.frame.shape[:2])
    shot = None if box is None else as_shot(box, height, width)
    return replace(prepared, aligned=replace(aligned, pixel_noise=pixel_noise(frame, aligned, shot)))


def prepare_proxies(
    frame: LinearRGB,
    backdrop: LinearRGB,
    frame_size: tuple[int, int],
    box: FramingBox | None = None,
    rounding: Rounding | None = None,
) -> Prepared:
    """The same, from proxies that are there already, of a frame that a coarse encoder may have rounded."""
    if box is None:
        aligned, backdrop = aligned_with(*without_dead_rim(frame, backdrop))
    else:
        aligned, backdrop = framed(frame, backdrop, box)
    shot = None if box is None else as_shot(box, frame.shape[0], frame.shape[1])
    evidence = with_rounding(gather(aligned, shot), frame, rounding)
    return Prepared(aligned, evidence, busy_part(evidence, shot=shot), backdrop, frame_size)


def with_silhouette(prepared: Prepared, silhouette: Picture, empty_proxy: LinearRGB, box: FramingBox | None = None) -> Prepared:
    """The same with what the silhouette frame says; `empty_proxy` (H, W, 3) is the empty set in that light (`backdrop_proxy`).

    Raises
    ------
    BackdropDoesNotFit
        When the silhouette frame is of another size than the frame, or does not fit its empty set.
    """
    size = (silhouette.height, silhouette.width)
    if size != prepared.frame_size:
        raise BackdropDoesNotFit(
            f"the silhouette frame is {size[1]} x {size[0]} px but the frame is {prepared.frame_size[1]} x "
            f"{prepared.frame_size[0]} px; shoot both with the same camera setting"
        )
    dark, rounding = _proxy(silhouette)
    found = _with_its_noise(prepare_proxies(dark, empty_proxy, size, box, rounding), silhouette, box)
    if not same_pose(prepared.evidence, found.evidence):
        raise BackdropDoesNotFit("the product stands elsewhere in the silhouette frame; shoot the silhouette again")
    shot = None if box is None else as_shot(box, dark.shape[0], dark.shape[1])
    return replace(
        prepared,
        close=None,  # what two lights tell is put together on the whole
        busy=busy_part(prepared.evidence, opaque_in(prepared.evidence, found.evidence), shot),
        backlit=found.aligned,
        backlit_proxy=found.backdrop_proxy,
        backlit_evidence=found.evidence,
    )


def with_hand_made(prepared: Prepared, made: HandMade) -> Prepared:
    """The same with a matte that came back from a retoucher, which takes the place of the program's own cut.

    Raises
    ------
    BackdropDoesNotFit
        When it is of another size than the frame.
    """
    height, width = (int(length) for length in made.opacity.shape)
    if (height, width) != prepared.frame_size:
        wanted = f"{prepared.frame_size[1]} x {prepared.frame_size[0]}"
        raise BackdropDoesNotFit(f"the matte is {width} x {height} px but its frame is {wanted} px; save it at the frame's size")
    return replace(prepared, hand_made=made, close=None)


def empty_in_its_light(silhouette: Picture, empty: Picture | None, box: FramingBox | None = None) -> LinearRGB:
    """The empty set in the light of a silhouette frame, as a proxy (H, W, 3): as shot, or guessed where it was not.

    Raises
    ------
    BackdropDoesNotFit
        When there is none and the rim of the silhouette frame shows nothing smooth.
    """
    if empty is not None:
        return backdrop_proxy(empty)
    return estimated_within(backdrop_proxy(silhouette), box)


@dataclass(frozen=True, slots=True)
class Beside:
    """What was shot beside a take, and what came back from a retoucher; each None where there is none.

    backdrop    size (height, width) of the backdrop frame, and its proxy (`backdrop_proxy`)
    closer      gets the whole backdrop frame, for a small product
    silhouette  the silhouette frame under its file's name, and the proxy of its empty set, None for a guess
    """

    backdrop: tuple[tuple[int, int], LinearRGB] | None
    silhouette: tuple[str, Picture, LinearRGB | None] | None = None
    hand_made: HandMade | None = None
    closer: Callable[[], Picture] | None = None


def prepare_with(frame: Picture, beside: Beside, box: FramingBox | None = None) -> Prepared:
    """A take compared with all that was shot beside it. A silhouette that cannot be used is left out, with a complaint.

    Raises
    ------
    BackdropDoesNotFit
        As `prepare`, `prepare_guessed` and `with_hand_made`.
    """
    # What two lights tell, or a retoucher, is put together on the whole.
    closer = beside.closer if beside.silhouette is None and beside.hand_made is None else None
    if beside.backdrop is None:
        prepared = prepare_guessed(frame, box)
    else:
        prepared = prepare(frame, *beside.backdrop, box=box, closer=closer)
    if beside.hand_made is not None:
        return with_hand_made(prepared, beside.hand_made)
    if beside.silhouette is None:
        return prepared
    name, dark, empty = beside.silhouette
    try:
        return with_silhouette(prepared, dark, empty_in_its_light(dark, None, box) if empty is None else empty, box)
    except BackdropDoesNotFit as fault:
        return replace(prepared, complaint=f"cut without the silhouette frame {name}: {fault}")
