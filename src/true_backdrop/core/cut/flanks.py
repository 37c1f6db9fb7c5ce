"""The flanks of glass: hardly off the backdrop's light, but unevenly so, and bounded by a line of their own."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bordered import part_of
from true_backdrop.core.cut.components import all_of, components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import MIXED_PX, disc, eroded, median, near
from true_backdrop.core.picture import Region

#: A flank is so large at least (pixels of the proxy), so much brighter than the backdrop (log units: no shadow is), and so much
#: more uneven than its noise (measured on path-traced glass: from 7.5 times on; other places that edges enclose: up to 6.8).
_LEAST_PX, _BRIGHTER, _UNEVEN = 40, 0.01, 7.0
#: So much of its line towards the backdrop is a sharp edge, and at least so much of it, against that, lies along product: spots
#: of light that glass throws on the table lie alone.
_EDGE_SEEN, _ALONG_PRODUCT = 0.6, 0.4
#: No shadow is brighter than the backdrop; a flank is by so much of what is brighter for sure.
_LIGHTER = 0.4
#: What is so many times brighter than that is a reflection, and a flank lies so near to one (pixels).
_REFLECTION, _BESIDE_PX = 2.0, 20
#: So near to a border (pixels) counts as along it.
_NEAR_PX = 2


def flanks(evidence: Evidence, places: Mask, other: Mask, outside: Mask, edges: Mask) -> Mask:
    """Of some places (H, W) those that are the flanks of glass.

    `other` is what lies beyond their own line, `outside` all that was taken for backdrop, themselves among it, and `edges`
    where a sharp edge is seen, (H, W) each.
    """
    broad = cv2.morphologyEx(places.astype(np.uint8), cv2.MORPH_OPEN, disc(1))
    labels, stats = components(broad, 8)
    chosen = np.zeros(len(stats), bool)
    around = np.ones((2 * _NEAR_PX + 1,) * 2, np.uint8)
    for label in np.flatnonzero(stats[1:, cv2.CC_STAT_AREA] >= _LEAST_PX) + 1:
        left, top, width, height, _ = (int(value) for value in stats[label])
        here = Region(top, left, top + height, left + width).grown(_NEAR_PX + 1, *places.shape).slices
        place = labels[here] == label
        if median(evidence.tone[here][place]) < _BRIGHTER or median(evidence.thin[here][place]) < _UNEVEN * evidence.noise:
            continue
        line, along = (place & (cv2.dilate(mask.astype(np.uint8), around) > 0) for mask in (other[here], ~outside[here]))
        length = int(np.count_nonzero(line))
        chosen[label] = length > 0 and edges[here][line].mean() > _EDGE_SEEN and np.count_nonzero(along) > _ALONG_PRODUCT * length
    return all_of(labels, chosen)


def flanks_by_light(evidence: Evidence, backdrop: Mask, sure: Mask, brighter: float, edges: Mask) -> Mask:
    """Of what is neither backdrop nor surely product, (H, W) each, the inside of flanks: a little brighter than the backdrop
    (`brighter`, log units, is so for sure), and bounded by a sharp edge, as light that is thrown on the table is not.

    The strongest step, which an outline is drawn on otherwise, is a reflection's there.
    """
    found = np.zeros_like(sure)
    reflection = sure & (evidence.tone > _REFLECTION * brighter)
    left, top, across, down = cv2.boundingRect(reflection.astype(np.uint8))
    if across == 0:
        return found
    box = Region(top, left, top + down, left + across).grown(_BESIDE_PX + 2 * MIXED_PX, *sure.shape).slices
    backdrop, sure, edges, reflection = backdrop[box], sure[box], edges[box], reflection[box]
    lighter = np.asarray(cv2.blur(evidence.tone[box], (3, 3)) > _LIGHTER * brighter) & ~sure
    # Where an edge mixes the two with the backdrop, or with what is brighter, it is as light as a flank.
    lighter &= eroded(~backdrop, MIXED_PX // 2) > 0
    if not lighter.any():
        return found
    lighter &= ~near(sure, MIXED_PX) & near(reflection, _BESIDE_PX)
    labels, stats = components(lighter, 8)
    square = np.ones((2 * MIXED_PX + 1,) * 2, np.uint8)
    grown = cv2.dilate(labels.astype(np.float32), square).astype(np.int32)
    line = backdrop & (cv2.dilate((~backdrop).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)
    chosen = part_of(grown, line, cv2.dilate(edges.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0, len(stats)) > _EDGE_SEEN
    found[box] = all_of(labels, chosen)
    return found
