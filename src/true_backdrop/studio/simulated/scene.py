"""What stands on the simulated table, as linear light that a lens would gather.

A product is known as rendered layers: its light under each lamp group, true alpha and depth, and the same of the
empty set. Small moves of the hands move the ratio to the empty set, so that shadow and reflections go along.
"""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.exposure import blur_mm
from true_backdrop.core.registration import Similarity
from true_backdrop.studio.protocols import LampSettings
from true_backdrop.studio.simulated.layers import read_layer, read_plane

#: The camera of the renders: 19 degrees across on a sensor 36 mm wide.
SENSOR_MM = 36.0
FOCAL_MM = SENSOR_MM / 2 / np.tan(np.deg2rad(19.0 / 2))
#: Full scale of the stored depth, in mm (32 dm).
_DEPTH_SCALE_MM = 3200.0
#: Relative strength of the backdrop paper's own grain, and its size in parts of the picture's width.
_PAPER, _PAPER_GRAIN = 0.006, 0.0016


#: The number of a turntable's position behind a product's code.
_of_position = re.compile(r"_\d\d$")
#: Angles at which the camera stands as for this one have no empty set of their own.
FIRST_ANGLE = "front"


@dataclass(frozen=True, slots=True)
class Table:
    """What the hands have done.

    code         product on the table, or None
    angle        where the camera stands
    right, down  shift in parts of the picture's width and height
    turn         degrees, clockwise in the picture
    size         1 as rendered
    nudge        the camera's own shift in parts of the width (right, down): moves all that is seen
    turntable    degrees that the turntable stands at; shown where the product is known from all sides (angle `spin`)
    """

    code: str | None = None
    angle: str = FIRST_ANGLE
    right: float = 0.0
    down: float = 0.0
    turn: float = 0.0
    size: float = 1.0
    nudge: tuple[float, float] = (0.0, 0.0)
    turntable: float = 0.0


@dataclass(frozen=True, slots=True)
class Light:
    """A scene under each lamp group (H, W, 3), the distance of what is seen (H, W) in mm, and where product is (H, W), 0 to 1."""

    front: LinearRGB
    backdrop: LinearRGB
    depth: Plane
    covered: Plane


