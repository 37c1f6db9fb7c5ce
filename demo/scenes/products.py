"""Harrow & Tide: ten products of the invented maker, as geometry and surfaces."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from geometry import Mesh, ball, join, lathe, profile, rope, smooth_path, strands, tube
from materials import Surface, brass, glass, glossy, matte, metal, steel

Parts = list[tuple[Mesh, Surface]]


@dataclass(frozen=True)
class Product:
    code: str
    name: str
    material: str
    build: Callable[[], Parts]


def circle(radius: float, y: float, n: int = 96, *, tilt: float = 0.0) -> np.ndarray:
    a = np.linspace(0, 2 * np.pi, n, endpoint=False)
    return np.stack([radius * np.cos(a), np.full(n, y) + tilt * np.cos(a), radius * np.sin(a)], 1)


def lantern() -> Parts:
    tank = lathe(
        profile(
            (0.001, 0.0),
            (0.50, 0.0),
            (0.56, 0.03),
            (0.58, 0.16),
            (0.50, 0.28),
            (0.30, 0.36),
            (0.20, 0.40),
            (0.20, 0.50),
            (0.30, 0.52),
            (0.30, 0.56),
            (0.001, 0.57),
        )
    )
    wall = profile((0.24, 0.56), (0.34, 0.72), (0.36, 0.88), (0.27, 1.10), (0.21, 1.22))
    inner = wall[::-1] - np.array([0.025, 0.0])
    chimney = lathe(np.concatenate([wall, inner, wall[:1]]))
    cap = lathe(profile((0.18, 1.18), (0.30, 1.22), (0.32, 1.27), (0.20, 1.36), (0.12, 1.42), (0.13, 1.48), (0.001, 1.52)))
    rods = [
        tube(smooth_path([(s * 0.50, 0.22, 0), (s * 0.56, 0.6, 0), (s * 0.48, 1.1, 0), (s * 0.28, 1.28, 0)], 16), 0.025)
        for s in (-1, 1)
    ]
    bail = tube(smooth_path([(-0.52, 1.0, 0), (-0.58, 1.5, 0.02), (0, 1.98, 0.04), (0.58, 1.5, 0.02), (0.52, 1.0, 0)], 24), 0.018)
    wick = lathe(profile((0.001, 0.70), (0.05, 0.70), (0.06, 0.57), (0.06, 0.56), sharp=True))
    return [(join(tank, cap, wick), brass(0.16)), (join(*rods, bail), steel(0.2)), (chimney, glass())]


def jug() -> Parts:
    body = lathe(
        profile(
            (0.001, 0.0),
            (0.46, 0.0),
            (0.52, 0.04),
            (0.62, 0.35),
            (0.58, 0.75),
            (0.38, 1.08),
            (0.33, 1.25),
            (0.40, 1.42),
            (0.37, 1.41),
            (0.29, 1.24),
            (0.33, 1.05),
            (0.50, 0.7),
            (0.001, 0.1),
        )
    )
    band = lathe(profile((0.625, 0.30), (0.632, 0.36), (0.625, 0.44)))
    handle = rope(
        smooth_path([(0.36, 1.30, 0), (0.62, 1.38, 0), (0.90, 1.12, 0), (0.92, 0.80, 0), (0.58, 0.56, 0)], 40), 0.062, turns=11
    )
    return [(body, matte((0.13, 0.24, 0.30))), (band, matte((0.72, 0.68, 0.58))), (handle, matte((0.52, 0.38, 0.22)))]


def brush() -> Parts:
    rng = np.random.default_rng(310)
    handle = lathe(
        profile((0.001, 0.0), (0.10, 0.0), (0.13, 0.05), (0.11, 0.35), (0.14, 0.7), (0.10, 0.92), (0.055, 1.0), (0.03, 1.04))
    )
    core = tube(np.stack([np.zeros(20), np.linspace(1.0, 1.86, 20), np.zeros(20)], 1), 0.028)
    n = 5200
    angle, height = rng.uniform(0, 2 * np.pi, n), rng.uniform(0, 1, n)
    roots = np.stack([0.02 * np.cos(angle), 1.06 + 0.80 * height, 0.02 * np.sin(angle)], 1)
    out = np.stack([np.cos(angle), rng.normal(0.05, 0.12, n), np.sin(angle)], 1)
    length = (0.42 - 0.16 * np.abs(height - 0.45)) * rng.uniform(0.85, 1.06, n)
    hair = strands(roots, out, length, 0.0052, rng, bend=0.14, droop=0.05)
    base = lathe(profile((0.001, 0.0), (0.26, 0.0), (0.28, 0.02), (0.25, 0.06), (0.001, 0.07)))
    return [(join(handle, base), glossy((0.45, 0.22, 0.09), 0.12)), (core, steel(0.2)), (hair, matte((0.10, 0.075, 0.055)))]


def net_float() -> Parts:
    sphere = ball(0.66).moved(y=0.68)
    lines = []
    for k in range(9):
        for sense in (-1, 1):
            t = np.linspace(-1.35, 1.35, 60)
            a = sense * t * 1.1 + 2 * np.pi * k / 9
            r = 0.685
            lines.append(
                rope(np.stack([r * np.cos(t) * np.cos(a), 0.68 + r * np.sin(t), r * np.cos(t) * np.sin(a)], 1), 0.026, turns=14)
            )
    collar = [rope(circle(0.16, y), 0.035, turns=14, closed=True) for y in (0.045, 1.335, 1.385)]
    loop = rope(
        smooth_path([(-0.10, 1.38, 0), (-0.16, 1.62, 0), (0, 1.80, 0), (0.16, 1.62, 0), (0.10, 1.38, 0)], 24), 0.035, turns=9
    )
    return [(sphere, glossy((0.03, 0.20, 0.15), 0.03)), (join(*lines, *collar, loop), matte((0.50, 0.41, 0.28)))]


def spectacles() -> Parts:
    def rim(x: float) -> np.ndarray:
        a = np.linspace(0, 2 * np.pi, 96, endpoint=False)
        return np.stack([x + 0.36 * np.cos(a), 0.40 + 0.31 * np.sin(a), np.full(96, 0.35)], 1)

    rims = [tube(rim(x), 0.028, 12, closed=True) for x in (-0.48, 0.48)]
    bridge = tube(smooth_path([(-0.14, 0.48, 0.35), (0, 0.56, 0.38), (0.14, 0.48, 0.35)], 12), 0.026)
    arms = [
        tube(
            smooth_path([(s * 0.83, 0.46, 0.35), (s * 0.90, 0.47, 0.25), (s * 0.86, 0.42, -0.5), (s * 0.74, 0.08, -1.0)], 16),
            0.026,
        )
        for s in (-1, 1)
    ]
    a = np.linspace(0, 2 * np.pi, 64, endpoint=False)
    lens = []
    for x in (-0.48, 0.48):
        edge = np.stack([0.345 * np.cos(a), 0.295 * np.sin(a)], 1)
        front = lathe(profile((0.001, 0.018), (0.5, 0.014), (1.0, 0.0), (0.5, -0.010), (0.001, -0.006), sharp=True), 64)
        del edge
        lens.append(front.turned(90, "x").stretched(0.345, 0.295, 1.0).moved(x, 0.40, 0.35))
    cord = rope(
        smooth_path(
            [
                (-0.76, 0.10, -0.95),
                (-1.15, 0.03, -0.6),
                (-1.30, 0.025, 0.1),
                (-0.9, 0.025, 0.75),
                (-0.1, 0.025, 0.9),
                (0.7, 0.025, 0.8),
                (1.25, 0.025, 0.3),
                (1.20, 0.025, -0.5),
                (0.76, 0.10, -0.95),
            ],
            40,
        ),
        0.024,
        turns=60,
    )
    return [
        (join(*rims, bridge, *arms), glossy((0.20, 0.07, 0.03), 0.06)),
        (join(*lens), glass(1.5)),
        (cord, matte((0.06, 0.10, 0.20))),
    ]


def salve() -> Parts:
    tin = lathe(profile((0.001, 0.0), (0.66, 0.0), (0.68, 0.02), (0.68, 0.20), (0.68, 0.20), sharp=True))
    lid = lathe(profile((0.70, 0.16), (0.70, 0.36), (0.68, 0.385), (0.60, 0.39), (0.58, 0.38), (0.001, 0.38), sharp=True))
    label = lathe(profile((0.701, 0.19), (0.7025, 0.20), (0.7025, 0.33), (0.701, 0.34), sharp=True))
    rings = [lathe(profile((0.7035, y), (0.7045, y + 0.008), (0.7035, y + 0.016), sharp=True)) for y in (0.215, 0.30)]
    face = lathe(profile((0.56, 0.383), (0.001, 0.384), sharp=True))
    mark = lathe(profile((0.40, 0.386), (0.26, 0.387), sharp=True))
    tip = 24.0
    parts: Parts = [
        (tin, steel(0.12)),
        (lid, steel(0.08)),
        (label, matte((0.78, 0.77, 0.74))),
        (join(*rings), matte((0.05, 0.14, 0.28))),
        (face, glossy((0.05, 0.14, 0.28), 0.08)),
        (mark, matte((0.80, 0.79, 0.76))),
    ]
    leaning = [(mesh.turned(tip, "x").moved(y=0.70 * np.sin(np.deg2rad(tip)) + 0.005), s) for mesh, s in parts]
    block = lathe(profile((0.001, 0.0), (0.16, 0.0), (0.16, 0.20), (0.001, 0.22), sharp=True)).moved(z=-0.35)
    return [*leaning, (block, steel(0.2))]


def gull() -> Parts:
    rng = np.random.default_rng(507)
    body = ball(1.0).stretched(0.62, 0.44, 0.42).turned(8, "z").moved(0, 0.66, 0)
    head = ball(0.28).moved(-0.50, 1.12, 0.02)
    tail = ball(1.0, 64).stretched(0.34, 0.10, 0.20).turned(14, "z").moved(0.66, 0.82, 0)
    skin = join(body, head, tail)
    triangles = skin.vertices[skin.faces]
    normal = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    area = np.linalg.norm(normal, axis=1)
    pick = rng.choice(len(area), 26000, p=area / area.sum())
    w = rng.dirichlet((1, 1, 1), len(pick))
    roots = (triangles[pick] * w[:, :, None]).sum(1)
    centre = np.where(roots[:, :1] < -0.3, np.array([[-0.5, 1.12, 0.02]]), np.array([[0.05, 0.66, 0.0]]))
    out = (roots - centre) * np.where(roots[:, :1] < -0.3, 1.0, np.array([[1.0, 1.6, 1.7]]))
    fluff = strands(
        roots,
        out + rng.normal(0, 0.25, out.shape) * np.linalg.norm(out, axis=1, keepdims=True),
        rng.uniform(0.04, 0.095, len(pick)),
        0.0042,
        rng,
        bend=0.5,
    )
    beak = lathe(profile((0.085, 0.0), (0.06, 0.12), (0.001, 0.28), sharp=True), 32).turned(98, "z").moved(-0.74, 1.10, 0.02)
    eyes = join(*[ball(0.034, 24).moved(-0.62, 1.20, z) for z in (0.24, -0.20)])
    wing = ball(1.0, 64).stretched(0.46, 0.22, 0.10).turned(12, "z").moved(0.12, 0.74, 0.40)
    legs = [
        tube(smooth_path([(x, 0.30, z), (x, 0.10, z), (x - 0.02, 0.03, z + 0.02)], 8), 0.028)
        for x, z in ((-0.05, 0.12), (0.10, -0.12))
    ]
    feet = [ball(1.0, 32).stretched(0.15, 0.028, 0.10).moved(x - 0.06, 0.03, z + 0.03) for x, z in ((-0.05, 0.12), (0.10, -0.12))]
    return [
        (join(skin, fluff), matte((0.76, 0.75, 0.72))),
        (wing, matte((0.42, 0.45, 0.48))),
        (join(beak, *legs, *feet), matte((0.62, 0.36, 0.08))),
        (eyes, glossy((0.02, 0.02, 0.02), 0.04)),
    ]


def carafe() -> Parts:
    outer = profile(
        (0.001, 0.0),
        (0.42, 0.0),
        (0.50, 0.03),
        (0.56, 0.25),
        (0.52, 0.55),
        (0.30, 0.95),
        (0.19, 1.25),
        (0.20, 1.50),
        (0.30, 1.72),
    )
    inner = profile(
        (0.275, 1.715), (0.172, 1.50), (0.162, 1.25), (0.272, 0.95), (0.49, 0.55), (0.53, 0.25), (0.46, 0.10), (0.001, 0.08)
    )
    ring = lathe(profile((0.202, 1.16), (0.222, 1.18), (0.222, 1.28), (0.202, 1.30), sharp=True))
    return [(lathe(np.concatenate([outer, inner]), 192), glass(1.5)), (ring, metal("Cu", 0.15))]


def mug() -> Parts:
    wall = lathe(
        profile(
            (0.001, 0.0),
            (0.50, 0.0),
            (0.53, 0.03),
            (0.53, 0.98),
            (0.535, 1.0),
            (0.51, 1.0),
            (0.505, 0.97),
            (0.505, 0.06),
            (0.001, 0.05),
            sharp=True,
        )
    )
    lip = tube(circle(0.523, 1.0), 0.022, 12, closed=True)
    handle = tube(
        smooth_path([(0.52, 0.82, 0), (0.72, 0.86, 0), (0.86, 0.72, 0), (0.84, 0.42, 0), (0.68, 0.26, 0), (0.52, 0.28, 0)], 20),
        0.052,
        16,
    ).turned(-18)
    return [(join(wall, handle), glossy((0.80, 0.80, 0.785), 0.04)), (lip, glossy((0.03, 0.08, 0.24), 0.05))]


def bell() -> Parts:
    shell = lathe(
        profile((0.60, 0.02), (0.62, 0.05), (0.58, 0.12), (0.45, 0.34), (0.38, 0.62), (0.33, 0.80), (0.20, 0.92), (0.001, 0.96))
    )
    inside = lathe(profile((0.60, 0.02), (0.52, 0.12), (0.40, 0.34), (0.33, 0.62), (0.001, 0.86)))
    handle = lathe(profile((0.07, 0.94), (0.10, 1.00), (0.08, 1.08), (0.13, 1.32), (0.15, 1.50), (0.10, 1.70), (0.001, 1.76)))
    ferrule = lathe(profile((0.11, 0.94), (0.12, 0.97), (0.10, 1.03), sharp=True))
    return [(join(shell, inside, ferrule), brass(0.06)), (handle, glossy((0.16, 0.05, 0.02), 0.08))]


PRODUCTS = (
    Product("HT-101", "Oil lantern", "clear", lantern),
    Product("HT-118", "Rope-netted float", "solid", net_float),
    Product("HT-131", "Glass carafe", "clear", carafe),
    Product("HT-204", "Rope-handled jug", "solid", jug),
    Product("HT-215", "Enamel mug", "pale", mug),
    Product("HT-226", "Tin of salve", "solid", salve),
    Product("HT-310", "Bottle brush", "strands", brush),
    Product("HT-402", "Spectacles on a cord", "clear", spectacles),
    Product("HT-507", "Knitted gull", "strands", gull),
    Product("HT-619", "Brass bell", "solid", bell),
)
