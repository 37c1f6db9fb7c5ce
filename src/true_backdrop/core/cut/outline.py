"""The decision of the proxy in a form that serves every size: signed distance, band width, shadow."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.by_hand import ByHand
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.own_colour import own_colour
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import Material

#: Half width of the unknown band along a firm outline, in proxy pixels: the lens, the proxy's own sampling
#: and the watershed's choice of one pixel each add about half a pixel.
FIRM_BAND = 1.6
#: The same where the outline is strands.
STRANDS_BAND = 9.0
#: The same where strands stand so close that the outline runs around them all.
BRISTLES_BAND = 32.0


@dataclass(frozen=True, slots=True)
class Backlit:
    """What the silhouette frame adds to an outline: shadow, own colour, gain and noise as in `Outline`, in its light."""

    shadow: Plane
    colour: LinearRGB
    gain: tuple[float, float, float]
    noise: float


@dataclass(frozen=True, slots=True)
class Outline:
    """Planes (H, W) of the proxy.

    signed   distance to the outline in proxy pixels, positive inside the product
    band     half width of the unknown band there, in proxy pixels
    shadow   light that reaches the backdrop, 1 as in the backdrop frame; continued under the product
    colour   (H, W, 3) linear light: the product's own colour near the outline; 0 away from it
    backlit  the same in the light of the silhouette frame, where there is one
    by_hand  what a person did to it, where anybody did
    """

    product: Mask
    signed: Plane
    band: Plane
    shadow: Plane
    colour: LinearRGB
    gain: tuple[float, float, float]
    noise: float
    backlit: Backlit | None = None
    by_hand: ByHand | None = None

    @property
    def shape(self) -> tuple[int, int]:
        return int(self.signed.shape[0]), int(self.signed.shape[1])

    @property
    def box(self) -> Region | None:
        """Everything that is or may be product, in proxy pixels; None when there is none."""
        rows, columns = np.flatnonzero(self.product.any(axis=1)), np.flatnonzero(self.product.any(axis=0))
        if rows.size == 0:
            return None
        margin = int(np.ceil(self.band.max())) + 2
        return Region(int(rows[0]), int(columns[0]), int(rows[-1]) + 1, int(columns[-1]) + 1).grown(margin, *self.shape)


def trace(
    aligned: Aligned,
    evidence: Evidence,
    product: Mask,
    material: Material,
    backlit: Aligned | None = None,
    taken_out: Mask | None = None,
) -> Outline:
    """Distances, band, shadow and own colour for a mask of the proxy; with the silhouette frame, in both lights.

    `taken_out` (H, W) is what somebody said is backdrop although it looks like product: no shadow is read off it.
    """
    shape = product.shape
    bare = ~product if taken_out is None else ~(product | taken_out)
    shadow = _shadow(aligned, bare)
    signed = np.full(shape, -_FAR, np.float32)
    band = np.full(shape, FIRM_BAND, np.float32)
    colour = np.zeros((*shape, 3), np.float32)
    left, top, width, height = cv2.boundingRect(product.astype(np.uint8))
    if width:
        # Farther from the product than this nothing depends on it.
        margin = max(2 * round(BRISTLES_BAND), round(3 * _ROUGH_SIGMA * max(shape)))
        part = Region(top, left, top + height, left + width).grown(margin, *shape).slices
        signed[part] = _calmed(_signed_distance(product[part]), evidence.step[part])
        loose = _strandedness(product[part], material, max(shape))
        there = evidence.view(part)
        dense = _bristling(there, signed[part], material)
        band[part] += np.maximum(np.float32(STRANDS_BAND - FIRM_BAND) * loose, np.float32(BRISTLES_BAND - FIRM_BAND) * dense)
        band[part] = _narrowed(band[part], signed[part], there)
        light = shadow[part], aligned.gain
        colour[part] = own_colour(aligned.frame[part], aligned.backdrop[part], light, signed[part], band[part])
    traced = Outline(product, signed, band, shadow, colour, aligned.gain, aligned.noise)
    return traced if backlit is None else replace(traced, backlit=_backlit(backlit, traced, bare))


def _backlit(aligned: Aligned, outline: Outline, bare: Mask) -> Backlit:
    """Shadow and own colour in the light of the silhouette frame, around an outline that was found in both."""
    shadow = _shadow(aligned, bare)
    colour = own_colour(aligned.frame, aligned.backdrop, (shadow, aligned.gain), outline.signed, outline.band)
    return Backlit(shadow, colour, aligned.gain, aligned.noise)


#: Distance to the outline, in proxy pixels, where it is too far away to matter.
_FAR = 1000.0


def _signed_distance(product: Mask) -> Plane:
    mask = product.astype(np.uint8)
    inside = cv2.distanceTransform(mask, cv2.DIST_L2, 5)
    outside = cv2.distanceTransform(1 - mask, cv2.DIST_L2, 5)
    # The outline runs between the last pixel inside and the first outside: half a pixel from each centre.
    # One of the two distances is 0.
    return np.asarray(cv2.subtract(inside, outside), np.float32) + (np.float32(0.5) - mask.astype(np.float32))


#: Steps (log units a pixel) below and above which an edge counts as unseen, and as plain.
_UNSEEN_STEP = 0.03
_PLAIN_STEP = 0.07
#: Sigma that an unseen outline is smoothed by, in proxy pixels.
_CALM_SIGMA = 7.0


def _calmed(signed: Plane, step: Plane) -> Plane:
    """Where nothing of the outline can be seen, as on glass before the backdrop, noise must not make it ragged."""
    seen = np.asarray(cv2.dilate(step, np.ones((5, 5), np.uint8)), np.float32)
    unseen = np.asarray(np.clip((_PLAIN_STEP - seen) / (_PLAIN_STEP - _UNSEEN_STEP), 0, 1), np.float32)
    weight = np.asarray(cv2.blur(unseen, (7, 7)), np.float32)
    side = round(np.sqrt(6 * _CALM_SIGMA**2 + 1)) | 1  # two boxes of this side have that variance
    smooth = np.asarray(cv2.blur(cv2.blur(signed, (side, side)), (side, side)), np.float32)
    return signed + weight * (smooth - signed)


#: So far outside of the outline (proxy pixels) it is as dark (log units) and as steep (log units a pixel) only in contact shadow.
_OFF_PX, _CONTACT, _STEEP = (2.0, 4.0), -0.35, 0.08
#: Half width of the band there: the shadow's own slope is as steep as an edge, and must not be taken for half-covered pixels.
CONTACT_BAND = 0.8


def _narrowed(band: Plane, signed: Plane, evidence: Evidence) -> Plane:
    """The band (H, W), narrower where product meets table."""
    below = np.array([[1]] * 6 + [[0]] * 5, np.uint8)  # a pixel of product is up to five above
    contact = cv2.dilate((signed > 0).astype(np.uint8), below) > 0
    contact &= (signed < -_OFF_PX[0]) & (signed > -_OFF_PX[1]) & (band < 2 * FIRM_BAND)
    contact &= (evidence.tone < _CONTACT) & (evidence.step > _STEEP)
    if not contact.any():
        return band
    near = cv2.dilate(contact.astype(np.uint8), disc(4)).astype(np.float32)
    near = np.asarray(cv2.blur(near, (3, 3)), np.float32)
    return np.asarray(band + near * (np.minimum(band, np.float32(CONTACT_BAND)) - band), np.float32)


#: How far around the roughness of the outline is taken, in parts of the long side.
_ROUGH_SIGMA = 0.012


def _strandedness(product: Mask, material: Material, long_side: int) -> Plane:
    """0 along a firm outline, 1 where the outline dissolves into strands: how much of it is thin detail."""
    if material == "strands":
        return np.ones(product.shape, np.float32)
    mask = product.astype(np.uint8)
    side = max(5, round(0.006 * max(product.shape))) | 1
    body = cv2.morphologyEx(mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    detail = halved((mask - body).astype(np.float32))
    rough = halved(cv2.morphologyEx(mask, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).astype(np.float32))
    sigma = _ROUGH_SIGMA * long_side / 2
    near = cv2.GaussianBlur(rough, (0, 0), sigma)
    # A straight outline gives a gradient one pixel wide at this size, so its length within the Gaussian is
    # 1 after this scaling; strands give many times that.
    length = near * sigma * np.sqrt(2 * np.pi)
    parts = cv2.GaussianBlur(detail, (0, 0), sigma) / np.maximum(near, 1e-4)
    crowded = np.clip((length - 2.2) / 1.6, 0, 1) * np.clip(parts * 4, 0, 1)
    return doubled(crowded.astype(np.float32), product.shape)


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


#: Strands show the backdrop between them, which the surface of rope or embossed metal does not: the lightest and most neutral
#: of three by three pixels at half size differs by so little (log units), over such a share of what is inside.
_LIKE_BACKDROP = 0.3
_GAPS = (0.12, 0.22)
_FUR_GAPS = (0.15, 0.22)
#: Less tint than this (log units) is none; over such a share of what is inside fur is grey or white.
_GREY, _GREY_FUR = 0.15, (0.4, 0.7)


def _between_strands(tone: Plane, tint: Plane) -> Plane:
    """1 where something like backdrop is next to a pixel, else 0, (h, w)."""
    around = np.ones((3, 3), np.uint8)
    lightest, least = cv2.dilate(tone, around), cv2.erode(tint, around)
    return np.asarray(least - np.minimum(lightest, 0) < _LIKE_BACKDROP, np.float32)


def _rising(values: NDArray[np.floating], span: tuple[float, float]) -> NDArray[np.float32]:
    return np.asarray(np.clip((values - span[0]) / (span[1] - span[0]), 0, 1), np.float32)


def _bristling(evidence: Evidence, signed: Plane, material: Material) -> Plane:
    """1 where dense strands cross the outline, 0 where it is firm.

    Bristles change the tone along the outline; an edge, and the lines in glass, change it across. So: how much
    of the tone's gradient near the outline runs along it (a structure tensor, Bigun and Granlund 1987), how
    strong that part is, and how much of the place is fine lines.
    """
    if material in ("solid", "clear", "pale"):
        return np.zeros(signed.shape, np.float32)
    tone = halved(np.clip(evidence.tone, -2.0, 0.5))
    distance = halved(np.clip(signed, -60, 60))
    across, down = (cv2.Sobel(tone, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1)))
    shape = cv2.GaussianBlur(distance, (0, 0), 4)
    normal_x, normal_y = (cv2.Sobel(shape, cv2.CV_32F, *axis, ksize=3) for axis in ((1, 0), (0, 1)))
    length_sq = np.maximum(normal_x * normal_x + normal_y * normal_y, np.float32(1e-6))
    along = (down * normal_x - across * normal_y) ** 2 / length_sq
    zone = ((distance > -2) & (distance < BRISTLES_BAND / 2)).astype(np.float32)
    # The means reach so far that a quarter of the size is plenty for them.
    sigma = _BRISTLES_EXTENT * evidence.long_side / 4

    def mean(plane: Plane) -> Plane:
        return np.asarray(np.asarray(cv2.GaussianBlur(halved(plane * zone), (0, 0), sigma)) / there, np.float32)

    there = np.maximum(np.asarray(cv2.GaussianBlur(halved(zone), (0, 0), sigma), np.float32), np.float32(1e-3))
    run = mean(np.asarray(along, np.float32))
    share = run / np.maximum(mean(across * across + down * down), np.float32(1e-5))
    fine = mean(halved((evidence.thin > _BRISTLE_TONE).astype(np.float32)))
    dense = _rising(share, _BRISTLE_SHARE) * _rising(np.sqrt(run), _BRISTLE_RUN) * _rising(fine, _BRISTLE_FINE)
    near, inside = halved(zone) > 0, zone * (distance > 0.5)
    backdrop = _between_strands(tone, halved(evidence.tint)) * inside
    within = np.asarray(cv2.GaussianBlur(halved(inside), (0, 0), sigma), np.float32)
    gaps = np.asarray(cv2.GaussianBlur(halved(backdrop), (0, 0), sigma), np.float32) / np.maximum(within, np.float32(1e-3))
    dense *= _rising(gaps, _GAPS)
    if material == "auto" and near.any() and np.percentile(share[near], 20) > _FUR_SHARE and np.median(run[near]) > _FUR_RUN**2:
        # Fluffy all round, and too soft to be told from glass at any single place.
        # Short fur hardly shows backdrop between its hairs; rope and metal that are told from it are tinted.
        grey = (halved(evidence.tint) < _GREY) * inside
        shares = np.array([backdrop.sum(), grey.sum()]) / max(1.0, float(inside.sum()))
        sure = max(float(_rising(shares[0], _FUR_GAPS)), float(_rising(shares[1], _GREY_FUR)))
        dense = np.maximum(dense, np.float32(sure * (STRANDS_BAND - FIRM_BAND) / (BRISTLES_BAND - FIRM_BAND)))
    return doubled(doubled(np.asarray(dense, np.float32), zone.shape), signed.shape)


def _shadow(aligned: Aligned, bare: Mask) -> Plane:
    """Light that reaches the backdrop: measured where it is bare, smoothed, and continued where it is not."""
    free = cv2.erode(bare.astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1).astype(np.float32)
    share = (halved(free) > 0.99).astype(np.float32)
    near = np.asarray(cv2.GaussianBlur(share, (0, 0), 1.2), np.float32)
    total = np.asarray(cv2.GaussianBlur(aligned.half_tone * share, (0, 0), 1.2), np.float32)
    mean = np.asarray(total / np.maximum(near, np.float32(1e-4)), np.float32)
    seen = share * np.clip(near * 4, 0, 1)
    continued = spread(mean, share)
    return doubled(np.asarray(cv2.exp(continued + seen * (mean - continued)), np.float32), bare.shape)
