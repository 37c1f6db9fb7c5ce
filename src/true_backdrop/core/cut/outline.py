"""The decision of the proxy in a form that serves every size: signed distance, band width, shadow."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.between import opened, surfaces, unreached
from true_backdrop.core.cut.by_hand import ByHand
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.halfway import at_halfway
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.own_colour import own_colour
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.cut.strands import (
    BRISTLES_BAND,
    FIRM_BAND,
    OPENS,
    STRANDS_BAND,
    bristling,
    strandedness,
)
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.veil import open_by_colour
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import Material


@dataclass(frozen=True, slots=True)
class Backlit:
    """What the silhouette frame adds to an outline: shadow, own colour, gain and noise as in `Outline`, in its light."""

    shadow: Plane
    colour: LinearRGB
    gain: tuple[float, float, float]
    noise: float
    pixel_noise: float = 0.0


@dataclass(frozen=True, slots=True)
class Outline:
    """Planes (H, W) of the proxy.

    signed   distance to the outline in proxy pixels, positive inside the product
    band     half width of the unknown band there, in proxy pixels
    shadow   light that reaches the backdrop, 1 as in the backdrop frame; continued under the product
    colour   (H, W, 3) linear light: the product's own colour near the outline; 0 away from it
    backlit  the same in the light of the silhouette frame, where there is one
    by_hand  what a person did to it, where anybody did
    noise    of the backdrop, relative, and `pixel_noise` that of the frame's own pixels
    covers   the part of the frame (frame pixels) that the planes show, when that is not all of it (close_up.py)
    veiled   where the product's colour alone says that strands leave pixels open (veil.py), None where nowhere
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
    pixel_noise: float = 0.0
    covers: Region | None = None
    veiled: Mask | None = None

    @property
    def shape(self) -> tuple[int, int]:
        return int(self.signed.shape[0]), int(self.signed.shape[1])

    @property
    def as_strands(self) -> Mask:
        """What of the product (H, W) lies in a band as wide as strands have, so that it may be open."""
        return np.asarray(self.product & (self.band > _STRANDS_FROM) & (self.signed < self.band))

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
    kept: Mask | None = None,
) -> Outline:
    """Distances, band, shadow and own colour for a mask of the proxy; with the silhouette frame, in both lights.

    `taken_out` (H, W) is what somebody said is backdrop although it looks like product: no shadow is read off it. `kept` (H, W)
    is what somebody said is product: nothing in it is open between strands.
    """
    shape = product.shape
    bare = ~product if taken_out is None else ~(product | taken_out)
    shadow = _shadow(aligned, bare)
    signed = np.full(shape, -_FAR, np.float32)
    band = np.full(shape, FIRM_BAND, np.float32)
    colour = np.zeros((*shape, 3), np.float32)
    veiled = None
    left, top, width, height = cv2.boundingRect(product.astype(np.uint8))
    if width:
        # Farther from the product than this nothing depends on it.
        part = Region(top, left, top + height, left + width).grown(round(BRISTLES_BAND) + _MARGIN_PX, *shape).slices
        there = evidence.view(part)
        shade = np.asarray(cv2.log(shadow[part]), np.float32)
        firmly = None if kept is None else kept[part]
        signed[part], band[part], half_open = _among_strands(there, product[part], shade, material, firmly)
        if half_open is not None:
            veiled = np.zeros(shape, bool)
            veiled[part] = half_open
        band[part] = _narrowed(band[part], signed[part], there)
        if kept is not None:
            band[kept] = FIRM_BAND
        part = Region(top, left, top + height, left + width).grown(int(np.ceil(band[part].max())) + _COLOUR_MARGIN, *shape).slices
        lit = aligned.frame[part], aligned.backdrop[part], (shadow[part], aligned.gain)
        held = _either(*(None if said is None else said[part] for said in (kept, taken_out)))
        signed[part], band[part] = at_halfway(*lit, signed[part], band[part], held, aligned.noise)
        colour[part] = own_colour(*lit, signed[part], band[part])
    noises = aligned.noise, aligned.pixel_noise
    traced = Outline(product, signed, band, shadow, colour, aligned.gain, noises[0], pixel_noise=noises[1], veiled=veiled)
    return traced if backlit is None else replace(traced, backlit=_backlit(backlit, traced, bare))


def _either(one: Mask | None, other: Mask | None) -> Mask | None:
    return one if other is None else other if one is None else one | other


