"""Touches: a stroke says what is there, and like pixels nearby follow."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.align import FLOOR, Aligned
from true_backdrop.core.picture import Region
from true_backdrop.core.side_by_side import both
from true_backdrop.core.treatment import Touch

#: A change of the picture of this size (log units, all channels) is an edge that a touch does not teach across.
_EDGE = 0.12
#: Unlike the stroke's own pixels by this much, a pixel does not follow, however near.
_UNLIKE = 0.5
#: Colours of a stroke that others are compared with.
_SAMPLES = 12
#: Changes from pixel to pixel up to so many standard deviations of the noise are none.
_NOISE_SIGMAS = 2.5
#: Half the width of such a strip, in proxy pixels.
_SLIVER_PX = 3
#: Rounds of sweeps down and up after which the distances have settled.
_ROUNDS = 8
#: Up to so many pixels are gone over at the proxy's own size.
_FINE_UP_TO = 120_000


def strokes_that_teach(strokes: Sequence[Touch]) -> list[Touch]:
    """Those that say product or backdrop; the others are about shadow."""
    return [stroke for stroke in strokes if stroke.kind in ("product", "backdrop")]


def touched(product: Mask, aligned: Aligned, strokes: Sequence[Touch], done: int = 0) -> Mask:
    """The product (H, W) of a proxy after touches, in their order; the first `done` of them have left it as it is given.

    Under the brush it is as said. From there it is carried on by geodesic distance (Criminisi, Sharp and Blake 2008): a step
    costs its length, and the more the bigger the change of the picture along it and the less alike the stroke's own
    pixels are. `reach` is the longest way. What an opposite touch said exactly, stays.
    """
    teaching, done = strokes_that_teach(strokes), len(strokes_that_teach(strokes[:done]))
    if len(teaching) <= done:
        return product
    out = product.copy()
    said = [brushed(stroke, (int(product.shape[0]), int(product.shape[1]))) for stroke in teaching]
    for number in range(done, len(teaching)):
        stroke, under = teaching[number], said[number]
        others = [mask for mask, other in zip(said[:number], teaching[:number], strict=True) if other.kind != stroke.kind]
        held = np.logical_or.reduce(others) if others else np.zeros_like(product)
        taken = _follows(aligned, under, held & ~under, stroke.reach)
        side = stroke.kind == "product"
        changed = taken & (out != side)
        out[taken] = side
        if stroke.reach > 0:
            out[_slivers(out != side, changed) & ~held] = side
    return out


def said_product(strokes: Sequence[Touch], product: Mask) -> Mask | None:
    """What of a product (H, W) lies under a brush that said so; None where nobody did."""
    said = [brushed(stroke, (int(product.shape[0]), int(product.shape[1]))) for stroke in strokes if stroke.kind == "product"]
    return np.logical_or.reduce(said) & product if said else None


def _slivers(rest: Mask, changed: Mask) -> Mask:
    """What a touch leaves of the other side along the edge that it stopped at: strips as thin as the edge is soft."""
    wide = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * _SLIVER_PX + 1, 2 * _SLIVER_PX + 1))
    thin = rest & ~(cv2.morphologyEx(rest.astype(np.uint8), cv2.MORPH_OPEN, wide) > 0)
    return np.asarray(thin & (cv2.dilate(changed.astype(np.uint8), wide, iterations=2) > 0))


def brushed(stroke: Touch, shape: tuple[int, int]) -> Mask:
    """Pixels (H, W) under the brush; one at least."""
    height, width = shape
    mask = np.zeros(shape, np.uint8)
    draw(mask, np.array(stroke.points) * (width, height), stroke.width * max(shape))
    return mask > 0


def draw(plane: NDArray[np.uint8], points: NDArray[np.float64], width: float) -> None:
    """A stroke into a plane (h, w), 255 under the brush: points (n, 2) x, y and width in its pixels, one pixel at least."""
    at = np.round((points - 0.5) * 16).astype(np.int32)
    thick = max(1, round(width))
    if len(at) == 1:
        cv2.circle(plane, tuple(int(v) for v in at[0]), thick * 8, 255, -1, shift=4)
    else:
        cv2.polylines(plane, [at.reshape(-1, 1, 2)], isClosed=False, color=255, thickness=thick, shift=4)


def _follows(aligned: Aligned, under: Mask, held: Mask, reach: float) -> Mask:
    """The pixels (H, W) that a stroke carries along, those under it included."""
    if reach == 0 or not under.any():
        return under
    budget = float(max(under.shape) * reach * reach)
    left, top, width, height = cv2.boundingRect(under.astype(np.uint8))
    box = Region(top, left, top + height, left + width).grown(int(np.ceil(budget)) + 1, *under.shape).slices
    # Far away a pixel more or less of the way does not matter, and the edge is found anew afterwards.
    coarse = under[box].size > _FINE_UP_TO
    features = _features(aligned, box)
    begin, barred = under[box], held[box]
    if coarse:
        features = np.asarray(halved(features), np.float32)
        begin, barred = (halved(mask.astype(np.float32)) > share for mask, share in ((begin, 0.0), (barred, 0.99)))
        budget /= 2
    features = np.ascontiguousarray(features)
    own = features[begin]
    samples = np.ascontiguousarray(own[:: max(1, len(own) // _SAMPLES)][:_SAMPLES])
    floor = np.float32(_NOISE_SIGMAS * aligned.noise)
    unlike = np.empty(begin.shape, np.float32)
    _compare(features, samples, floor, unlike)
    changes = np.zeros((4, *begin.shape), np.float32)
    _changes(features, floor, changes)
    distance = np.where(begin, np.float32(0), np.float32(np.inf))
    for _ in range(_ROUNDS):
        if not _sweep(changes, unlike, np.ascontiguousarray(barred), np.float32(budget), distance):
            break
    found = distance < budget
    if coarse:
        found = doubled(found.astype(np.float32), (int(under[box].shape[0]), int(under[box].shape[1]))) > 0.5
    out = under.copy()
    out[box] |= found
    return out


def _features(aligned: Aligned, box: tuple[slice, slice]) -> NDArray[np.float32]:
    """(h, w, 6) log light of the frame and its log ratio to the backdrop, a little smoothed; the darkest tells least."""

    def light() -> LinearRGB:
        log = cv2.log(cv2.add(np.ascontiguousarray(aligned.frame[box]), (0.02,) * 3))  # type: ignore[call-overload]
        return np.asarray(cv2.blur(log, (3, 3)), np.float32)

    def ratio() -> LinearRGB:
        return np.asarray(cv2.blur(np.maximum(aligned.log_ratio[box], np.float32(np.log(10 * FLOOR))), (3, 3)), np.float32)

    return np.asarray(np.concatenate(both(light, ratio), axis=2), np.float32)


@compiled
def _compare(features: NDArray[np.float32], samples: NDArray[np.float32], floor: np.float32, unlike: Plane) -> None:
    """Largest difference over the features to the most alike sample, in parts of `_UNLIKE`, into `unlike` (h, w)."""
    for y in range(unlike.shape[0]):
        for x in range(unlike.shape[1]):
            best = np.float32(1e9)
            for k in range(samples.shape[0]):
                most = np.float32(0)
                for c in range(samples.shape[1]):
                    most = max(most, abs(features[y, x, c] - samples[k, c]))
                best = min(best, most)
            unlike[y, x] = max(best - floor, np.float32(0)) / np.float32(_UNLIKE)


@compiled
def _changes(features: NDArray[np.float32], floor: np.float32, changes: NDArray[np.float32]) -> None:
    """Change to the neighbour right, below, below right and below left, in parts of `_EDGE`, into `changes` (4, h, w)."""
    height, width = features.shape[:2]
    for y in range(height):
        for x in range(width):
            for k in range(4):
                ny, nx = y + (0 if k == 0 else 1), x + (1 if k in (0, 2) else (-1 if k == 3 else 0))
                if ny >= height or nx < 0 or nx >= width:
                    continue
                most = np.float32(0)
                for c in range(features.shape[2]):
                    most = max(most, abs(features[y, x, c] - features[ny, nx, c]))
                changes[k, y, x] = max(most - floor, np.float32(0)) / np.float32(_EDGE)


@compiled
def _sweep(changes: NDArray[np.float32], unlike: Plane, barred: Mask, budget: np.float32, distance: Plane) -> bool:
    """A raster sweep down and one up (Toivanen 1996) over `distance` (h, w); whether anything changed by a pixel or more."""
    height, width = distance.shape
    changed = False
    for turn in range(2):
        for i in range(height):
            y = i if turn == 0 else height - 1 - i
            before = y - 1 if turn == 0 else y + 1
            for j in range(width):
                x = j if turn == 0 else width - 1 - j
                if barred[y, x] or unlike[y, x] >= 1:
                    continue
                best = distance[y, x]
                step = 1 + np.float32(4) * unlike[y, x] * unlike[y, x]
                beside = x - 1 if turn == 0 else x + 1
                if 0 <= beside < width and distance[y, beside] < budget:
                    best = min(best, distance[y, beside] + step + budget * changes[0, y, min(x, beside)])
                if 0 <= before < height:
                    upper = min(y, before)
                    for dx in range(-1, 2):
                        nx = x + dx
                        if nx < 0 or nx >= width or distance[before, nx] >= budget:
                            continue
                        if dx == 0:
                            best = min(best, distance[before, nx] + step + budget * changes[1, upper, x])
                            continue
                        # The plane's own pixel is the upper one of the two.
                        at = nx if turn == 0 else x
                        rightwards = (nx < x) if turn == 0 else (nx > x)
                        change = changes[2 if rightwards else 3, upper, at]
                        best = min(best, distance[before, nx] + np.float32(1.4142) * step + budget * change)
                if best < distance[y, x] - np.float32(0.01):
                    if best < budget and distance[y, x] - best >= 1:
                        changed = True
                    distance[y, x] = best
    return changed


def shadow_by_hand(strokes: Sequence[Touch], shape: tuple[int, int]) -> Plane | None:
    """Where shadow was painted back (1) or away (-1), (H, W) with soft edges; None where nobody did."""
    painted = [stroke for stroke in strokes if stroke.kind in ("shadow", "no_shadow")]
    if not painted:
        return None
    plane = np.zeros(shape, np.float32)
    for stroke in painted:
        plane[brushed(stroke, shape)] = 1 if stroke.kind == "shadow" else -1
    return np.asarray(cv2.GaussianBlur(plane, (0, 0), max(1.0, 0.004 * max(shape))), np.float32)
