"""Faint edges joined to whole outlines: a white mug on white is known by them alone, and they have gaps.

The product is the region whose outline costs least: a line costs its length where nothing is seen, hardly anything along
an edge, what is evidently product must lie inside, and light and grain weigh a little for one side or the other (area.py).
Gaps are so bridged where they are short against what is seen.
"""

from __future__ import annotations

from functools import cached_property

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.area import BEYOND_CHANCE, by_grain, by_light, off_the_backdrop
from true_backdrop.core.cut.bare import grained
from true_backdrop.core.cut.bordered import bounded, gone_into, part_of
from true_backdrop.core.cut.components import all_of, components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.flanks import flanks
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.minimal_cut import minimal_cut, smaller
from true_backdrop.core.cut.shaded import shadow_between
from true_backdrop.core.cut.tolerances import Tolerances

#: Sigma (pixels of half the proxy) that an edge is held against: a shadow's slope stays as steep, an edge does not.
_BROAD_PX = 2.5
#: So near to the rim (pixels of half the proxy) such a slope cannot be told.
_RIM = round(2 * _BROAD_PX)
#: Sigma along which gradients of one direction add up.
_ALONG_PX = 1.0
#: Part of a slope that is doubtful in itself, and the least doubt (log units a pixel).
_SLOPE_DOUBT, _LEAST_DOUBT = 0.15, 0.0004
#: Sigmas (pixels) that slopes are compared at: a lens's edge loses most of its slope between the two, a shadow's keeps it. A soft
#: edge's own slope is no more than so many times that which is left of it, and a part of the noise.
_FINE_PX, _SHADOWS_PX, _SOFT, _SOFT_NOISE = 1.0, 4.0, 1.7, 0.5
#: How sharp an edge is, is its slope against how far the tone rises over so many pixels to either side, or by so much at least
#: (log units).
_RISE_PX, _LEAST_RISE = 4, 0.05
#: So far from a framing box's border (pixels) a slope may be that of its fading.
_FADE_PX = 8
#: The steps that a coarse encoder leaves, once they are evened out, have such slopes (a pixel, in parts of what it rounds).
_OF_ROUNDING = 0.25
#: An edge is seen from so many times its noise on, is evidence of product from so many on, and is no more than hinted at.
_SEEN, _EVIDENT, _HINTED = 3.0, 3.0, 2.0
#: What a pixel of line costs at least.
_FLOOR = 0.003
#: Brighter than the backdrop by this and three times the noise is evidence, which grows over such a span (log units).
_BRIGHTER, _BRIGHTER_SPAN = 0.01, 0.03
#: What a pixel that is bright, tinted or black weighs, against a pixel of line where nothing is seen.
_WEIGHT = 0.1
#: Backdrop match that tint is held against.
_MATCH = 50
#: The outline is joined at a quarter of the proxy's size, or half of that of a small one.
_SMALL_PROXY = 640

#: Without grain to go by, so much of a line that is new must be seen; and at most so much of one that is given up.
_NEW_SEEN, _OLD_SEEN = 0.4, 0.2
#: So much of it at least, where its light speaks for it as well.
_SOME_SEEN = 0.12
#: What is not so many pixels wide lies along an outline and is the watershed's to draw; so wide product must be somewhere that
#: was taken for backdrop, and backdrop that was taken for product, which a passage that was too narrow has cut off.
_THIN_PX, _WIDE_PRODUCT_PX, _WIDE_BACKDROP_PX = 3, 11, 13
#: Such product is as large at least, in parts of the long side squared: pockets of shadow are smaller.
_LARGE_PRODUCT = 0.0004
#: An outline of which more than this cannot be seen, or that leaves plain edges outside (parts of its length), is doubtful.
_UNSEEN_PART, _STRAY_PART = 0.03, 0.03
#: So is one that leaves outside what weighs so much for product by its light and grain, over so large an area (of the long side
#: squared; light that a product throws on the table was a tenth of it in path-traced pictures).
_PRODUCT_LIKE, LARGE_OUTSIDE = 0.015, 0.001
#: Where there is hardly an outline it counts as so long, in parts of the long side.
_LEAST_OUTLINE = 0.4
#: Edges count as left outside from so far away on (pixels), and from so many times their noise.
_AWAY_PX, _STRAY = 8, 6.0