def _backlit(aligned: Aligned, outline: Outline, bare: Mask) -> Backlit:
    """Shadow and own colour in the light of the silhouette frame, around an outline that was found in both."""
    shadow = _shadow(aligned, bare)
    colour = own_colour(aligned.frame, aligned.backdrop, (shadow, aligned.gain), outline.signed, outline.band)
    return Backlit(shadow, colour, aligned.gain, aligned.noise, aligned.pixel_noise)


#: More than the widest band reaches, in proxy pixels.
_MARGIN_PX = 4
#: The product's own colour is asked for, and taken from, so much farther out than the band is wide (proxy pixels).
_COLOUR_MARGIN = 10
#: From so wide on (proxy pixels) a band is not that of a firm edge.
_STRANDS_FROM = 2.5
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
#: So near to it (proxy pixels) a pixel is on the outline, and a square of this side around each says whether that is seen.
_ON_OUTLINE, _CALM_NEAR = 1.2, 11


def _calmed(signed: Plane, step: Plane) -> Plane:
    """Where nothing of the outline can be seen, as on glass before the backdrop, noise must not make it ragged."""
    seen = np.asarray(cv2.dilate(step, np.ones((5, 5), np.uint8)), np.float32)
    outline = cv2.inRange(signed, -_ON_OUTLINE, _ON_OUTLINE)
    unseen = np.asarray(np.clip((_PLAIN_STEP - seen) / (_PLAIN_STEP - _UNSEEN_STEP), 0, 1), np.float32)
    unseen = np.asarray(cv2.copyTo(unseen, outline), np.float32)
    if not unseen.any():
        return signed
    near = (_CALM_NEAR, _CALM_NEAR)
    along = cv2.max(cv2.boxFilter(outline, cv2.CV_32F, near), 1e-2)  # type: ignore[call-overload]
    weight = np.asarray(cv2.divide(cv2.blur(unseen, near), along, scale=255), np.float32)
    side = round(np.sqrt(6 * _CALM_SIGMA**2 + 1)) | 1  # two boxes of this side have that variance
    smooth = np.asarray(cv2.blur(cv2.blur(signed, (side, side)), (side, side)), np.float32)
    return np.asarray(signed + weight * (smooth - signed), np.float32)


def _among_strands(
    evidence: Evidence, product: Mask, shade: Plane, material: Material, kept: Mask | None
) -> tuple[Plane, Plane, Mask | None]:
    """Distance to the outline and half width of the band (H, W): open between strands, and wide where they are.

    The third is where colour alone says so, if anywhere. `shade` is the tone of the backdrop there; nothing that is `kept`
    (H, W) is open.
    """
    plain = _signed_distance(product)
    signed = _calmed(plain, evidence.step)
    loose = strandedness(product, material, evidence.long_side)
    dense, sure = np.zeros(loose.shape, np.float32), None
    open_there, surface = np.zeros_like(product), None
    limits = Tolerances.of(_OPENED_MATCH, evidence.noise, evidence.long_side)
    for _ in range(_PASSES):
        further_in, sure = bristling(evidence, signed, shade, material, sure)
        dense = np.maximum(dense, further_in)
        open_there = sure > OPENS if kept is None else (sure > OPENS) & ~kept
        if not open_there.any():
            break
        if surface is None:
            surface = surfaces(evidence, limits, product, shade)
        without = product & (opened(evidence, limits, product, shade, surface) | ~open_there)
        further = _nearer(without, product, plain, signed)
        if np.array_equal(further, signed):
            break
        signed = further
    wider = np.maximum(np.float32(STRANDS_BAND - FIRM_BAND) * loose, np.float32(BRISTLES_BAND - FIRM_BAND) * dense)
    band = np.float32(FIRM_BAND) + wider
    wide = wider > _WIDER
    if wide.any():
        whole = _surfaces_there(evidence, limits, product, shade, wide) if surface is None else surface
        if open_there.any():
            whole = whole | unreached(evidence, product & wide & (signed > 0) & open_there, product, shade)
        signed = _whole(signed, band, whole & wide)
    if material not in ("auto", "strands"):
        return signed, band, None
    known = product & (band > _WIDER) & (signed < band)
    half_open = open_by_colour(evidence, signed, plain, shade, known, said=material == "strands")
    half_open &= signed > _SOLVED * band
    if kept is not None:
        half_open &= ~kept
    if half_open.any():
        half_open &= ~_surfaces_there(evidence, limits, product, shade, half_open)
        band[half_open] = np.maximum(band[half_open], _OPEN_BAND)
        signed[half_open] = np.minimum(signed[half_open], _OPEN_DEPTH)
    return signed, band, half_open if half_open.any() else None


