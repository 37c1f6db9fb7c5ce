"""Opacity and product colour of what a view shows, tile by tile, at any size."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, LinearRGB
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.by_hand import ByHand, meet
from true_backdrop.core.cut.clear import CALM_PX, calm_light, see_through, up_to_rims
from true_backdrop.core.cut.hand_made import HandMadeView
from true_backdrop.core.cut.interpolation import Place
from true_backdrop.core.cut.outline import Backlit, Outline
from true_backdrop.core.cut.pixel_noise import at_scale
from true_backdrop.core.cut.solve import LitBackdrop, solve_tile, unmix
from true_backdrop.core.cut.two_lights import PULL_MARGIN, PULLED_IN_PX, join_silhouette
from true_backdrop.core.picture import Box, Region
from true_backdrop.core.side_by_side import in_halves

_TILE = 128
#: So far beside clear parts (proxy pixels) a rim may begin: the clear parts were found there.
_RIM_PROXY_PX = 2.5


@dataclass(frozen=True, slots=True)
class CutOut:
    """Alpha (h, w) and straight product colour (h, w, 3) in linear light, of one region at one size."""

    alpha: Alpha
    foreground: LinearRGB

    @classmethod
    def empty(cls, size: tuple[int, int]) -> CutOut:
        """Of some height and width, without product: alpha 0 and black."""
        return cls(np.zeros(size, np.float32), np.zeros((*size, 3), np.float32))


@dataclass(frozen=True, slots=True)
class View:
    """A window of a frame at some size: `window` in pixels of the whole frame, shown as `shape` (h, w)."""

    window: Region
    shape: tuple[int, int]
    frame_size: tuple[int, int]

    def in_frame(self, tile: Region) -> Box:
        """What a tile of the view shows, in frame pixels: top, left, bottom, right."""
        down, across = self.window.height / self.shape[0], self.window.width / self.shape[1]
        top, left = self.window.top, self.window.left
        return top + tile.top * down, left + tile.left * across, top + tile.bottom * down, left + tile.right * across

    def place(self, tile: Region, size: tuple[int, int], covers: Region | None = None) -> Place:
        """Where a tile's pixels lie in a picture of the whole frame, or of the part it covers, that has another size (H, W)."""
        part = covers or Region(0, 0, *self.frame_size)
        fy, fx = size[0] / part.height, size[1] / part.width
        down, across = self.window.height / self.shape[0], self.window.width / self.shape[1]
        top, left = self.window.top + (tile.top + 0.5) * down, self.window.left + (tile.left + 0.5) * across
        return np.array([down * fy, (top - part.top) * fy - 0.5, across * fx, (left - part.left) * fx - 0.5])

    def shrunk(self, outline: Outline) -> float:
        """Frame pixels for one pixel of an outline's planes."""
        return (outline.covers.height if outline.covers else self.frame_size[0]) / outline.shape[0]


#: Linear light of a tile of a view: what is not asked for is never computed.
Light = Callable[[Region], LinearRGB]
#: The backdrop for a tile of a view: a picture of any size (H, W, 3), and where the tile lies in it.
Behind = Callable[[Region], tuple[LinearRGB, Place]]

#: The silhouette frame through the same view, and the empty set in its light.
BacklitLight = tuple[Light, Behind]

_ITSELF = np.array([1.0, 0.0, 1.0, 0.0])


def held(light: LinearRGB) -> Light:
    """The light of a view that is there as a whole, (h, w, 3)."""
    return lambda tile: light[tile.slices]


def as_seen(light: Light) -> Behind:
    """A backdrop whose pixels are those of the view."""
    return lambda tile: (light(tile), _ITSELF)


def enlarged(proxy: LinearRGB, view: View) -> Behind:
    """A backdrop that is there as the proxy of the whole frame."""
    size = (int(proxy.shape[0]), int(proxy.shape[1]))
    return lambda tile: (proxy, view.place(tile, size))


