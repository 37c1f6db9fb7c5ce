"""Which side of the outline: backdrop reached from the rim, product, and holes that show backdrop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, partial

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import Bare, bare_pixels, grained
from true_backdrop.core.cut.beside_glass import open_beside_glass
from true_backdrop.core.cut.between import opened
from true_backdrop.core.cut.bridged import bridged
from true_backdrop.core.cut.clefts import clefts
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.components import hanging_together
from true_backdrop.core.cut.continued import continued
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.faint_hue import parts_of_another_hue
from true_backdrop.core.cut.flanks import flanks_by_light
from true_backdrop.core.cut.going_on import parts_going_on
from true_backdrop.core.cut.hole_criteria import HoleCriteria
from true_backdrop.core.cut.holes import PASSAGE, bare_grain, gaps, holes
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.cut.likeness import Likeness, likeness
from true_backdrop.core.cut.masks import MIXED_PX, disc, eroded, near, without_specks
from true_backdrop.core.cut.off_white import openings_off_white
from true_backdrop.core.cut.openings import openings_alike
from true_backdrop.core.cut.own_light import with_own_light
from true_backdrop.core.cut.own_shadow import ShadowsAround
from true_backdrop.core.cut.paper import without_grain
from true_backdrop.core.cut.papered import paper_within, papered
from true_backdrop.core.cut.pockets import pockets
from true_backdrop.core.cut.printed import printed
from true_backdrop.core.cut.rims_seen import rims_seen
from true_backdrop.core.cut.shade import shade_around
from true_backdrop.core.cut.slits import slits
from true_backdrop.core.cut.table import without_table
from true_backdrop.core.cut.tinted import tinted_parts
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.unparted import unparted
from true_backdrop.core.cut.unwalled import unwalled
from true_backdrop.core.cut.watershed import watershed
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import Material


@dataclass(frozen=True, slots=True)
class Busy:
    """The part of a proxy of some shape (H, W) that has anything to decide, and the evidence there.

    `closing` is what its faint edges enclose, `opaque` what a silhouette frame shows to be product (silhouette.py), where
    there is one; `patterned` says that the backdrop is only a proposal, whose hue says nothing (patterned.py).
    """

    region: Region
    evidence: Evidence
    shape: tuple[int, int]
    closing: Closing
    opaque: Mask | None = None
    patterned: bool = False

    def decide(self, match: float, material: Material) -> Mask:
        """The product at a match, as a mask of the busy part; see `decide`."""
        return decide(self.evidence, match, material, self.opaque, self.closing)

    def completed(self, product: Mask, material: Material, at_match: Callable[[int], Mask] | None = None) -> Mask:
        """What was decided there, with parts that their colour tells (tinted.py, faint_hue.py) or that no edge parts from it
        (going_on.py), rims that end in a line of their own (rims_seen.py), and limbs and outline continued where they give way
        unseen (bridged.py, continued.py). `at_match` gives what is decided at another match, where that is kept."""
        if material == "clear":
            return product
        edges = self.closing.strength
        if material != "strands":
            product = product | tinted_parts(self.evidence, product)
            if not self.patterned:
                at_match = at_match or cache(partial(self.decide, material=material))
                product |= parts_going_on(self.evidence, product, self.closing.seen_or_untold, at_match)
                product |= parts_of_another_hue(self.evidence, product, at_match)
                product |= rims_seen(self.evidence, product)
        return continued(bridged(product, self.evidence, edges), self.evidence, edges)

    def of_proxy(self, product: Mask) -> Mask:
        """What of a mask (H, W) of the proxy lies in it, in memory of its own."""
        return np.ascontiguousarray(product[self.region.slices])

    def on_proxy(self, product: Mask) -> Mask:
        """What was decided there, as (H, W)."""
        whole = np.zeros(self.shape, bool)
        whole[self.region.slices] = product
        return whole


def busy_part(evidence: Evidence, opaque: Mask | None = None, shot: Region | None = None) -> Busy:
    """The part of the proxy outside which all is bare backdrop, at any backdrop match.

    Cells in which more than a few pixels differ from the backdrop by the strictest tolerances, and a margin:
    lone grains of noise do not count (of bare backdrop far less than a hundredth differs). `shot` is the part in which the
    frame is as shot, when a framing box has put backdrop in the place of the rest.
    """
    as_it_was: Mask | None = None
    if shot is not None:
        as_it_was = np.zeros(evidence.shape, bool)
        as_it_was[shot.slices] = True
    height, width = evidence.tone.shape
    limits = Tolerances.of(_STRICTEST, evidence.noise, evidence.long_side)
    differs = ~likeness(evidence, limits).alike
    if opaque is not None:
        differs |= opaque
    cells = (-(-width // _CELL), -(-height // _CELL))
    crowded = cv2.resize(differs.astype(np.uint8) * np.uint8(255), cells, interpolation=cv2.INTER_AREA) > _CROWDED * 255
    crowded |= _brighter_cells(evidence.tone, cells)
    left, top, across, down = cv2.boundingRect(crowded.astype(np.uint8))
    if across == 0:
        return Busy(Region(0, 0, height, width), evidence, evidence.shape, Closing(evidence, as_it_was), opaque)
    part = Region(top * _CELL, left * _CELL, (top + down) * _CELL, (left + across) * _CELL)
    region = part.grown(round(_ROOM * evidence.long_side), height, width)
    busy, there = evidence.part(region.slices), None if opaque is None else np.ascontiguousarray(opaque[region.slices])
    inside = None if as_it_was is None else np.ascontiguousarray(as_it_was[region.slices])
    return Busy(region, busy, evidence.shape, Closing(busy, inside), there)


def _brighter_cells(tone: Plane, cells: tuple[int, int]) -> Mask:
    """Cells (h, w) that are brighter than the backdrop beyond chance and lie together: pale product, or light thrown by it."""
    level = np.asarray(cv2.resize(tone, cells, interpolation=cv2.INTER_AREA), np.float32)
    rim = np.concatenate([level[0], level[-1], level[:, 0], level[:, -1]])
    chance = 1.48 * float(np.median(np.abs(rim)))
    brighter = (level > max(_BRIGHTER, _BEYOND_CHANCE * chance)).astype(np.uint8)
    return np.asarray(cv2.morphologyEx(brighter, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0)


#: So much brighter (log units, and in multiples of what the rim is off) a cell is beyond chance.
_BRIGHTER, _BEYOND_CHANCE = 0.004, 4.0
#: Backdrop match that the busy part is found at.
_STRICTEST = 90
#: Cells are so many proxy pixels wide and high; so much of a busy one differs.
_CELL = 8
_CROWDED = 0.1
#: Bare backdrop kept around the busy part, in parts of the long side.
_ROOM = 0.04


def decide(
    evidence: Evidence, match: float, material: Material, opaque: Mask | None = None, closing: Closing | None = None
) -> Mask:
    """The product as a mask (H, W) of a proxy, or of the busy part of it; `opaque` (H, W) is product for sure.

    1. Backdrop is what can be reached from the rim over pixels that look like backdrop or soft shadow,
       through passages of some width, so that a gap in a pale outline does not let it in. Where the outline is
       faint all the same, the region that its edges enclose corrects it (`closing`, made here where it is None).
    2. Enclosed places that look like the backdrop around them are holes, if product parts them from it (unwalled.py) and no
       print floats in them (printed.py).
    3. Product for sure is what no backdrop and no soft shadow can be, and the inside of what is left.
    4. Between backdrop and product the outline lies on the strongest step (watershed on the ratio).
    """
    product = np.zeros(evidence.shape, bool)
    limits = Tolerances.of(match, evidence.noise, evidence.long_side)
    like = likeness(evidence, limits)
    if opaque is not None:
        like.alike[opaque] = False
    outside = _outside(like, evidence.long_side)
    closing = Closing(evidence) if closing is None else closing
    enclosed = None
    if closing.doubts(outside):
        outside, enclosed = closing.corrected(outside, like.alike)
    outside |= pockets(evidence, outside, like.alike, closing.seen)
    left, top, width, height = cv2.boundingRect((~outside).astype(np.uint8))
    if width == 0:
        return product
    # All that is left to decide lies in there; the margin is backdrop that the watershed can start from.
    box = Region(top, left, top + height, left + width).grown(_MARGIN, *outside.shape).slices
    expected = shade_around(evidence, outside)[box]
    grain = bare_grain(evidence, outside)
    shadows = ShadowsAround(evidence, outside, box)
    evidence, outside = evidence.part(box), outside[box]
    faintly = None if enclosed is None else enclosed[box]
    hue = BackdropHue(evidence, outside)
    criteria = HoleCriteria(evidence, limits, grain, expected, material, faintly, hue, shadows)
    found = holes(criteria, like.alike[box] & ~outside, closing.seen[box])
    found &= ~unwalled(evidence, found, outside, closing.seen[box])
    bare = bare_pixels(evidence, limits, expected)
    found |= papered(evidence, bare, ~outside & ~found, expected, material, hue)
    rest = ~outside & ~found
    found |= open_beside_glass(evidence, bare, rest, expected, grain) if material == "clear" else slits(evidence, bare.lit & rest)
    if material in _FIRM:
        found |= paper_within(evidence, bare.soft & ~outside & ~found, expected)
    backdrop = outside | found
    if material != "clear":  # through glass everything looks like a gap
        backdrop |= _gaps_and_openings(evidence, limits, like.alike[box], bare, outside, backdrop, expected, hue)
    # Between strands loose ends float as well.
    backdrop &= ~printed(evidence, backdrop & ~outside & (material in _FIRM))
    if opaque is not None:
        backdrop &= ~opaque[box]
    sure = _sure_product(evidence, limits, like.tint[box], backdrop)
    sure |= flanks_by_light(evidence, backdrop, sure, limits.brighter, closing.seen[box] & ~closing.soft[box])
    if opaque is not None:
        sure |= opaque[box]
    inside = watershed(evidence, backdrop, sure)
    white = without_grain(evidence.tone, evidence.bare, evidence.structure, ~inside)
    white &= ~grained(evidence, white, True)  # the slope of a shadow alone hides it
    if white.any():
        # The comparison reaches some pixels beyond the white product; where it ends the strongest step says.
        kept = ~near(white, 2 * MIXED_PX)
        inside = watershed(evidence, backdrop & kept, sure | (eroded(white, MIXED_PX // 2) > 0))
    firm = np.zeros_like(inside) if opaque is None else opaque[box]
    inside = without_table(evidence, inside, bare.soft, firm, closing, box, limits, material)
    inside = without_specks(inside | _surfaces(evidence, inside, material))
    product[box] = opened(evidence, limits, inside, expected) if material == "strands" else inside
    return product


def _gaps_and_openings(
    evidence: Evidence,
    limits: Tolerances,
    alike: Mask,
    bare: Bare,
    outside: Mask,
    backdrop: Mask,
    expected: Plane,
    hue: BackdropHue,
) -> Mask:
    """A backdrop (h, w) with what goes on in it through gaps, and with openings that are like one that was found, or that only a
    white backdrop could leave in doubt; of it what is `outside` (h, w) is not enclosed."""
    found = backdrop | gaps(bare.surely & ~backdrop, backdrop, evidence.long_side)
    found |= clefts(evidence, ~found, found, expected)
    for places in (alike, *(evidence.tint < part * limits.tint for part in _NEUTRAL)):
        found |= openings_alike(evidence, places & ~outside, found & ~outside)
    return found | openings_off_white(evidence, bare.soft, ~found, expected, hue)


_MARGIN = 8
#: What was not said to be strands or clear.
_FIRM: tuple[Material, ...] = ("auto", "solid", "pale")
#: So much of the tolerance of tint an opening of a pattern may have at most, where only the product's colour parts it from that;
#: and a small one, which that is spread over.
_NEUTRAL = 0.6, 1.0


#: With that and up to this many doublings the outline's gaps are closed.
_DOUBLINGS = 4
#: So much leaked outline (parts of the long side) is a leak and not a stray reflection.
_LEAK_LENGTH = 0.04


def _outside(like: Likeness, long_side: int) -> Mask:
    """Backdrop that hangs together with the rim, through passages wide enough that no outline leaks.

    Where a shadow happens to be as light as the product, the outline has a gap. A leak shows: a clear step
    then has backdrop on both sides. The passage is widened until that is gone; narrower places that are
    backdrop all the same are found as holes.
    """
    best, fewest = like.alike, np.inf
    for doubling in range(_DOUBLINGS + 1):
        found = _reached(like.alike, max(1, round(PASSAGE * long_side)) << doubling)
        closed = cv2.morphologyEx(found.astype(np.uint8), cv2.MORPH_CLOSE, disc(4)) > 0
        leaked = np.count_nonzero(closed & like.clear) / long_side
        if leaked < fewest:
            best, fewest = found, leaked
        if leaked < _LEAK_LENGTH:
            break
    return best


def _reached(alike: Mask, radius: int) -> Mask:
    """The part of `alike` that hangs together with the rim through passages wider than twice the radius."""
    rim = np.zeros_like(alike)
    rim[0] = rim[-1] = rim[:, 0] = rim[:, -1] = True
    grown = eroded(~hanging_together(eroded(alike, radius), rim, 4), radius) == 0
    return np.asarray(grown & alike)


def _surfaces(evidence: Evidence, inside: Mask, material: Material) -> Mask:
    """What of the openings in a product (h, w) is surface of it. Between strands and through glass backdrop goes on as it is."""
    own = with_own_light(evidence, ~inside)
    return own | unparted(evidence, inside) if material in _FIRM else own


def _sure_product(evidence: Evidence, limits: Tolerances, tint: Plane, backdrop: Mask) -> Mask:
    rest = ~backdrop
    # The soft foot of a shadow is at most this far from where it was first stopped.
    radius = max(2, round(0.009 * evidence.long_side))
    body = eroded(rest, radius) > 0
    # Where product meets table the shadow is thin and dark as well: beside a body only tint tells.
    beside = near(body, 2 * radius)
    thin = (evidence.thin > 3 * limits.thin) & (~beside | (tint > 1))
    strong = rest & ((tint > 2.5) | (evidence.tone < limits.darkest) | (evidence.tone > 2 * limits.brighter) | thin)
    return np.asarray(strong | body)