def _surfaces_there(evidence: Evidence, limits: Tolerances, product: Mask, shade: Plane, there: Mask) -> Mask:
    """The surfaces (H, W) of a product, looked for around where they are asked for only."""
    left, top, width, height = cv2.boundingRect(there.astype(np.uint8))
    here = Region(top, left, top + height, left + width).grown(_SURFACE_MARGIN, *product.shape).slices
    found = np.zeros_like(product)
    found[here] = surfaces(evidence.view(here), limits, product[here], shade[here])
    return found


#: Where the band is wider than a firm one by more than this (proxy pixels) surfaces are looked for in it, and so far around.
_WIDER, _SURFACE_MARGIN = 3.0, 24
#: Where colour says that strands leave pixels open the band is so wide, and the outline so near (proxy pixels).
_OPEN_BAND, _OPEN_DEPTH = 6.0, 1.2
#: Up to such a part of the width of a band its pixels are unmixed anyway.
_SOLVED = 0.5
#: A surface is whole from so far inside its edge on (proxy pixels), and for sure by so much.
_EDGE_PX, _SURELY_PX = 2.0, 2.0


def _whole(signed: Plane, band: Plane, surface: Mask) -> Plane:
    """The distance (H, W) with surfaces deep inside, whatever strands are around."""
    inside = np.asarray(cv2.distanceTransform(surface.astype(np.uint8), cv2.DIST_L2, 5), np.float32)
    share = np.clip(inside / np.float32(_EDGE_PX), 0, 1)
    return np.asarray(signed + share * (np.maximum(band - signed, 0) + np.float32(_SURELY_PX)), np.float32)


def _nearer(without: Mask, product: Mask, plain: Plane, signed: Plane) -> Plane:
    """The distance (H, W) once only `without` is left of a product; `plain` is that to the outline of the product as it is."""
    if np.array_equal(without, product):
        return signed
    nearer = _signed_distance(without)
    return np.where(nearer < plain, np.minimum(signed, nearer), signed)


#: So often the outline is opened between strands, each time farther in.
_PASSES = 2
#: Backdrop match that bare backdrop between strands is told at.
_OPENED_MATCH = 50

#: So far outside of the outline (proxy pixels) it is as dark (log units) and as steep (log units a pixel) only in contact shadow.
_OFF_PX, _CONTACT, _STEEP = (2.0, 4.0), -0.35, 0.08
#: Half width of the band there: the shadow's own slope is as steep as an edge, and must not be taken for half-covered pixels.
CONTACT_BAND = 0.8
#: It is so narrow up to so many pixels away.
_CONTACT_NEAR = 4


def _narrowed(band: Plane, signed: Plane, evidence: Evidence) -> Plane:
    """The band (H, W), narrower where product meets table."""
    below = np.array([[1]] * 6 + [[0]] * 5, np.uint8)  # a pixel of product is up to five above
    contact = (signed < -_OFF_PX[0]) & (signed > -_OFF_PX[1])
    contact &= evidence.tone < _CONTACT
    contact &= evidence.step > _STEEP
    contact &= band < 2 * FIRM_BAND
    left, top, width, height = cv2.boundingRect(contact.view(np.uint8))
    if width == 0:
        return band
    here = Region(top, left, top + height, left + width).grown(_CONTACT_NEAR + 5, *band.shape).slices
    contact = contact[here] & (cv2.dilate((signed[here] > 0).view(np.uint8), below) > 0)
    near = cv2.dilate(contact.view(np.uint8), disc(_CONTACT_NEAR)).astype(np.float32)
    near = np.asarray(cv2.blur(near, (3, 3)), np.float32)
    narrowed = band.copy()
    narrowed[here] += near * (np.minimum(band[here], np.float32(CONTACT_BAND)) - band[here])
    return narrowed


#: A mean of what is bare counts the more the more of it is nearby, in full from one part in so many on.
_NEARBY = 8


def _shadow(aligned: Aligned, bare: Mask) -> Plane:
    """Light that reaches the backdrop: measured where it is bare, smoothed, and continued where it is not."""
    free = cv2.erode(bare.astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1).astype(np.float32)
    share = (halved(free) > 0.99).astype(np.float32)
    near = np.asarray(cv2.GaussianBlur(share, (0, 0), 1.2), np.float32)
    total = np.asarray(cv2.GaussianBlur(aligned.half_tone * share, (0, 0), 1.2), np.float32)
    mean = np.asarray(total / np.maximum(near, np.float32(1e-4)), np.float32)
    seen = np.clip(near * _NEARBY, 0, 1)
    continued = spread(mean, share)
    return doubled(np.asarray(cv2.exp(continued + seen * (mean - continued)), np.float32), bare.shape)
