"""Rims of a product that are nearly as the backdrop: the foot of a glass, the bevel of a plate, the dull edge of a knife.

Their tone and tint pass for backdrop in a light shadow, and the outline lies on their inner edge, which is stronger. But where
the rim ends a faint and sharp line runs along beside that, always as far away, as no shadow's edge does.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import lacks_grain
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain
from true_backdrop.core.cut.masks import median, percentiles
from true_backdrop.core.cut.paper import LEAST_STRUCTURE, shows_paper
from true_backdrop.core.cut.unrolled import Beside, Line, surroundings
from true_backdrop.core.picture import Region

#: A line that is so long (pixels) tells a rim, also one in pieces of so much at least, of rims that are as broad up to so much
#: (pixels), and as light and as tinted up to so much (log units). On 602 composites three such in pieces were rims, none was not.
_LONG_PX, _SHORT_PX = 38, 10
_JUST_AS_BROAD_PX, _JUST_AS_LIGHT, _JUST_AS_TINTED = 1.0, 0.05, 0.03
#: Where there is one, a shorter line tells a rim that is as broad up to so much (pixels) and as light up to so much (log units).
#: What is between two of them is a rim if it is no longer than that (pixels).
_AS_BROAD_PX, _AS_LIGHT, _GAP_PX = 2.0, 0.25, 64
#: A line of such goes on where the step across is the same up to such a part, along so many pixels at least.
_SAME_STEP, _ON_LEAST_PX = 0.4, 20
#: A rim is no darker than that (median tone, log units), and if it is darker than that it has so little tint (median, log units):
#: what a product throws on the table has more. On 602 composites 30 lines of 20 pixels and more, long ones and those of the same
#: product like them, bounded what was product for 0.85 and more; of two such of shadows one was darker, both had more tint.
_DARKEST, _DARK, _COLOURLESS = -0.5, -0.15, 0.05
#: What is darker than that (median tone, log units) is broader than that (pixels): where a product stands on its table there is a
#: shadow as sharp as an edge; of drawn cups it was 3.5 to 5 pixels broad, and the narrowest dark rim of the 602 was 6.
_CONTACT, _CONTACT_PX = -0.2, 5.5
#: It is as broad all along (standard deviation, pixels), and not just as light as the backdrop (log units); and halfway out its
#: light changes by so little over so many pixels, along most of it (log units, in the noise, percent): ends of bristles lie on
#: a line as well.
_EVEN_PX, _UNLIKE, _STEADY, _STEADY_NOISE, _OVER_PX, _MOST = 0.7, 0.02, 0.02, 2.0, 3, 75


class _Rim(NamedTuple):
    """What lies between an outline and a line: that, its mean distance (pixels), and the rim's median tone and tint."""

    line: Line
    away: float
    tone: float
    tint: float

    @property
    def is_told(self) -> bool:
        """Whether a long line tells it from a shadow, and from light that the product throws."""
        if self.tone < _CONTACT and self.away < _CONTACT_PX:
            return False
        return abs(self.tone) > _UNLIKE and self.tone > _DARKEST and (self.tone > _DARK or self.tint < _COLOURLESS)

    def is_just_like(self, other: _Rim) -> bool:
        """Whether a line goes on in another one."""
        alike = abs(self.tone - other.tone) < _JUST_AS_LIGHT and abs(self.tint - other.tint) < _JUST_AS_TINTED
        return alike and abs(self.away - other.away) <= _JUST_AS_BROAD_PX

    def is_like(self, other: _Rim) -> bool:
        return abs(self.away - other.away) < _AS_BROAD_PX and abs(self.tone - other.tone) < _AS_LIGHT


def rims_seen(evidence: Evidence, product: Mask) -> Mask:
    """What (H, W) beside a product (H, W) is a rim of it that ends in a line along its outline.

    A coarse encoder draws lines as well, at the edges of its blocks; of a picture that it saved nothing is said.
    """
    found = np.zeros_like(product)
    if evidence.rounding > 0:
        return found
    outlines = [(beside, list(_rims(evidence, product, beside))) for beside in surroundings(evidence.relief, product)]
    sure = _long([rim for _, rims in outlines for rim in rims if rim.is_told])
    if not sure:
        return found
    for beside, rims in outlines:
        out = np.full(len(beside.contour), np.nan)
        for rim in rims:
            if any(rim.is_like(one) for one in sure):
                out[rim.line.along] = rim.line.away
        seen = ~np.isnan(out)
        for rim in rims:
            if any(rim is one for one in sure):
                _go_on(beside, rim, out)
        for along in _joined(out, _GAP_PX):
            if not seen[along].any():
                continue
            here, mask = _between(beside, along, out[along], product)
            found[here] |= mask
    return found