class Scenery:
    """The layers on disk, at one size (height, width).

    `gathered(table, focus, lamps, warmth)` is the light on the sensor (H, W, 3) before exposure; what was asked for
    last is kept, since a live view looks at the same table most of the time.
    """

    def __init__(self, folder: Path, size: tuple[int, int]) -> None:
        self._folder, self.size = folder, size
        self.seen = lru_cache(3)(self._seen)
        self.gathered = lru_cache(2)(self._gathered)
        self._layers = lru_cache(4)(self._read)

    def codes(self) -> dict[str, list[str]]:
        """For each angle that there is, the products that can be put down."""
        out = {}
        for angle in sorted(path for path in self._folder.iterdir() if path.is_dir()):
            codes = sorted({_of_position.sub("", path.name.removesuffix("_alpha.jxl")) for path in angle.glob("*_alpha.jxl")})
            if codes:
                out[angle.name] = codes
        return out

    def _read(self, angle: str, code: str) -> Light:
        height, width = self.size
        folder = self._folder / angle
        if code == "empty" and not (folder / "empty_front.jxl").exists():
            folder = self._folder / FIRST_ANGLE  # only the product was turned

        def sized(plane: NDArray[np.float32]) -> NDArray[np.float32]:
            how = cv2.INTER_AREA if width <= plane.shape[1] else cv2.INTER_CUBIC
            return np.asarray(cv2.resize(plane, (width, height), interpolation=how), np.float32)

        depth = sized(read_plane(folder / f"{code}_depth.jxl")) * np.float32(_DEPTH_SCALE_MM)
        layers = (sized(read_layer(folder / f"{code}_{group}.jxl")) for group in ("front", "backdrop"))
        alpha = np.zeros(depth.shape, np.float32) if code == "empty" else sized(read_plane(folder / f"{code}_alpha.jxl"))
        front, backdrop = layers
        return Light(front, backdrop, depth, np.asarray(np.clip(alpha, 0, 1), np.float32))

    def _seen(self, table: Table) -> Light:
        empty = self._layers(table.angle, "empty")
        if table.code is None:
            return _nudged(_papered(empty), table.nudge)
        shown = self._layers(table.angle, self._on_turntable(table.angle, table.code, table.turntable))
        move = self._move(table, shown)
        if move is not None:
            size = (self.size[1], self.size[0])

            def moved(one: LinearRGB, bare: LinearRGB) -> LinearRGB:
                ratio = cv2.warpAffine(one / bare, move, size, flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
                return np.asarray(np.maximum(ratio, 0) * bare, np.float32)

            planes = (
                np.asarray(cv2.warpAffine(p, move, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)
                for p in (shown.depth, shown.covered)
            )
            shown = Light(moved(shown.front, empty.front), moved(shown.backdrop, empty.backdrop), *planes)
        return _nudged(_papered(shown), table.nudge)

    def _on_turntable(self, angle: str, code: str, degrees: float) -> str:
        """The position that was rendered nearest to where the turntable stands."""
        positions = sorted(self._folder.glob(f"{angle}/{code}_[0-9][0-9]_alpha.jxl"))
        if not positions:
            return code
        return positions[round(degrees / 360 * len(positions)) % len(positions)].name.removesuffix("_alpha.jxl")

    def _move(self, table: Table, shown: Light) -> NDArray[np.float64] | None:
        if (table.right, table.down, table.turn, table.size) == (0.0, 0.0, 0.0, 1.0):
            return None
        left, top, width, height = cv2.boundingRect((shown.covered > 0.5).astype(np.uint8))
        middle = left + (width - 1) / 2, top + (height - 1) / 2
        shift = table.right * self.size[1], table.down * self.size[0]
        return Similarity.about(middle, degrees=table.turn, scale=table.size, shift=shift).matrix

    def _gathered(self, table: Table, focus: Focus, lamps: LampSettings, warmth: float) -> LinearRGB:
        light = _added(self.seen(table), lamps, warmth)
        sharp = _breathed(_out_of_focus(light, self.seen(table), focus), focus.focus_mm)
        # The lens itself spreads a point a little.
        return np.asarray(np.maximum(cv2.GaussianBlur(sharp, (0, 0), 0.55 * max(1.0, self.size[1] / 1500)), 0), np.float32)


@lru_cache(4)
def _paper(shape: tuple[int, int]) -> Plane:
    """The grain of the backdrop paper: the same wherever it is looked at."""
    height, width = shape
    grain = np.random.default_rng(20).standard_normal((1000, 1500), dtype=np.float32)
    soft = np.asarray(cv2.GaussianBlur(grain, (0, 0), _PAPER_GRAIN * 1500), np.float32)
    sized = cv2.resize(soft / soft.std(), (width, height), interpolation=cv2.INTER_LINEAR)
    return np.asarray(1 + np.float32(_PAPER) * sized, np.float32)


def _papered(light: Light) -> Light:
    """The paper's grain where paper is seen."""
    grain = 1 + (_paper(light.depth.shape) - 1) * (1 - light.covered)
    return replace(light, front=light.front * grain[..., None], backdrop=light.backdrop * grain[..., None])


def _nudged(light: Light, nudge: tuple[float, float]) -> Light:
    if nudge == (0.0, 0.0):
        return light
    height, width = light.depth.shape
    move = np.array([[1, 0, nudge[0] * width], [0, 1, nudge[1] * width]])

    def moved(plane: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.warpAffine(plane, move, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE))

    return Light(moved(light.front), moved(light.backdrop), moved(light.depth), moved(light.covered))


@dataclass(frozen=True, slots=True)
class Focus:
    """What of the camera's settings decides on sharpness."""

    f_number: float
    focus_mm: float


def _added(light: Light, lamps: LampSettings, warmth: float) -> LinearRGB:
    """Lamps added up. `warmth` is how much of their blue they have lost and gained in red, e.g. 0.03."""
    total = np.asarray(cv2.addWeighted(light.front, 2.0 * lamps.front, light.backdrop, lamps.backdrop, 0.0), np.float32)
    if warmth:
        total = total * np.array([1 + warmth, 1.0, 1 - warmth], np.float32)
    return total


#: Focused at this distance the view is as rendered.
_AS_RENDERED_MM = 1100.0


def breathing(focus_mm: float) -> float:
    """How much larger everything is shown than as rendered: the thin lens's image distance v = f u / (u - f) grows."""
    image_mm, rendered_mm = (FOCAL_MM * u / (u - FOCAL_MM) for u in (focus_mm, _AS_RENDERED_MM))
    return float(image_mm / rendered_mm)


def _breathed(light: LinearRGB, focus_mm: float) -> LinearRGB:
    scale = breathing(focus_mm)
    if abs(scale - 1) < 1e-6:
        return light
    height, width = light.shape[:2]
    matrix = Similarity.about(((width - 1) / 2, (height - 1) / 2), scale=scale).matrix
    out = cv2.warpAffine(light, matrix, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.maximum(out, 0), np.float32)


#: Blurs (sigma in pixels) that a picture is made at; between them it is mixed.
_BLURS = (0.0, 1.0, 2.0, 4.0, 8.0)


def _out_of_focus(light: LinearRGB, scene: Light, focus: Focus) -> LinearRGB:
    """What is not in focus is blurred: the backdrop by itself, and the product over it with its outline."""
    pixels_per_mm = light.shape[1] / SENSOR_MM
    # A disc of diameter d is about as wide as a Gaussian of sigma d / 4.
    disc_mm = blur_mm(float(FOCAL_MM), focus.f_number, focus.focus_mm, np.maximum(scene.depth, 1))
    sigma = np.asarray(disc_mm * pixels_per_mm / 4, np.float32)
    if sigma.max() < 0.3:
        return light
    covered = scene.covered[..., None]
    behind = _blurred(light * (1 - covered), sigma) / np.maximum(_blurred(1 - covered, sigma), 1e-3)
    solid = scene.covered > 0.5
    if not solid.any():
        return np.asarray(behind, np.float32)
    of_product = np.where(solid, sigma, np.median(sigma[solid])).astype(np.float32)
    return np.asarray(_blurred(light * covered, of_product) + behind * (1 - _blurred(covered, of_product)), np.float32)


def _blurred(plane: NDArray[np.float32], sigma: Plane) -> NDArray[np.float32]:
    """(H, W, C) with a Gaussian of another sigma at each pixel."""
    out = plane
    for low, high in itertools.pairwise(_BLURS):
        if sigma.max() <= low:
            break
        share = np.clip((sigma - low) / (high - low), 0, 1)[..., None]
        blur = _gaussian(plane, high).reshape(plane.shape)
        out = np.asarray(out + share * (blur - out), np.float32)
    return out


#: A blur as broad as this is made at half the size: nothing finer is left in it.
_BROAD = 3.0


def _gaussian(plane: NDArray[np.float32], sigma: float) -> NDArray[np.float32]:
    if sigma < _BROAD:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), sigma), np.float32)
    height, width = plane.shape[:2]
    half = np.asarray(cv2.resize(plane, (width // 2, height // 2), interpolation=cv2.INTER_AREA), np.float32)
    return np.asarray(cv2.resize(_gaussian(half, sigma / 2), (width, height), interpolation=cv2.INTER_LINEAR), np.float32)
