"""What shutter, aperture, sensitivity and focus do to a picture, in numbers.

Thin-lens optics; lengths in millimetres, times in seconds. Formulas as in Ray, "Applied Photographic Optics"
(3rd edition, 2002), chapters on depth of field and on exposure (from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

#: One distance, or one for each pixel.
Distance = TypeVar("Distance", float, NDArray[np.float32])

#: Largest blur that still looks sharp on a full-frame sensor (common practice: diagonal / 1500, 43.3 mm / 1500).
CIRCLE_OF_CONFUSION_MM = 0.029


def exposure_value(f_number: float, seconds: float) -> float:
    """EV at ISO 100: log2(N^2 / t). f/1 for one second is 0.

    >>> round(exposure_value(8, 1 / 125), 2)
    12.97
    """
    return math.log2(f_number**2 / seconds)


def light_gathered_ev(f_number: float, seconds: float, iso: float) -> float:
    """How much brighter a picture gets, in EV against f/1, one second, ISO 100: one stop more doubles its values."""
    return math.log2(iso / 100) - exposure_value(f_number, seconds)


def hyperfocal_mm(focal_mm: float, f_number: float, circle_mm: float = CIRCLE_OF_CONFUSION_MM) -> float:
    """Focused at this distance, everything from half of it to infinity is sharp: H = f^2 / (N c) + f.

    >>> round(hyperfocal_mm(50, 8, 0.03) / 1000, 2)
    10.47
    """
    return focal_mm**2 / (f_number * circle_mm) + focal_mm


def kelvin_for_neutral(kelvin: float, red: float, blue: float) -> float:
    """The colour temperature to set so that something neutral looks neutral.

    `red` and `blue` are its linear light as the camera shows it at `kelvin`. In mired (a million over kelvin) equal
    steps look equal, and by Wien's approximation ln(red / blue) is proportional to them; the factor is that of 450
    and 610 nm, the middles of sRGB's blue and red (Wyszecki and Stiles, "Color Science", 1982, chapter 1; from memory).
    Kept between 2000 and 12000 K.
    """
    second_radiation_um_k = 14388.0
    per_mired = second_radiation_um_k * (1 / 0.450 - 1 / 0.610) / 1e6
    mired = 1e6 / kelvin + math.log(max(red, 1e-6) / max(blue, 1e-6)) / per_mired
    return min(12000.0, max(2000.0, 1e6 / max(mired, 1.0)))


@dataclass(frozen=True, slots=True)
class Sharp:
    """From where to where it is sharp, in mm from the lens; `far` may be infinite."""

    near: float
    far: float

    @property
    def depth(self) -> float:
        return self.far - self.near


def depth_of_field(focal_mm: float, f_number: float, distance_mm: float, circle_mm: float = CIRCLE_OF_CONFUSION_MM) -> Sharp:
    """Near and far limit for a lens focused at a distance, which must be more than the focal length."""
    if distance_mm <= focal_mm:
        raise ValueError(f"a lens of {focal_mm:g} mm cannot be focused at {distance_mm:g} mm")
    hyperfocal = hyperfocal_mm(focal_mm, f_number, circle_mm)
    near = distance_mm * (hyperfocal - focal_mm) / (hyperfocal + distance_mm - 2 * focal_mm)
    beyond = hyperfocal - distance_mm
    return Sharp(near, distance_mm * (hyperfocal - focal_mm) / beyond if beyond > 0 else math.inf)


def blur_mm(focal_mm: float, f_number: float, focused_mm: float, distance_mm: Distance) -> Distance:
    """Diameter on the sensor of the blur of points at some distance, with the lens focused at another."""
    magnification = focal_mm / (focused_mm - focal_mm)
    return abs(focal_mm / f_number * magnification * (distance_mm - focused_mm) / distance_mm)


def focus_steps(
    focal_mm: float,
    f_number: float,
    near_mm: float,
    far_mm: float,
    *,
    overlap: float = 0.3,
    circle_mm: float = CIRCLE_OF_CONFUSION_MM,
) -> list[float]:
    """Focus distances that together keep everything from near to far sharp, the nearest first.

    Each begins where the one before ends to be sharp, less `overlap` of its own depth (common practice: about
    a third). There is one at least.

    Raises
    ------
    ValueError
        When far is not beyond near, or near is within the focal length.
    """
    if not focal_mm < near_mm < far_mm:
        raise ValueError(f"near ({near_mm:g} mm) must be nearer than far ({far_mm:g} mm) and beyond {focal_mm:g} mm")
    steps: list[float] = []
    begins = near_mm
    while True:
        focused = _focused_for_near(focal_mm, f_number, begins, circle_mm)
        sharp = depth_of_field(focal_mm, f_number, focused, circle_mm)
        steps.append(focused)
        if sharp.far >= far_mm:
            return steps
        begins = sharp.far - overlap * sharp.depth


def _focused_for_near(focal_mm: float, f_number: float, near_mm: float, circle_mm: float) -> float:
    """The distance to focus at so that the near limit lies at `near_mm`: the near-limit formula solved for it."""
    hyperfocal = hyperfocal_mm(focal_mm, f_number, circle_mm)
    if near_mm >= hyperfocal / 2:
        return hyperfocal
    return near_mm * (hyperfocal - 2 * focal_mm) / (hyperfocal - focal_mm - near_mm)