class Closing:
    """The edges of one evidence and what they enclose, at no particular backdrop match; worked out when first asked for.

    `shot` (H, W) is where the frame is as shot. Where a framing box fades it out, an edge says nothing, and none is missed.
    """

    def __init__(self, evidence: Evidence, shot: Mask | None = None) -> None:
        self._evidence = evidence
        self._shot = shot

    @property
    def long_side(self) -> int:
        """Of the whole proxy."""
        return self._evidence.long_side

    @cached_property
    def _edges(self) -> tuple[Plane, Plane, float]:
        """At half size: strength of edges in multiples of their noise, tone, and the noise of that."""
        tone = np.maximum(halved(self._evidence.tone), np.float32(-2.5))
        across, down = _gradient(tone)
        broad = np.asarray(cv2.GaussianBlur(tone, (0, 0), _BROAD_PX), np.float32)
        slope = np.asarray(cv2.magnitude(*_gradient(broad)), np.float32)
        # Of a structure tensor (Bigun and Granlund 1987) the difference of the two eigenvalues: noise has no direction.
        xx, xy, yy = (cv2.GaussianBlur(a * b, (0, 0), _ALONG_PX) for a, b in ((across, across), (across, down), (down, down)))
        one_way = np.sqrt(np.sqrt((xx - yy) ** 2 + 4 * xy * xy))
        bare = np.abs(tone) < 0.03
        noise, tone_noise, rounding = 1e-3, 5e-3, self._evidence.rounding
        if bare.any():
            noise = max(2e-4, _OF_ROUNDING * rounding, float(np.median(one_way[bare])))
            tone_noise = max(1e-3, rounding, float(np.median(np.abs(tone[bare]))) / 0.67)
        in_shadow = np.exp(np.clip(-tone, 0, 2))  # there is less light, and so more noise
        doubt = noise * in_shadow + _SLOPE_DOUBT * slope + _LEAST_DOUBT
        strength = np.asarray(np.maximum(one_way - slope, 0) / doubt, np.float32)
        # At the rim the broad slope cannot be told.
        strength[:_RIM], strength[-_RIM:], strength[:, :_RIM], strength[:, -_RIM:] = 0, 0, 0, 0
        if self._shot is not None:
            strength[halved(self._shot.astype(np.float32)) < 1] = 0
        return strength, tone, tone_noise

    @property
    def strength(self) -> Plane:
        """Of edges, at half size, in multiples of their noise (h, w)."""
        return self._edges[0]

    @cached_property
    def slopes(self) -> tuple[Plane, Plane]:
        """The steepest slope next to each pixel, and what is left of it when the tone is smoothed as broadly as shadows end.

        (H, W), in log units a pixel.
        """
        tone = np.maximum(self._evidence.tone, np.float32(-2.5))
        fine = cv2.magnitude(*_gradient(np.asarray(cv2.GaussianBlur(tone, (0, 0), _FINE_PX), np.float32)))
        half = np.asarray(cv2.GaussianBlur(halved(tone), (0, 0), _SHADOWS_PX / 2), np.float32)
        broad = doubled(np.asarray(cv2.magnitude(*_gradient(half)), np.float32), tone.shape) / 2
        around = np.ones((5, 5), np.uint8)
        return np.asarray(cv2.dilate(fine, around), np.float32), np.asarray(cv2.dilate(broad, around), np.float32)

    @cached_property
    def sharp(self) -> Plane:
        """How sharp edges are, (H, W): the steepest slope against how far the tone rises to either side, per pixel."""
        tone, beside = np.maximum(self._evidence.tone, np.float32(-2.5)), np.ones((2 * _RISE_PX + 1,) * 2, np.uint8)
        rise = np.maximum(cv2.dilate(tone, beside) - cv2.erode(tone, beside), _LEAST_RISE)
        return np.asarray(self.slopes[0] / rise, np.float32)

    @cached_property
    def soft(self) -> Mask:
        """Where (H, W) no edge is sharper than a shadow's: smoothing broadly hardly takes from its slope."""
        fine, broad = self.slopes
        found = fine < _SOFT * broad + _SOFT_NOISE * self._evidence.noise
        if self._shot is not None:  # beside a framing box, that fades out softly
            found &= cv2.erode(self._shot.astype(np.uint8), np.ones((2 * _FADE_PX + 1,) * 2, np.uint8)) > 0
        return np.asarray(found)

    @cached_property
    def seen(self) -> Mask:
        """Where an edge is seen, (H, W), a pixel wider than it."""
        return self._stronger_than(_SEEN)

    @cached_property
    def hinted(self) -> Mask:
        """Where there is the least hint of an edge, (H, W), two pixels wider than it."""
        found = self._stronger_than(_HINTED, 5)
        return found if self._shot is None else np.asarray(found | ~self._shot)

    @cached_property
    def seen_or_untold(self) -> Mask:
        """Where an edge is seen, or could not be: at the rim, and where a framing box fades the frame out (H, W)."""
        found = self.seen.copy() if self._shot is None else self.seen | ~self._shot
        rim = 2 * _RIM
        found[:rim], found[-rim:], found[:, :rim], found[:, -rim:] = True, True, True, True
        return found

    def _stronger_than(self, limit: float, wide: int = 3) -> Mask:
        strong = (doubled(self._edges[0], self._evidence.shape) > limit).astype(np.uint8)
        return np.asarray(cv2.dilate(strong, np.ones((wide, wide), np.uint8)) > 0)

    @cached_property
    def _plain(self) -> Mask:
        """Edges (H, W) that are seen so plainly that none may be left outside."""
        return self._stronger_than(_STRAY)

    @cached_property
    def _off(self) -> Plane:
        """How far off the backdrop each pixel of half the size is, beyond what is usual."""
        return off_the_backdrop(self._edges[1], self._evidence.rounding)

    @cached_property
    def light_as_product(self) -> Mask:
        """What has not the backdrop's light or lacks its grain, (H, W), as far as a pixel can say."""
        return np.asarray(doubled(self._area, self._evidence.shape) > _PRODUCT_LIKE)

    @cached_property
    def _bright(self) -> Mask:
        """What is brighter than the backdrop beyond chance, (H, W)."""
        return np.asarray(doubled(self._off, self._evidence.shape) > BEYOND_CHANCE)

    @cached_property
    def _area(self) -> Plane:
        """What each pixel of half the size weighs for product by its light and grain, and below 0 for backdrop."""
        grain = by_grain(self._evidence)
        return self._light if grain is None else np.asarray(self._light + grain, np.float32)

    @cached_property
    def _light(self) -> Plane:
        """What each pixel of half the size weighs by its light alone."""
        return by_light(self._off, self._edges[1])

    @cached_property
    def enclosed(self) -> Mask:
        """The product (H, W) that the edges enclose, holes and all."""
        strength, tone, tone_noise = self._edges
        evidence = self._evidence
        limits = Tolerances.of(_MATCH, evidence.noise, evidence.long_side)
        unseen = np.asarray(cv2.erode(1 / (1 + strength * strength), np.ones((3, 3), np.uint8)), np.float32)
        cost = np.asarray(_FLOOR + (1 - _FLOOR) * unseen, np.float32)
        ridge = strength >= 0.9 * np.asarray(cv2.dilate(strength, np.ones((3, 3), np.uint8)), np.float32)
        at_edges = np.clip(strength / np.float32(_EVIDENT) - 1, 0, 2) * ridge
        bright = np.clip((tone - _BRIGHTER - 3 * tone_noise) / _BRIGHTER_SPAN, 0, 2)
        most = limits.tint + limits.tint_in_shadow * np.clip(-evidence.tone, 0, 1)
        tinted = np.clip(2 * halved(np.asarray(evidence.tint / most, np.float32)) - 1, 0, 2)
        black = 2 * (tone < limits.darkest)
        product = np.asarray(at_edges + _WEIGHT * np.maximum(np.maximum(bright, tinted), black) + self._area, np.float32)
        # What lies along the rim of what is looked at is backdrop, unless it is evidently something else.
        outer = np.zeros(tone.shape, bool)
        outer[:2], outer[-2:], outer[:, :2], outer[:, -2:] = True, True, True, True
        outer = np.asarray(outer & (product < _WEIGHT))
        energy: tuple[Plane, Plane, Mask] = (cost, product, outer)
        inside = minimal_cut(*(energy if evidence.long_side <= _SMALL_PROXY else smaller(*energy)))
        inside = inside if inside.shape == tone.shape else doubled(inside, (tone.shape[0], tone.shape[1]))
        return np.asarray(doubled(inside, evidence.shape) > 0.5)

    def doubts(self, outside: Mask) -> bool:
        """Whether an outline can not be seen in part, or leaves plain edges outside; `outside` (H, W) is what it leaves."""
        cross = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
        # Lines as thin as an edge are no product, but edges that were left.
        solid = cv2.morphologyEx((~outside).astype(np.uint8), cv2.MORPH_OPEN, disc(_THIN_PX)) > 0
        ring = solid & (cv2.dilate((~solid).astype(np.uint8), cross) > 0)
        length = max(float(np.count_nonzero(ring)), _LEAST_OUTLINE * self._evidence.long_side)
        unseen = ring & ~self.seen if self._shot is None else ring & ~self.seen & self._shot
        if np.count_nonzero(unseen) > _UNSEEN_PART * length:
            return True
        if np.count_nonzero(self.light_as_product & outside) > LARGE_OUTSIDE * self._evidence.long_side**2:
            return True
        beside = cv2.dilate(solid.astype(np.uint8), np.ones((2 * _AWAY_PX + 1,) * 2, np.uint8)) > 0
        return bool(np.count_nonzero(self._plain & ~beside) > _STRAY_PART * length)

    def corrected(self, outside: Mask, alike: Mask) -> tuple[Mask, Mask]:
        """What is backdrop after all, and what of `outside` is product because edges enclose it, (H, W) each.

        A place that edges enclose has a line of its own that is seen; a bay between parts of the product has none, and
        nor has a shadow that was taken for product. Where the backdrop's grain can be asked, it has the last word.
        `alike` (H, W) looks like backdrop.
        """
        large, inside = _LARGE_PRODUCT * self._evidence.long_side**2, self.enclosed
        enclosed = bounded(outside & inside, ~inside, self.seen, _WIDE_PRODUCT_PX, large=large)
        product = bounded(enclosed, ~inside, self.seen, _WIDE_PRODUCT_PX, least=_NEW_SEEN)
        product |= self._pale(enclosed & ~product, ~inside, outside)
        product |= flanks(self._evidence, outside & inside & ~product, ~inside, outside, self.seen & ~self.soft)
        product &= ~grained(self._evidence, product, True)
        product |= self._not_as_light(grained(self._evidence, enclosed, False))
        if product.any() and self._evidence.grain is None:
            product &= ~shadow_between(self._evidence, product, outside, ~inside, self.soft)
        bare = outside & ~inside
        bare[[0, -1]] = bare[:, [0, -1]] = True
        backdrop = bounded(~outside & ~inside & alike, bare, self.seen, _WIDE_BACKDROP_PX, most=_OLD_SEEN)
        if backdrop.any():
            backdrop = gone_into(backdrop, bare, *self.slopes)
        backdrop &= ~grained(self._evidence, backdrop, False)
        return (outside & ~product) | backdrop, product

    def _pale(self, places: Mask, other: Mask, outside: Mask) -> Mask:
        """Of some places (H, W) those that are too bright for backdrop and whose own line is seen in part, towards another one.

        Light that the product throws on the table ends softly; near the product (beyond `outside`) its own edge is seen.
        """
        if not places.any():
            return places
        labels, stats = components(places, 8)
        own = cv2.dilate((~outside).astype(np.uint8), np.ones((2 * _AWAY_PX + 1,) * 2, np.uint8)) == 0
        border = places & own & (cv2.dilate(other.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0)
        seen, bright = (part_of(labels, of, there, len(stats)) for of, there in ((border, self.seen), (places, self._bright)))
        chosen = (seen >= _SOME_SEEN) & (seen + bright >= _NEW_SEEN)
        return all_of(labels, chosen)

    def _not_as_light(self, places: Mask) -> Mask:
        """Of some places (H, W) those whose light, all in all, is not the backdrop's."""
        if not places.any():
            return places
        labels, stats = components(places, 8)
        weight = doubled(self._light, self._evidence.shape)
        chosen = np.bincount(labels[places], weights=weight[places], minlength=len(stats)) > 0
        return all_of(labels, chosen)


def _gradient(plane: Plane) -> tuple[Plane, Plane]:
    across, down = (cv2.Sobel(plane, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1)))
    return np.asarray(across, np.float32), np.asarray(down, np.float32)