def _long(rims: list[_Rim]) -> list[_Rim]:
    """Those whose lines are long enough together with the lines that go on in them."""
    return [rim for rim in rims if sum(len(one.line.along) for one in rims if one.is_just_like(rim)) >= _LONG_PX]


def _rims(evidence: Evidence, product: Mask, beside: Beside) -> Iterator[_Rim]:
    """What lies inside of lines that run beside an outline, steadily, and does not show the paper's grain."""
    for line in beside.lines(_SHORT_PX):
        here, mask = _between(beside, line.along, line.away, product)
        if mask.any() and _is_steady(evidence, beside, line) and not _is_paper(evidence, here, mask):
            yield _Rim(line, float(line.away.mean()), median(evidence.tone[here][mask]), median(evidence.tint[here][mask]))


def _go_on(beside: Beside, rim: _Rim, out: NDArray[np.float64]) -> None:
    """Write down how broad a rim is (N,) where nothing is known yet and its line goes on too faintly to be seen by itself."""
    step = beside.step(rim.away)
    own = float(np.median(step[rim.line.along]))
    on = np.abs(step - own) < _SAME_STEP * abs(own)
    for along in _joined(np.where(on, rim.away, np.nan)):
        if len(along) >= _ON_LEAST_PX:
            out[along[np.isnan(out[along])]] = rim.away


def _is_paper(evidence: Evidence, here: tuple[slice, slice], mask: Mask) -> bool:
    """Whether the paper's grain is seen in a band, a mask (h, w) of a box, or may be in a bright one: table in thrown light."""
    tone, bare = evidence.tone[here], evidence.bare[here]
    if evidence.structure >= LEAST_STRUCTURE and median(tone[mask]) > 0:
        return not lacks_grain(evidence, here, mask)
    return bool(shows_grain(tone, bare, mask, evidence.grain)) or shows_paper(tone, bare, mask, evidence.structure)


def _is_steady(evidence: Evidence, beside: Beside, line: Line) -> bool:
    """Whether a line is always as far away, and the light halfway out to it hardly changes along it."""
    if np.std(line.away) > _EVEN_PX:
        return False
    out = np.round(line.away / 2).astype(np.int64)
    x, y = (np.round(at[line.along, out]).astype(np.int64) for at in (beside.x, beside.y))
    height, width = evidence.shape
    tone = evidence.tone[np.clip(y, 0, height - 1), np.clip(x, 0, width - 1)]
    (change,) = percentiles(np.abs(tone[_OVER_PX:] - tone[:-_OVER_PX]), _MOST)
    return change < _STEADY + _STEADY_NOISE * evidence.noise


def _joined(out: NDArray[np.float64], gap: int = 1) -> list[NDArray[np.int64]]:
    """Points of a closed outline in turn, piece by piece, where a rim is so broad (N,), NaN for none; short gaps are filled.

    What is between both ends of a single line is no gap, however short the outline is.
    """
    n, known = len(out), np.flatnonzero(~np.isnan(out))
    pieces: list[NDArray[np.int64]] = []
    start = 0
    most = gap if np.count_nonzero(np.diff(known, append=known[:1] + n) > 1) > 1 else 1
    for i, first in enumerate(known):
        last = known[i + 1] if i + 1 < len(known) else known[0] + n
        if last - first <= most:
            between = np.arange(first + 1, last)
            out[between % n] = np.interp(between, [first, last], [out[first], out[last % n]])
        else:
            pieces.append(np.arange(known[start], first + 1))
            start = i + 1
    if start < len(known):  # the last piece goes on in the first one, or all around
        rest = np.arange(known[start], known[0] + n)
        pieces[:1] = [np.concatenate([rest, pieces[0] + n]) if pieces else rest]
    return [piece % n for piece in pieces]


def _between(
    beside: Beside, along: NDArray[np.int64], away: NDArray[np.float64], product: Mask
) -> tuple[tuple[slice, slice], Mask]:
    """What is beside points (n,) of an outline up to so far away (n,) and no product (H, W): its box, and (h, w) in that."""
    out = np.round(away).astype(np.int64)
    ends = np.round(np.stack([beside.x[along, out], beside.y[along, out]], axis=1)).astype(np.int32)
    polygon = np.concatenate([ends, beside.contour[along][::-1]])
    left, top, width, height = cv2.boundingRect(polygon)
    here = Region(top, left, top + height, left + width).grown(0, *product.shape).slices
    fill = np.zeros(product[here].shape, np.uint8)
    cv2.fillPoly(fill, [polygon], 1, offset=(-here[1].start, -here[0].start))
    return here, np.asarray((fill > 0) & ~product[here])
