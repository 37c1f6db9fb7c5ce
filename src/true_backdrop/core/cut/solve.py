"""One pixel near the outline: how opaque it is, and the product's colour in it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.interpolation import Colour, Corners, Place, between, colour_between, grid
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
    rows, columns = grid(proxy_at, shot.shape, signed.shape)
    at_picture = grid(behind.at, shot.shape, behind.picture.shape)
    at_bounced = grid(behind.bounced_at, shot.shape, behind.bounced.shape)
    for y in range(shot.shape[0]):
        for x in range(shot.shape[1]):
            distance = between(signed, rows, y, columns, x)
            reach = max(between(band, rows, y, columns, x), narrowest)
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
            light = between(behind.shadow, rows, y, columns, x)
            seen = shot[y, x, 0], shot[y, x, 1], shot[y, x, 2]
            here = _shaded(behind, light, at_picture, at_bounced, y, x)
            pure = colour_between(own, rows, y, columns, x)
            if reach > _WIDE_BAND:
                here = _let_light_in(seen, here, pure, light)
            if distance <= -FIRM_BAND and not _differs(seen, here, noise):
                continue
            a = _opacity(seen, here, pure, distance, reach, noise, narrowest)
            alpha[y, x] = a
            for c in range(3):
                colour[y, x, c] = _unmixed(seen[c], here[c], pure[c], a)


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
    rows, columns = grid(proxy_at, contrast.shape, own.shape)
    at_picture = grid(behind.at, contrast.shape, behind.picture.shape)
    at_bounced = grid(behind.bounced_at, contrast.shape, behind.bounced.shape)
    for y in range(contrast.shape[0]):
        for x in range(contrast.shape[1]):
            here = _shaded(behind, between(behind.shadow, rows, y, columns, x), at_picture, at_bounced, y, x)
            span, level = _less(colour_between(own, rows, y, columns, x), here), _level(here)
            contrast[y, x] = _dot(span, span) / (3 * level * level)


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
    rows, columns = grid(proxy_at, shot.shape, own.shape)
    at_picture = grid(behind.at, shot.shape, behind.picture.shape)
    at_bounced = grid(behind.bounced_at, shot.shape, behind.bounced.shape)
    for y in range(shot.shape[0]):
        for x in range(shot.shape[1]):
            a = alpha[y, x]
            if a <= 0 or a >= 1:
                for c in range(3):
                    colour[y, x, c] = shot[y, x, c] if a >= 1 else np.float32(0)
                continue
            here = _shaded(behind, between(behind.shadow, rows, y, columns, x), at_picture, at_bounced, y, x)
            pure = colour_between(own, rows, y, columns, x)
            for c in range(3):
                colour[y, x, c] = _unmixed(shot[y, x, c], here[c], pure[c], a)


@compiled
def _single(red: float, green: float, blue: float) -> Colour:
    """In single precision."""
    return np.float32(red), np.float32(green), np.float32(blue)  # type: ignore[return-value]


@compiled
def _less(minuend: Colour, subtrahend: Colour) -> Colour:
    return minuend[0] - subtrahend[0], minuend[1] - subtrahend[1], minuend[2] - subtrahend[2]


@compiled
def _dot(one: Colour, other: Colour) -> float:
    return float(one[0] * other[0]) + float(one[1] * other[1]) + float(one[2] * other[2])


@compiled
def _level(behind: Colour) -> float:
    return float(max((behind[0] + behind[1] + behind[2]) / 3, _DARK))


@compiled
def _differs(frame: Colour, behind: Colour, noise: float) -> bool:
    """Whether a pixel differs from its backdrop by more than noise; outside the outline the others have no opacity."""
    away = _less(frame, behind)
    return bool(_dot(away, away) > 3 * (_NOISE_SIGMAS * noise * _level(behind)) ** 2)


@compiled
def _let_light_in(frame: Colour, behind: Colour, pure: Colour, light: float) -> Colour:
    """The backdrop of a pixel among strands, of which so much `light` is said to be left, made as light as the pixel.

    Only strands shade it: between them it may be as light as without a shadow, and what is lighter than the backdrop is no
    mixture of that and strands that are darker.
    """
    square, along = _dot(behind, behind), _dot(frame, behind)
    if along <= square or _dot(pure, behind) > _DARKER_STRANDS * square:
        return behind
    lighter = max(min(along / max(square, 1e-8), _LIT / max(light, 0.05)), 1.0)
    return _single(lighter * behind[0], lighter * behind[1], lighter * behind[2])


@compiled
def _opacity(frame: Colour, behind: Colour, pure: Colour, distance: float, reach: float, noise: float, pixel: float) -> float:
    """Alpha of one pixel: frame I, backdrop sB and local product colour F; `pixel` is its width in proxy pixels."""
    level, span, away = _level(behind), _less(pure, behind), _less(frame, behind)
    span_sq = _dot(span, span)
    projected = min(max(_dot(away, span) / max(span_sq, 1e-8), 0.0), 1.0)
    contrast = span_sq / (3 * level * level)
    # The noise of three channels gives a projection this variance, over the contrast. Below a contrast of 3 % it says nothing.
    variance = noise * noise / 3
    trust = contrast / (contrast + variance / _DISTANCE_SIGMA**2 + 0.0009)
    alpha = trust * projected + (1 - trust) * _ramp(distance, -0.75, 0.75)
    # Off the line between backdrop and product colour: no mixture, so another colour of the product.
    off = _less(away, (projected * span[0], projected * span[1], projected * span[2]))
    off_line = np.sqrt(_dot(off, off) / 3) / level
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


@compiled
def _shaded(
    behind: LitBackdrop, light: float, picture: tuple[Corners, Corners], bounced: tuple[Corners, Corners], y: int, x: int
) -> Colour:
    """The backdrop behind a pixel of a tile, in so much light and what the product throws; `picture` and `bounced` say where."""
    shot = colour_between(behind.picture, picture[0], y, picture[1], x)
    thrown = colour_between(behind.bounced, bounced[0], y, bounced[1], x)
    gain = behind.gain
    return _single(
        light * (gain[0] * thrown[0] * shot[0]), light * (gain[1] * thrown[1] * shot[1]), light * (gain[2] * thrown[2] * shot[2])
    )
