"""Where the outline dissolves into strands: bristles, hair, fur."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.evidence import Evidence
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


#: A fine line's tone against what is around it (log units) from which it can be a bristle.
_BRISTLE_TONE = 0.3
#: From and to which share of the gradient along the outline, strength of it (log units a pixel at half size)
#: and part of fine lines a place goes from firm to bristles.
_BRISTLE_SHARE = (0.16, 0.26)
_BRISTLE_RUN = (0.08, 0.14)
_BRISTLE_FINE = (0.20, 0.35)
#: Sigma of the neighbourhood that bristles fill, in parts of the long side; a few stripes do not.
_BRISTLES_EXTENT = 0.03

#: Along nearly all of the outline of fur this share of the gradient runs along it, with this strength.
_FUR_SHARE = 0.11
_FUR_RUN = 0.05
#: From and to such a share fur that is not grey is told from thin limbs of several colours; leaves are where so much is fine
#: lines, and chains where so much backdrop is seen.
_COLOURED_FUR_SHARE, _LEAVES_FINE, _CHAIN_GAPS = (0.25, 0.4), (0.14, 0.2), (0.45, 0.6)


#: Strands show the backdrop between them, which the surface of rope or embossed metal does not: the lightest and most neutral
#: of three by three pixels at half size differs by so little (log units).
_LIKE_BACKDROP = 0.3
#: Strands cover pixels in part, so of what is like backdrop not all is very like it; of product of the backdrop's tone it is.
_VERY_LIKE, _PARTLY = 0.1, (0.15, 0.25)
#: A light place that is even (log units a pixel) and yet so far off the backdrop around (log units) is a surface; from and to so
#: much of it there are no strands.
_EVEN, _OFF_BACKDROP, _LIGHT, _SURFACE = 0.015, 0.035, 0.4, (0.05, 0.12)
#: From and to so many gaps there are strands, and fur.
_GAPS = (0.12, 0.22)
_FUR_GAPS = (0.15, 0.22)
#: Less tint than this (log units) is none; over such a share of what is inside fur is grey or white.
_GREY, _GREY_FUR = 0.15, (0.4, 0.7)


def _rising(values: NDArray[np.floating], span: tuple[float, float]) -> NDArray[np.float32]:
    return np.asarray(np.clip((values - span[0]) / (span[1] - span[0]), 0, 1), np.float32)


#: Where nearly all of the gradient runs along the outline and much backdrop is between, strands may be faint: from and to such
#: values of the same. Rims, wires and rope do not reach that.
_PLAIN_SHARE, _FAINT_RUN, _FAINT_FINE, _PLAIN_GAPS = (0.54, 0.62), (0.05, 0.07), (0.03, 0.08), (0.3, 0.5)
#: On the whole they differ so much from the backdrop (log units); glass does not.
_UNLIKE = (0.12, 0.2)
#: From and to such a share they may be opened without anybody saying that they are strands.
_OPEN_SHARE = (0.46, 0.54)


#: Beside such a place strands may run along the outline as well: where there are so many gaps, and so much is fine lines, in
#: parts of what is there; and they are so much of both at least.
_ALSO_GAPS, _ALSO_FINE, _PART = 0.2, 0.25, 0.15


class _Means:
    """Means (h, w), at a quarter of the size, over the neighbourhood of a place, of what is `where` (h, w) alone.

    They reach so far that a quarter of the size is plenty for them.
    """

    def __init__(self, where: Plane, long_side: int) -> None:
        self._where, self._sigma = where, _BRISTLES_EXTENT * long_side / 4
        self._size = np.maximum(self._summed(where), np.float32(1e-3))

    def of(self, plane: NDArray[np.generic]) -> Plane:
        """The mean of a plane (h, w) of half the size."""
        return np.asarray(self._summed(np.asarray(plane, np.float32) * self._where) / self._size, np.float32)

    def _summed(self, plane: Plane) -> Plane:
        return _summed(halved(plane), self._sigma)


@dataclass(frozen=True, slots=True)
class _Lines:
    """Lines along the outline (h, w), at a quarter of the size, as means over the neighbourhood.

    share   of the tone's gradient that runs along it and not across (a structure tensor, Bigun and Granlund 1987)
    run     strength of that part (log units a pixel at half size)
    fine    part of fine lines
    near    where there is an outline at all
    zone    along it, at half the size (h, w); so are tone, tint and the distance to the outline, and `means` are over it
    """

    share: Plane
    run: Plane
    fine: Plane
    near: Mask
    zone: Plane
    tone: Plane
    tint: Plane
    distance: Plane
    means: _Means

    @property
    def dense(self) -> Plane:
        return _rising(self.share, _BRISTLE_SHARE) * _rising(self.run, _BRISTLE_RUN) * _rising(self.fine, _BRISTLE_FINE)

    @property
    def faint(self) -> Plane:
        return _rising(self.share, _PLAIN_SHARE) * _rising(self.run, _FAINT_RUN) * _rising(self.fine, _FAINT_FINE)

    @property
    def fluffy(self) -> bool:
        """Whether enough of the gradient runs along nearly all of the outline, as on fur."""
        near = self.near
        if not near.any() or np.percentile(self.share[near], 20) <= _FUR_SHARE:
            return False
        return bool(np.median(self.run[near]) > _FUR_RUN)


def _lines(evidence: Evidence, signed: Plane) -> _Lines:
    tone, tint = halved(np.clip(evidence.tone, -2.0, 0.5)), halved(evidence.tint)
    distance = halved(np.clip(signed, -60, 60))
    across, down = (cv2.Sobel(tone, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1)))
    shape = cv2.GaussianBlur(distance, (0, 0), 4)
    normal_x, normal_y = (cv2.Sobel(shape, cv2.CV_32F, *axis, ksize=3) for axis in ((1, 0), (0, 1)))
    length_sq = np.maximum(normal_x * normal_x + normal_y * normal_y, np.float32(1e-6))
    along = (down * normal_x - across * normal_y) ** 2 / length_sq
    zone = ((distance > -2) & (distance < BRISTLES_BAND / 2)).astype(np.float32)
    means = _Means(zone, evidence.long_side)
    run, whole = means.of(along), means.of(across * across + down * down)
    fine = means.of(halved((evidence.thin > _BRISTLE_TONE).astype(np.float32)))
    share = np.asarray(run / np.maximum(whole, np.float32(1e-5)), np.float32)
    return _Lines(share, np.asarray(np.sqrt(run), np.float32), fine, halved(zone) > 0, zone, tone, tint, distance, means)


@dataclass(frozen=True, slots=True)
class _Between:
    """What is between such lines (h, w), likewise.

    gaps    part next to which something like backdrop is seen
    partly  and how much of that is not very like it
    surface part that is light and even, and no backdrop
    unlike  difference from the backdrop (log units)
    shown   backdrop and grey that is seen inside of the outline, in parts of all that is inside
    """

    gaps: Plane
    partly: Plane
    surface: Plane
    unlike: Plane
    shown: tuple[float, float]


def _between(evidence: Evidence, lines: _Lines, shade: Plane) -> _Between:
    tone, tint = lines.tone, lines.tint
    inside = lines.zone * (lines.distance > 0.5)
    apart = tone - halved(shade)
    around = np.ones((3, 3), np.uint8)
    least = np.asarray(cv2.erode(tint, around), np.float32)
    off, in_shade = (least - np.minimum(cv2.dilate(light, around), 0) for light in (tone, np.maximum(tone, apart)))
    even = (halved(evidence.step) < _EVEN + 2 * evidence.noise) & (tint - np.minimum(apart, 0) < _LIGHT)
    surface = even & (apart < _LIGHT) & (np.abs(apart) + tint > _OFF_BACKDROP + 3 * evidence.noise)
    backdrop = (in_shade < _LIKE_BACKDROP) * inside
    within = _Means(inside, evidence.long_side)
    gaps, very_like = within.of(backdrop), within.of(off < _VERY_LIKE)
    size = max(1.0, float(inside.sum()))
    return _Between(
        gaps=gaps,
        partly=np.asarray(1 - very_like / np.maximum(gaps, np.float32(1e-3)), np.float32),
        surface=within.of(surface),
        unlike=lines.means.of(np.abs(tone) + tint),
        shown=(float(backdrop.sum()) / size, float(((tint < _GREY) * inside).sum()) / size),
    )


def bristling(
    evidence: Evidence, signed: Plane, shade: Plane, material: Material, before: Plane | None = None
) -> tuple[Plane, Plane]:
    """1 where dense strands cross the outline, 0 where it is firm; and the same where that is beyond doubt, (H, W) each.

    `signed` is the distance to the outline in pixels, `shade` the tone of the backdrop there, (H, W) each. `before` (H, W) is the
    second result from before the outline was opened between strands; farther in they go on.

    Bristles change the tone along the outline; an edge, and the lines in glass, change it across. So: how much
    of the tone's gradient near the outline runs along it, how strong that part is, how much of the place is fine
    lines, and how much backdrop is seen between them.
    """
    if material in ("solid", "clear", "pale"):
        return np.zeros(signed.shape, np.float32), np.zeros(signed.shape, np.float32)
    lines = _lines(evidence, signed)
    dense, plain = lines.dense, lines.faint
    if before is None and not (dense.any() or plain.any() or (material == "auto" and lines.fluffy)):
        return np.zeros(signed.shape, np.float32), np.zeros(signed.shape, np.float32)
    seen = _between(evidence, lines, shade)
    partly, unlike = _partly(seen), _rising(seen.unlike, _UNLIKE)
    dense *= _rising(seen.gaps, _GAPS) * partly
    plain *= _rising(seen.gaps, _PLAIN_GAPS) * unlike * partly
    sure = np.maximum(dense * _rising(lines.share, _OPEN_SHARE) * unlike, plain)
    if before is not None:
        sure = np.maximum(sure, halved(halved(before)))
    beside = _beside((sure > OPENS) & lines.near, lines, seen)
    sure, dense = np.maximum(sure, beside), np.maximum(np.maximum(dense, plain), beside)
    if material == "auto" and lines.fluffy:
        dense = np.maximum(dense, np.float32(_fur(lines, seen) * (STRANDS_BAND - FIRM_BAND) / (BRISTLES_BAND - FIRM_BAND)))
    if not (dense.any() or sure.any()):
        return np.zeros(signed.shape, np.float32), np.zeros(signed.shape, np.float32)
    half = int(signed.shape[0] // 2), int(signed.shape[1] // 2)
    large = [doubled(doubled(np.asarray(plane, np.float32), half), signed.shape) for plane in (dense, sure)]
    return large[0], large[1]


def _partly(seen: _Between) -> Plane:
    """1 where of what is like backdrop not all is very like it, and nothing is a surface, 0 to 1 (h, w)."""
    return _rising(seen.partly, _PARTLY) * (1 - _rising(seen.surface, _SURFACE))


def _fur(lines: _Lines, seen: _Between) -> float:
    """1 where it is fluffy all round, and too soft to be told from glass at any single place, else 0.

    Short fur hardly shows backdrop between its hairs; rope and metal that are told from it are tinted.
    """
    near = lines.near
    share = float(np.percentile(lines.share[near], 20))
    backdrop, grey = (np.array([part]) for part in seen.shown)
    partly, surface = (np.array([np.median(plane[near])]) for plane in (seen.partly, seen.surface))
    open_there = _rising(partly, _PARTLY) * (1 - _rising(surface, _SURFACE))
    fine = np.array([np.median(lines.fine[near])])
    told = np.maximum(_rising(np.array([share]), _COLOURED_FUR_SHARE), _rising(fine, _LEAVES_FINE))
    told = np.maximum(told, _rising(backdrop, _CHAIN_GAPS))
    shown = _rising(backdrop, _FUR_GAPS) * told
    return float((np.maximum(shown, _rising(grey, _GREY_FUR)) * open_there)[0])


def _beside(sure: Mask, lines: _Lines, seen: _Between) -> Plane:
    """1 where strands go on (h, w) from where they are beyond doubt, else 0."""
    found = np.zeros(sure.shape, np.float32)
    if not sure.any():
        return found
    fine = lines.fine > _ALSO_FINE * float(np.median(lines.fine[sure]))
    maybe = sure | (lines.near & fine & (seen.gaps > _ALSO_GAPS) & (seen.unlike > _UNLIKE[0]))
    count, labels = cv2.connectedComponents(maybe.astype(np.uint8), connectivity=8)
    part = np.bincount(labels[sure], minlength=count) / np.bincount(labels.ravel(), minlength=count)
    part[0] = 0
    found[part[labels] >= _PART] = 1
    return np.asarray(cv2.blur(found, (3, 3)), np.float32)
