"""One pixel near the outline: how opaque it is, and the product's colour in it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.strands import FIRM_BAND

#: A band wider than this (proxy pixels) holds strands, not one edge: what is inside it is open.
_WIDE_BAND = 3.0
#: So small a difference, in standard deviations of the noise, is none; nor is so small an opacity, in those of a projection.
_NOISE_SIGMAS, _PROJECTION_SIGMAS = 3.0, 4.0
#: So much opacity may be noise at most, at the outline and a proxy pixel outside of it.
_MOST_NOISE, _MOST_NOISE_OUTSIDE = 0.12, 0.25
#: So many standard deviations below all is all, a proxy pixel inside of the outline, and so much at most. Nearer to it than a
#: pixel of the tile a lens's own edge is.
_FULL_SIGMAS, _MOST_NOISE_INSIDE = 2.0, 0.2
#: What the distance to the outline says of opacity is as good as a projection that is off by this.
_DISTANCE_SIGMA = 0.4
#: Strands are darker than the backdrop up to such a part of its light; without a shadow it is no lighter than this.
_DARKER_STRANDS, _LIT = 0.8, 1.03
#: Below this light a relative difference says nothing.
_DARK = 0.01

#: Where pixel (y, x) of a tile lies in another plane: at (down * y + top, across * x + left), pixel centres whole.
Place = NDArray[np.float64]


class LitBackdrop(NamedTuple):
    """The backdrop sB behind a tile: `picture` B as shot, (H', W', 3), and the light s that reaches it.

    That is `shadow` (H, W) of the proxy, times what the product throws on it, `bounced` (h, w, 3) of any size, times the `gain`
    of each channel. Where the tile lies in the picture and in `bounced` say `at` and `bounced_at`; in the shadow it lies where it
    does in the planes of the outline.
    """

    picture: LinearRGB
    at: Place
    shadow: Plane
    bounced: LinearRGB
    bounced_at: Place
    gain: tuple[float, float, float]


@compiled
def solve_tile(
    shot: LinearRGB,
    behind: LitBackdrop,
    signed: Plane,
    band: Plane,
    own: LinearRGB,
    proxy_at: Place,
    noise: float,
    narrowest: float,
    alpha: Plane,
    colour: LinearRGB,
) -> None:
    """Alpha and straight product colour of every pixel of a tile, into `alpha` (h, w) and `colour` (h, w, 3).

    Parameters
    ----------
    shot
        (h, w, 3) linear light I of the tile.
    behind
        The backdrop in the light that reaches it, sB.
    signed, band, own, proxy_at
        Planes of an `Outline` (H, W), `own` (H, W, 3) is F, and where the tile lies in them.
    noise
        Standard deviation of a pixel of the tile over the backdrop, relative.
    narrowest
        Least half width of the band, in proxy pixels.

    Notes
    -----
    In the band alpha is the projection of I - sB on F - sB. Where F and sB are too alike for the noise, the
    distance to the outline decides in its place. F is then unmixed from I.
    """
    here = np.empty(3, np.float32)
    pure = np.empty(3, np.float32)
    rows, columns = _grid(proxy_at, shot.shape, signed.shape)
    at_picture = _grid(behind.at, shot.shape, behind.picture.shape)
    at_bounced = _grid(behind.bounced_at, shot.shape, behind.bounced.shape)
    for y in range(shot.shape[0]):
        for x in range(shot.shape[1]):
            distance = _between(signed, rows, y, columns, x)
            reach = max(_between(band, rows, y, columns, x), narrowest)
            if distance >= reach:
                alpha[y, x] = 1
                for c in range(3):
                    colour[y, x, c] = shot[y, x, c]
                continue
            alpha[y, x] = 0
            for c in range(3):
                colour[y, x, c] = 0
            if distance <= -reach:
                continue
            light = _between(behind.shadow, rows, y, columns, x)
            for c in range(3):
                here[c] = light * _unshaded(behind, at_picture, at_bounced, y, x, c)
                pure[c] = _between(own[:, :, c], rows, y, columns, x)
            if reach > _WIDE_BAND:
                _let_light_in(shot[y, x], here, pure, light)
            if distance <= -FIRM_BAND and not _differs(shot[y, x], here, noise):
                continue
            a = _opacity(shot[y, x], here, pure, distance, reach, noise, narrowest)
            alpha[y, x] = a
            for c in range(3):
                colour[y, x, c] = _unmixed(shot[y, x, c], here[c], pure[c], a)


@compiled
def contrast_of(
    behind: LitBackdrop,
    own: LinearRGB,
    proxy_at: Place,
    contrast: Plane,
) -> None:
    """Mean square of (F - sB) / level for every pixel of a tile, into `contrast` (h, w): what a projection can be trusted for.

    Parameters as in `solve_tile`.
    """
    rows, columns = _grid(proxy_at, contrast.shape, own.shape)
    at_picture = _grid(behind.at, contrast.shape, behind.picture.shape)
    at_bounced = _grid(behind.bounced_at, contrast.shape, behind.bounced.shape)
    here = np.empty(3, np.float32)
    for y in range(contrast.shape[0]):
        for x in range(contrast.shape[1]):
            light = _between(behind.shadow, rows, y, columns, x)
            span_sq = 0.0
            for c in range(3):
                here[c] = light * _unshaded(behind, at_picture, at_bounced, y, x, c)
                span_sq += (_between(own[:, :, c], rows, y, columns, x) - here[c]) ** 2
            level = _level(here)
            contrast[y, x] = span_sq / (3 * level * level)


@compiled
def join_lights(alpha: Plane, contrast: Plane, noise: float, alpha_lit: Plane, contrast_lit: Plane, noise_lit: float) -> None:
    """One opacity from two lights, into `alpha` (h, w): each weighs by the inverse of its variance.

    The variance of a projection is the noise, and what is not known of F and sB, over the contrast between them.
    """
    for y in range(alpha.shape[0]):
        for x in range(alpha.shape[1]):
            one = contrast[y, x] / (noise * noise + _UNKNOWN_COLOUR**2)
            other = contrast_lit[y, x] / (noise_lit * noise_lit + _UNKNOWN_COLOUR**2)
            both = (one * alpha[y, x] + other * alpha_lit[y, x]) / max(one + other, 1e-6)
            alpha[y, x] = min(max(both, 0.0), 1.0)


#: Relative error of product and backdrop colour near the outline, beside noise.
_UNKNOWN_COLOUR = 0.03


@compiled
def unmix(
    shot: LinearRGB,
    behind: LitBackdrop,
    own: LinearRGB,
    proxy_at: Place,
    alpha: Plane,
    colour: LinearRGB,
) -> None:
    """Straight product colour for opacities that are settled, into `colour` (h, w, 3); parameters as in `solve_tile`."""
    rows, columns = _grid(proxy_at, shot.shape, own.shape)
    at_picture = _grid(behind.at, shot.shape, behind.picture.shape)
    at_bounced = _grid(behind.bounced_at, shot.shape, behind.bounced.shape)
    for y in range(shot.shape[0]):
        for x in range(shot.shape[1]):
            a = alpha[y, x]
            if a <= 0 or a >= 1:
                for c in range(3):
                    colour[y, x, c] = shot[y, x, c] if a >= 1 else np.float32(0)
                continue
            light = _between(behind.shadow, rows, y, columns, x)
            for c in range(3):
                here = light * _unshaded(behind, at_picture, at_bounced, y, x, c)
                colour[y, x, c] = _unmixed(shot[y, x, c], here, _between(own[:, :, c], rows, y, columns, x), a)


@compiled
def _level(behind: LinearRGB) -> float:
    return float(max((behind[0] + behind[1] + behind[2]) / 3, _DARK))


@compiled
def _differs(frame: LinearRGB, behind: LinearRGB, noise: float) -> bool:
    """Whether a pixel differs from its backdrop by more than noise; outside the outline the others have no opacity."""
    away = 0.0
    for c in range(3):
        away += (frame[c] - behind[c]) ** 2
    return bool(away > 3 * (_NOISE_SIGMAS * noise * _level(behind)) ** 2)


@compiled
def _let_light_in(frame: LinearRGB, behind: LinearRGB, pure: LinearRGB, light: float) -> None:
    """Make the backdrop of a pixel (3,) among strands, of which so much `light` is said to be left, as light as the pixel.

    Only strands shade it: between them it may be as light as without a shadow, and what is lighter than the backdrop is no
    mixture of that and strands that are darker.
    """
    square = along = own = 0.0
    for c in range(3):
        square += behind[c] ** 2
        along += frame[c] * behind[c]
        own += pure[c] * behind[c]
    if along <= square or own > _DARKER_STRANDS * square:
        return
    for c in range(3):
        behind[c] *= max(min(along / max(square, 1e-8), _LIT / max(light, 0.05)), 1.0)


@compiled
def _opacity(
    frame: LinearRGB, behind: LinearRGB, pure: LinearRGB, distance: float, reach: float, noise: float, pixel: float
) -> float:
    """Alpha of one pixel: frame I, backdrop sB and local product colour F, (3,) each; `pixel` is its width in proxy pixels."""
    level = _level(behind)
    span_sq = toward = 0.0
    for c in range(3):
        span_sq += (pure[c] - behind[c]) ** 2
        toward += (frame[c] - behind[c]) * (pure[c] - behind[c])
    projected = min(max(toward / max(span_sq, 1e-8), 0.0), 1.0)
    contrast = span_sq / (3 * level * level)
    # The noise of three channels gives a projection this variance, over the contrast. Below a contrast of 3 % it says nothing.
    variance = noise * noise / 3
    trust = contrast / (contrast + variance / _DISTANCE_SIGMA**2 + 0.0009)
    alpha = trust * projected + (1 - trust) * _ramp(distance, -0.75, 0.75)
    # Off the line between backdrop and product colour: no mixture, so another colour of the product.
    off_sq = 0.0
    for c in range(3):
        off_sq += (frame[c] - behind[c] - projected * (pure[c] - behind[c])) ** 2
    off_line = np.sqrt(off_sq / 3) / level
    inwards = _ramp(distance, -0.6, 0.6) if reach > _WIDE_BAND else _ramp(distance, -0.8, 0.2)
    alpha = max(alpha, _ramp(off_line, 0.06 + 2 * noise, 0.16 + 3 * noise) * inwards)
    # Far enough from the outline for its kind, it is one or the other.
    begins = (0.6 if reach > _WIDE_BAND else 0.4) * reach
    least, most = _ramp(distance, begins, reach), 1 - _ramp(-distance, 0.75 * begins, reach + 0.5 * begins)
    alpha = min(max(alpha, least), most)
    # What noise alone makes of alpha is none, the more surely the farther out; nor does it take from all farther in.
    sigma = np.sqrt(variance / max(contrast, 1e-6))
    by_noise = _MOST_NOISE + (_MOST_NOISE_OUTSIDE - _MOST_NOISE) * _ramp(-distance, 0.4, 1.2)
    floor = min(max(_PROJECTION_SIGMAS * sigma, 0.02), by_noise)
    inside = max(pixel, 0.5)
    full = 0.98 - min(_FULL_SIGMAS * sigma, _MOST_NOISE_INSIDE) * _ramp(distance, inside, inside + 0.7)
    return float(min(max((alpha - floor) / (full - floor), 0.0), 1.0))


@compiled
def _unmixed(frame: float, behind: float, pure: float, alpha: float) -> float:
    """F = (I - (1 - a) s B) / a where that is steady, the local product colour where alpha is small."""
    if alpha >= 1:
        return frame
    solved = min(max((frame - (1 - alpha) * behind) / max(alpha, 0.05), 0.0), 1.0)
    steady = _ramp(alpha, 0.5, 0.95)
    return steady * solved + (1 - steady) * min(max(pure, 0.0), 1.0)


@compiled
def _ramp(value: float, low: float, high: float) -> float:
    """0 below `low`, 1 above `high`, smooth between (cubic)."""
    t = min(max((value - low) / max(high - low, 1e-6), 0.0), 1.0)
    return t * t * (3 - 2 * t)


#: For each pixel of a tile, along one axis: the two pixels of a plane that it lies between, and the second one's weight.
_Corners = tuple[NDArray[np.uint32], NDArray[np.uint32], NDArray[np.float32]]


@compiled
def _corners(step: float, begin: float, count: int, length: int) -> _Corners:
    """Outside of the plane (of some length) its rim goes on."""
    first, second, weight = np.empty(count, np.uint32), np.empty(count, np.uint32), np.empty(count, np.float32)
    for i in range(count):
        at = min(max(step * i + begin, 0.0), length - 1.0)
        first[i] = int(at)
        second[i] = min(int(at) + 1, length - 1)
        weight[i] = at - int(at)
    return first, second, weight


@compiled
def _grid(at: Place, tile: tuple[int, ...], plane: tuple[int, ...]) -> tuple[_Corners, _Corners]:
    """Rows and columns for every pixel of a tile (its shape) in a plane (its shape)."""
    return _corners(at[0], at[1], tile[0], plane[0]), _corners(at[2], at[3], tile[1], plane[1])


@compiled
def _between(plane: Plane, rows: _Corners, y: int, columns: _Corners, x: int) -> float:
    """A plane (H, W) between pixel centres, bilinear."""
    top, bottom, down = rows[0][y], rows[1][y], rows[2][y]
    left, right, across = columns[0][x], columns[1][x], columns[2][x]
    above = plane[top, left] + across * (plane[top, right] - plane[top, left])
    below = plane[bottom, left] + across * (plane[bottom, right] - plane[bottom, left])
    return above + down * (below - above)  # type: ignore[no-any-return]


@compiled
def _unshaded(
    behind: LitBackdrop, picture: tuple[_Corners, _Corners], bounced: tuple[_Corners, _Corners], y: int, x: int, c: int
) -> float:
    """A channel of the backdrop behind a pixel of a tile, with all light but the shadow; `picture` and `bounced` say where."""
    light = behind.gain[c] * _between(behind.bounced[:, :, c], bounced[0], y, bounced[1], x)
    return light * _between(behind.picture[:, :, c], picture[0], y, picture[1], x)
