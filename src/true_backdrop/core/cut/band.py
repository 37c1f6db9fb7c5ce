"""How far each pixel is from an outline, and how wide the band is in which nobody knows its opacity: strands make it wide."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.between import opened, surfaces, unreached
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.strands import BRISTLES_BAND, FIRM_BAND, OPENS, STRANDS_BAND, bristling, strandedness
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.veil import open_by_colour
from true_backdrop.core.picture import Region
from true_backdrop.core.side_by_side import both
from true_backdrop.core.treatment import Material

#: From so much on (0 to 1) a place would be one of strands, if it were not print.
_PRINTED = 0.3


@dataclass(frozen=True, slots=True)
class Band:
    """Along an outline, (H, W) each.

    signed   distance to it in pixels, positive inside, once it is opened between strands
    half     half width of the band around it
    veiled   where colour alone says that strands leave pixels open (veil.py), None where nowhere
    printed  where a pattern in the backdrop's light goes on deep inside: no strands (strands.py), None where nowhere
    """

    signed: Plane
    half: Plane
    veiled: Mask | None = None
    printed: Mask | None = None


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


def band_along(evidence: Evidence, product: Mask, shade: Plane, material: Material, kept: Mask | None) -> Band:
    """The band along the outline of a product (H, W): open between strands, and wide where they are.

    `shade` (H, W) is the tone of the backdrop there; nothing that is `kept` (H, W) is open.
    """
    plain, loose = both(
        lambda: _signed_distance(product),
        lambda: strandedness(product, material, evidence.long_side),
    )
    signed = _calmed(plain, evidence.step)
    dense, sure = np.zeros(loose.shape, np.float32), None
    open_there, printed, surface = np.zeros_like(product), np.zeros_like(product), None
    limits = Tolerances.of(_OPENED_MATCH, evidence.noise, evidence.long_side)
    for _ in range(_PASSES):
        found = bristling(evidence, signed, shade, material, sure)
        dense, sure = np.maximum(dense, found.dense), found.sure
        printed |= found.printed > _PRINTED
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
        return Band(signed, band)
    known = product & (band > _WIDER) & (signed < band)
    half_open = open_by_colour(evidence, signed, plain, shade, known, said=material == "strands")
    half_open &= signed > _SOLVED * band
    if kept is not None:
        half_open &= ~kept
    if half_open.any():
        half_open &= ~_surfaces_there(evidence, limits, product, shade, half_open)
        band[half_open] = np.maximum(band[half_open], _OPEN_BAND)
        signed[half_open] = np.minimum(signed[half_open], _OPEN_DEPTH)
    printed &= product & (plain < STRANDS_BAND)
    return Band(signed, band, half_open if half_open.any() else None, printed if printed.any() else None)


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
#: It is so narrow up to so many pixels away; product is so many above it at most.
_CONTACT_NEAR, _ABOVE_PX = 4, 5


def narrowed(band: Plane, signed: Plane, evidence: Evidence) -> Plane:
    """The band (H, W), narrower where product meets table."""
    below = np.array([[1]] * (_ABOVE_PX + 1) + [[0]] * _ABOVE_PX, np.uint8)
    contact = (signed < -_OFF_PX[0]) & (signed > -_OFF_PX[1])
    contact &= evidence.tone < _CONTACT
    contact &= evidence.step > _STEEP
    contact &= band < 2 * FIRM_BAND
    left, top, width, height = cv2.boundingRect(contact.view(np.uint8))
    if width == 0:
        return band
    here = Region(top, left, top + height, left + width).grown(_CONTACT_NEAR + _ABOVE_PX, *band.shape).slices
    contact = contact[here] & (cv2.dilate((signed[here] > 0).view(np.uint8), below) > 0)
    near = cv2.dilate(contact.view(np.uint8), disc(_CONTACT_NEAR)).astype(np.float32)
    near = np.asarray(cv2.blur(near, (3, 3)), np.float32)
    found = band.copy()
    found[here] += near * (np.minimum(band[here], np.float32(CONTACT_BAND)) - band[here])
    return found