def resample(
    plane: NDArray[np.float32], view: View, tile: Region | None = None, covers: Region | None = None
) -> NDArray[np.float32]:
    """A proxy plane (H, W[, C]) as seen through `view` (or one tile of it), linear between pixel centres.

    It is of the whole frame, or of the part that it `covers`; beyond its rim the rim goes on.
    """
    tile = tile or Region(0, 0, *view.shape)
    down, top, across, left = view.place(tile, (int(plane.shape[0]), int(plane.shape[1])), covers)
    return np.asarray(
        cv2.warpAffine(
            plane,
            np.array([[across, 0, left], [0, down, top]], np.float32),
            (tile.width, tile.height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        dtype=np.float32,
    )


@dataclass(frozen=True, slots=True)
class CutTile:
    """One tile of a cut.

    alpha   (h, w), or (1, 1) where it is the same everywhere
    colour  (h, w, 3) straight product colour, or (1, 1, 3) black where there is none
    surely  0 where all is backdrop, 1 where all is product, None where it is mixed
    """

    tile: Region
    alpha: Alpha
    colour: LinearRGB
    surely: Literal[0, 1] | None = None


_NONE, _ALL = np.zeros((1, 1), np.float32), np.ones((1, 1), np.float32)
_BLACK = np.zeros((1, 1, 3), np.float32)


def cut_view(
    frame: Light,
    backdrop: Behind,
    outline: Outline,
    view: View,
    backlit: BacklitLight | None = None,
    into: CutOut | None = None,
) -> CutOut:
    """Cut what a view shows, as a whole, into an empty cut-out of its size (h, w) if one is given; see `cut_tiles`."""
    cut = CutOut.empty(view.shape) if into is None else into

    def solve(begin: int, end: int) -> None:
        for part in cut_tiles(frame, backdrop, outline, view, backlit, rows=(begin, end)):
            if part.surely != 0:
                cut.alpha[part.tile.slices], cut.foreground[part.tile.slices] = part.alpha, part.colour

    in_halves(solve, tile_rows(view))
    return cut


def tile_rows(view: View) -> int:
    """Into so many rows of tiles a view is cut."""
    return -(-view.shape[0] // _TILE)


def cut_tiles(
    frame: Light,
    backdrop: Behind,
    outline: Outline,
    view: View,
    backlit: BacklitLight | None = None,
    *,
    rows: tuple[int, int],
) -> Iterator[CutTile]:
    """Cut what a view shows, tile by tile.

    Parameters
    ----------
    frame, backdrop
        Linear light of the view's tiles, the backdrop as shot (its gain is applied here).
    outline
        The decision, made on the proxy of the same frame.
    view
        Which part of the frame this is, at which size.
    backlit
        The same of the silhouette frame, for an outline that was found with it.
    rows
        Of the rows of tiles (`tile_rows`) those from the first to before the second.

    Notes
    -----
    Each pixel depends on itself and the proxy alone, so a part equals the same part of the whole. Only the edge's settings,
    silhouettes and glass look some pixels around, which are missing beyond the view.
    """
    height, width = view.shape
    # Pixels of the view for one pixel of the proxy: lengths of the band are in proxy pixels.
    scale = height / view.window.height
    narrowest = 1.2 / (scale * view.shrunk(outline))
    hands = outline.by_hand
    made = None if hands is None or hands.made is None else hands.made.seen(view.window, view.shape)
    # So much farther than the edge itself its settings reach, in proxy pixels.
    farther = 0.0 if hands is None else hands.reach_px() / view.shrunk(outline)
    strokes = [] if hands is None else hands.where(view.frame_size)
    for top in range(rows[0] * _TILE, min(rows[1] * _TILE, height), _TILE):
        for left in range(0, width, _TILE):
            tile = Region(top, left, min(top + _TILE, height), min(left + _TILE, width))
            if made is not None:
                yield _by_retoucher(made, frame(tile), backdrop(tile), outline, view, tile)
                continue
            there = proxy_part(outline, view, tile)
            side = _side(outline.signed[there], outline.band[there], narrowest, farther)
            clear = hands is not None and hands.clear is not None and side >= 0 and bool(hands.clear[there].any())
            if side < 0:
                part = CutTile(tile, _NONE, _BLACK, 0)
            elif side > 0 and not clear:
                part = CutTile(tile, _ALL, frame(tile), 1)
            else:
                part = _solved(frame, backdrop, outline, view, tile, narrowest, backlit, hands)
            if hands is not None and any(meet(view.in_frame(tile), stroke) for stroke in strokes):
                part = _with_hands(part, frame, view, hands)
            yield part


def _by_retoucher(
    made: HandMadeView, shot: LinearRGB, behind: tuple[LinearRGB, Place], outline: Outline, view: View, tile: Region
) -> CutTile:
    """A tile of a matte that was made by hand; without retouched colour it is unmixed from the frame."""
    alpha = np.ascontiguousarray(made.alpha[tile.slices])
    if alpha.max() == 0:
        return CutTile(tile, _NONE, _BLACK, 0)
    if made.colour is not None:
        return CutTile(tile, alpha, np.ascontiguousarray(made.colour[tile.slices]))
    colour = np.empty(shot.shape, np.float32)
    at = view.place(tile, outline.shape, outline.covers)
    unmix(shot, _lit(behind, outline, outline, view, tile), outline.colour, at, alpha, colour)
    return CutTile(tile, alpha, colour)


def _with_hands(part: CutTile, frame: Light, view: View, hands: ByHand) -> CutTile:
    """A tile with exact strokes and outlines on it."""
    alpha, colour = hands.overlaid(view.in_frame(part.tile), view.frame_size, part.alpha, part.colour, frame(part.tile))
    return CutTile(part.tile, alpha, colour)


def _solved(
    frame: Light,
    backdrop: Behind,
    outline: Outline,
    view: View,
    tile: Region,
    narrowest: float,
    backlit: BacklitLight | None,
    hands: ByHand | None,
) -> CutTile:
    work = None if hands is None else hands.edge_work(view.shape[0] / view.window.height)
    # The edge's settings, the pull-in of a silhouette and glass look at pixels around: those are solved with it.
    margin = max(0 if work is None else work.margin_px, 0 if backlit is None else PULL_MARGIN)
    clear = None if hands is None else hands.clear
    if clear is not None and not clear[proxy_part(outline, view, tile)].any():
        clear = None
    reach = 0
    if clear is not None:
        reach = max(2, round(_RIM_PROXY_PX / view.place(tile, outline.shape, outline.covers)[0]))
        margin = max(margin, 2 * CALM_PX, reach)
    whole = tile.grown(margin, *view.shape)
    shot, behind = frame(whole), _lit(backdrop(whole), outline, outline, view, whole)
    alpha, colour = np.empty(shot.shape[:2], np.float32), np.empty(shot.shape, np.float32)
    at = view.place(whole, outline.shape, outline.covers)
    noise = _noise(outline, outline, view)
    solve_tile(shot, behind, outline.signed, outline.band, outline.colour, at, noise, narrowest, alpha, colour)
    if backlit is not None and outline.backlit is not None:
        dark = backlit[0](whole), _lit(backlit[1](whole), outline.backlit, outline, view, whole)
        noises = noise, _noise(outline.backlit, outline, view)
        inwards = PULLED_IN_PX * view.shape[0] / view.window.height
        join_silhouette(outline, (shot, behind), dark, at, narrowest, noises, inwards, alpha, colour)
    if hands is not None and clear is not None:
        through = np.ascontiguousarray(resample(clear, view, whole, outline.covers))
        dimmed = _shadowed(behind, outline, view, whole)
        calm = calm_light(shot, dimmed, noise)
        through = up_to_rims(through, calm, dimmed, alpha, reach)
        stopped = np.zeros_like(through)
        if hands.stopped is not None:
            stopped = np.ascontiguousarray(resample(hands.stopped, view, whole, outline.covers))
        see_through(shot, calm, dimmed, through, stopped, hands.opacity, noise, alpha, colour)
    if work is not None:
        alpha, colour = work.apply(alpha, colour)
    if margin:
        inner = tile.within(whole)
        alpha, colour = np.ascontiguousarray(alpha[inner]), np.ascontiguousarray(colour[inner])
    return CutTile(tile, alpha, colour)


def _lit(backdrop: tuple[LinearRGB, Place], light: Outline | Backlit, outline: Outline, view: View, tile: Region) -> LitBackdrop:
    """The backdrop of a tile in one of the two lights of an outline."""
    bounced = light.bounced
    place = view.place(tile, (int(bounced.shape[0]), int(bounced.shape[1])), outline.covers)
    return LitBackdrop(*backdrop, light.shadow, bounced, place, light.gain)


def _noise(lit: Outline | Backlit, outline: Outline, view: View) -> float:
    """Of a pixel of the view over the backdrop, in one of the two lights of an outline."""
    shrunk = view.shrunk(outline)
    return at_scale(lit.noise, lit.pixel_noise, shrunk, shrunk * view.shape[0] / view.window.height)


def _shadowed(backdrop: LitBackdrop, outline: Outline, view: View, tile: Region) -> LinearRGB:
    """The backdrop of a tile as it would have been shot without the product: (h, w, 3) with gain and shadow."""
    picture, (down, top, across, left) = backdrop.picture, backdrop.at
    bare = cv2.warpAffine(
        picture,
        np.array([[across, 0, left], [0, down, top]], np.float32),
        (tile.width, tile.height),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    light = resample(outline.shadow, view, tile, outline.covers)[..., None] * np.asarray(outline.gain, np.float32)
    light = light * resample(outline.bounced, view, tile, outline.covers)
    return np.ascontiguousarray(np.asarray(bare, np.float32) * light)


@compiled
def _side(signed: NDArray[np.float32], band: NDArray[np.float32], narrowest: float, farther: float) -> int:
    """1 when all of a part of the proxy is product for sure, -1 when all of it is backdrop, else 0."""
    side = 1 if signed[0, 0] > 0 else -1
    for y in range(signed.shape[0]):
        for x in range(signed.shape[1]):
            if side * signed[y, x] <= max(band[y, x], narrowest) + farther:
                return 0
    return side


def proxy_part(outline: Outline, view: View, tile: Region) -> tuple[slice, slice]:
    """Slices of the proxy that hold every pixel which a tile depends on."""
    down, top, across, left = view.place(tile, outline.shape, outline.covers)

    def span(begin: float, step: float, count: int, length: int) -> slice:
        first = min(length - 1, max(0, int(np.floor(begin))))
        return slice(first, max(first + 1, min(length, int(np.floor(begin + step * (count - 1))) + 2)))

    return span(top, down, tile.height, outline.shape[0]), span(left, across, tile.width, outline.shape[1])
