"""Where the outline dissolves into strands: bristles, hair, fur."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.components import all_of, components, counted
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.lines_along import BetweenLines, Lines, between_lines, lines_along
from true_backdrop.core.cut.masks import rising
from true_backdrop.core.cut.ragged import ragged
from true_backdrop.core.treatment import Material

#: Half width of the unknown band along a firm outline, in proxy pixels: the lens, the proxy's own sampling
#: and the watershed's choice of one pixel each add about half a pixel.
FIRM_BAND = 1.6
#: The same where the outline is strands.
STRANDS_BAND = 9.0
#: The same where strands stand so close that the outline runs around them all.
BRISTLES_BAND = 32.0

#: Where strands are so surely there (0 to 1) nobody needs to say that there are any.
OPENS = 0.5

#: How far around the roughness of the outline is taken, in parts of the long side.
_ROUGH_SIGMA = 0.012


def strandedness(product: Mask, material: Material, long_side: int) -> Plane:
    """0 along a firm outline, 1 where the outline dissolves into strands: how much of it is thin detail."""
    if material == "strands":
        return np.ones(product.shape, np.float32)
    mask = product.astype(np.uint8)
    side = max(5, round(0.006 * max(product.shape))) | 1
    body = cv2.morphologyEx(mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    detail = halved((mask - body).astype(np.float32))
    rough = halved(cv2.morphologyEx(mask, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).astype(np.float32))
    sigma = _ROUGH_SIGMA * long_side / 2
    near = _summed(rough, sigma)
    # A straight outline gives a gradient one pixel wide at this size, so its length within the Gaussian is
    # 1 after this scaling; strands give many times that.
    length = near * sigma * np.sqrt(2 * np.pi)
    parts = _summed(detail, sigma) / np.maximum(near, 1e-4)
    crowded = np.clip((length - 2.2) / 1.6, 0, 1) * np.clip(parts * 4, 0, 1)
    return doubled(crowded.astype(np.float32), product.shape)


def _summed(plane: Plane, sigma: float) -> Plane:
    """A Gaussian mean (h, w) of what is nothing beyond the plane."""
    return np.asarray(cv2.GaussianBlur(plane, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT), np.float32)


#: From and to which share of the gradient along the outline, strength of it (log units a pixel at half size)
#: and part of fine lines a place goes from firm to bristles.
_BRISTLE_SHARE = (0.16, 0.26)
_BRISTLE_RUN = (0.08, 0.14)
_BRISTLE_FINE = (0.20, 0.35)

#: Along nearly all of the outline of fur this share of the gradient runs along it, with this strength.
_FUR_SHARE = 0.11
_FUR_RUN = 0.05
#: From and to such a share fur that is not grey is told from thin limbs of several colours; leaves are where so much is fine
#: lines, and chains where so much backdrop is seen.
_COLOURED_FUR_SHARE, _LEAVES_FINE, _CHAIN_GAPS = (0.25, 0.4), (0.14, 0.2), (0.45, 0.6)


#: Strands cover pixels in part: from and to such a part of what is like backdrop is not very like it.
_PARTLY = (0.15, 0.25)
#: From and to so much of a surface there are no strands.
_SURFACE = (0.05, 0.12)
#: From and to so many gaps there are strands, and fur.
_GAPS = (0.12, 0.22)
_FUR_GAPS = (0.15, 0.22)
#: From and to such a share of what is inside fur is grey or white.
_GREY_FUR = (0.4, 0.7)


#: Where nearly all of the gradient runs along the outline and much backdrop is between, strands may be faint: from and to such
#: values of the same. Rims, wires and rope do not reach that.
_PLAIN_SHARE, _FAINT_RUN, _FAINT_FINE, _PLAIN_GAPS = (0.54, 0.62), (0.05, 0.07), (0.03, 0.08), (0.3, 0.5)
#: On the whole they differ so much from the backdrop (log units); glass does not.
_UNLIKE = (0.12, 0.2)
#: From and to such a share they may be opened without anybody saying that they are strands.
_OPEN_SHARE = (0.46, 0.54)


#: Print on cloth goes on as it is where strands have long met: from and to such parts of what is seen along the outline as much
#: is seen deep inside.
_PRINTED = (0.25, 0.4)
#: And its outline is firm: less than such a part of that is ragged, as it is where strands end at different places. Of printed
#: cloth it was 0.44 at most, of bristles and hair 0.7 at least. And less than such a part of what is inside is just as the
#: backdrop: 0.004 at most and 0.02 at least.
_RAGGED, _BARE = 0.57, 0.012


#: Beside such a place strands may run along the outline as well: where there are so many gaps, and so much is fine lines, in
#: parts of what is there; and they are so much of both at least.
_ALSO_GAPS, _ALSO_FINE, _PART = 0.2, 0.25, 0.15


@dataclass(frozen=True, slots=True)
class Bristling:
    """Planes (H, W), 0 to 1, where there are any.

    dense    where dense strands cross the outline
    sure     and where that is beyond doubt
    printed  where they would be, but for a pattern that goes on deep inside: print or weave in the backdrop's light
    """

    dense: Plane
    sure: Plane
    printed: Plane


def bristling(evidence: Evidence, signed: Plane, shade: Plane, material: Material, before: Plane | None = None) -> Bristling:
    """Where an outline is one of strands.

    `signed` is the distance to the outline in pixels, `shade` the tone of the backdrop there, (H, W) each. `before` (H, W) is
    `sure` from before the outline was opened between strands; farther in they go on.

    Bristles change the tone along the outline; an edge, and the lines in glass, change it across. So: how much
    of the tone's gradient near the outline runs along it, how strong that part is, how much of the place is fine
    lines, and how much backdrop is seen between them, and deeper inside.
    """
    nothing = np.zeros(signed.shape, np.float32)
    if material in ("solid", "clear", "pale"):
        return Bristling(nothing, nothing, nothing)
    lines = lines_along(evidence, signed)
    dense = rising(lines.share, _BRISTLE_SHARE) * rising(lines.run, _BRISTLE_RUN) * rising(lines.fine, _BRISTLE_FINE)
    plain = rising(lines.share, _PLAIN_SHARE) * rising(lines.run, _FAINT_RUN) * rising(lines.fine, _FAINT_FINE)
    fluffy = material == "auto" and _fluffy(lines)
    if before is None and not (dense.any() or plain.any() or fluffy):
        return Bristling(nothing, nothing, nothing)
    seen = between_lines(evidence, lines, shade)
    partly, unlike = rising(seen.partly, _PARTLY) * (1 - rising(seen.surface, _SURFACE)), rising(seen.unlike, _UNLIKE)
    dense *= rising(seen.gaps, _GAPS) * partly
    plain *= rising(seen.gaps, _PLAIN_GAPS) * unlike * partly
    printed = np.zeros_like(dense) if material == "strands" else _printed(lines, seen, evidence.long_side)
    woven = np.maximum(dense, plain) * printed
    dense, plain = dense * (1 - printed), plain * (1 - printed)
    sure = np.maximum(dense * rising(lines.share, _OPEN_SHARE) * unlike, plain)
    if before is not None:
        sure = np.maximum(sure, halved(halved(before)))
    beside = _beside((sure > OPENS) & lines.near, lines, seen)
    sure, dense = np.maximum(sure, beside), np.maximum(np.maximum(dense, plain), beside)
    if fluffy:
        fur = _fur(lines, seen) * np.float32((STRANDS_BAND - FIRM_BAND) / (BRISTLES_BAND - FIRM_BAND))
        # What goes on deep inside along most of the outline is the pattern of the whole.
        mostly = np.float32(np.median(printed[lines.near]))
        dense, woven = np.maximum(dense, fur * (1 - mostly)), np.maximum(woven, fur * mostly * lines.near)
    half = int(signed.shape[0] // 2), int(signed.shape[1] // 2)

    def large(plane: NDArray[np.floating]) -> Plane:
        return doubled(doubled(np.asarray(plane, np.float32), half), signed.shape) if plane.any() else nothing

    return Bristling(large(dense), large(sure), large(woven))


def _printed(lines: Lines, seen: BetweenLines, long_side: int) -> Plane:
    """1 where a pattern that is not just the backdrop goes on deep inside, and the outline is that of cloth, else 0 (h, w)."""
    printed = rising(seen.deeper, _PRINTED)
    labels, stats = components(printed > 0, 8)
    count = len(stats)
    size = counted(labels, lines.near, count)
    rough = counted(labels, lines.near & ragged(lines.distance > 0, long_side), count)
    bare = np.bincount(labels[lines.near], weights=seen.bare[lines.near], minlength=count)
    return np.asarray(printed * ((rough < _RAGGED * size) & (bare < _BARE * size))[labels], np.float32)


def _fluffy(lines: Lines) -> bool:
    """Whether enough of the gradient runs along nearly all of the outline, as on fur."""
    near = lines.near
    if not near.any() or np.percentile(lines.share[near], 20) <= _FUR_SHARE:
        return False
    return bool(np.median(lines.run[near]) > _FUR_RUN)


def _fur(lines: Lines, seen: BetweenLines) -> float:
    """1 where it is fluffy all round, and too soft to be told from glass at any single place, else 0.

    Short fur hardly shows backdrop between its hairs; rope and metal that are told from it are tinted.
    """
    near = lines.near
    share = float(np.percentile(lines.share[near], 20))
    backdrop, grey = (np.array([part]) for part in seen.shown)
    partly, surface = (np.array([np.median(plane[near])]) for plane in (seen.partly, seen.surface))
    open_there = rising(partly, _PARTLY) * (1 - rising(surface, _SURFACE))
    fine = np.array([np.median(lines.fine[near])])
    told = np.maximum(rising(np.array([share]), _COLOURED_FUR_SHARE), rising(fine, _LEAVES_FINE))
    told = np.maximum(told, rising(backdrop, _CHAIN_GAPS))
    shown = rising(backdrop, _FUR_GAPS) * told
    return float((np.maximum(shown, rising(grey, _GREY_FUR)) * open_there)[0])


def _beside(sure: Mask, lines: Lines, seen: BetweenLines) -> Plane:
    """1 where strands go on (h, w) from where they are beyond doubt, else 0."""
    found = np.zeros(sure.shape, np.float32)
    if not sure.any():
        return found
    fine = lines.fine > _ALSO_FINE * float(np.median(lines.fine[sure]))
    maybe = sure | (lines.near & fine & (seen.gaps > _ALSO_GAPS) & (seen.unlike > _UNLIKE[0]))
    labels, stats = components(maybe, 8)
    part = counted(labels, sure, len(stats)) / np.maximum(stats[:, cv2.CC_STAT_AREA], 1)
    found[all_of(labels, part >= _PART)] = 1
    return np.asarray(cv2.blur(found, (3, 3)), np.float32)
