"""The decision of the proxy in a form that serves every size: signed distance, band width, shadow."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.band import band_along, narrowed
from true_backdrop.core.cut.bounced_light import NONE_BOUNCED, bounced_light, lit_by
from true_backdrop.core.cut.by_hand import ByHand
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.halfway import at_halfway
from true_backdrop.core.cut.own_colour import own_colour
from true_backdrop.core.cut.shade_between import shade_between
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.cut.strands import BRISTLES_BAND, FIRM_BAND
from true_backdrop.core.picture import Region
from true_backdrop.core.side_by_side import both
from true_backdrop.core.treatment import Material


@dataclass(frozen=True, slots=True)
class Backlit:
    """What the silhouette frame adds to an outline: shadow, own colour, gain and noise as in `Outline`, in its light."""

    shadow: Plane
    colour: LinearRGB
    gain: tuple[float, float, float]
    noise: float
    pixel_noise: float = 0.0

    @property
    def bounced(self) -> LinearRGB:
        """Light through from behind is all there is."""
        return NONE_BOUNCED


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
    printed  where it would be of strands, but for a pattern that goes on deep inside (strands.py), None where nowhere
    bounced  (h, w, 3) of any size: what light off the product makes of that shadow in each channel (bounced_light.py)
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
    printed: Mask | None = None
    bounced: LinearRGB = field(default_factory=lambda: NONE_BOUNCED)

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
    left, top, width, height = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + height, left + width)
    shadow, bounced = both(
        lambda: _shadow(aligned, bare),
        lambda: bounced_light(aligned.hue, bare, box) if width else NONE_BOUNCED,
    )
    signed = np.full(shape, -_FAR, np.float32)
    band = np.full(shape, FIRM_BAND, np.float32)
    colour = np.zeros((*shape, 3), np.float32)
    veiled = printed = None
    if width:
        # Farther from the product than this nothing depends on it.
        part = box.grown(round(BRISTLES_BAND) + _MARGIN_PX, *shape).slices
        there = evidence.view(part)
        shade = np.asarray(cv2.log(shadow[part]), np.float32)
        firmly = None if kept is None else kept[part]
        along = band_along(there, product[part], shade, material, firmly)
        signed[part], band[part] = along.signed, narrowed(along.half, along.signed, there)
        veiled, printed = (_on_proxy(mask, part, shape) for mask in (along.veiled, along.printed))
        if kept is not None:
            band[kept] = FIRM_BAND
        near = box.grown(int(np.ceil(band[part].max())) + _COLOUR_MARGIN, *shape)
        part = near.slices
        lit = aligned.frame[part], lit_by(aligned.backdrop, bounced, near), (shadow[part], aligned.gain)
        held = _either(*(None if said is None else said[part] for said in (kept, taken_out)))
        signed[part], band[part] = at_halfway(*lit, signed[part], band[part], held, aligned.noise)
        colour[part] = own_colour(*lit, signed[part], band[part])
        between = shade_between(*lit, signed[part], band[part], colour[part], bare[part], aligned.noise)
        if between is not None:
            shadow[part] = between
            colour[part] = own_colour(*lit, signed[part], band[part])
    traced = Outline(
        product,
        signed,
        band,
        shadow,
        colour,
        aligned.gain,
        aligned.noise,
        pixel_noise=aligned.pixel_noise,
        veiled=veiled,
        printed=printed,
        bounced=bounced,
    )
    return traced if backlit is None else replace(traced, backlit=_backlit(backlit, traced, bare))


def _on_proxy(mask: Mask | None, part: tuple[slice, slice], shape: tuple[int, int]) -> Mask | None:
    if mask is None:
        return None
    whole = np.zeros(shape, bool)
    whole[part] = mask
    return whole


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
