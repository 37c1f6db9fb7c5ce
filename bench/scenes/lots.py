"""Products drawn by lot for measuring the cut: vessels, boxes, rings, bottles, brushes, figures and glass, in many surfaces.

Nobody arranged them so that a cut succeeds or fails; the number of a product decides everything about it. Lengths in
decimetres, y upwards. The same parts of geometry and the same surfaces as the demo's (demo/scenes), which must be importable.
"""

from __future__ import annotations

import numpy as np
from geometry import Mesh, ball, join, lathe, profile, rope, smooth_path, strands, tube
from materials import Surface, brass, glass, glossy, matte, metal, steel

Parts = list[tuple[Mesh, Surface]]
Rng = np.random.Generator

#: What a product can be, in turn.
KINDS = ("vessel", "box", "pale vessel", "ring", "figure", "glass", "pale box", "bottle", "brush", "pale ring", "stack", "frame")


def built(number: int) -> tuple[str, Parts]:
    """The kind of product, and its parts, standing about the origin on y = 0."""
    rng = np.random.default_rng(7000 + number)
    kind = KINDS[number % len(KINDS)]
    pale = kind.startswith("pale") or kind == "figure"
    make = {
        "vessel": _vessel,
        "box": _box,
        "ring": _ring,
        "figure": _figure,
        "glass": _glassware,
        "bottle": _bottle,
        "brush": _brush,
        "stack": _stack,
        "frame": _frame,
    }
    parts = make[kind.removeprefix("pale ")](rng, pale)
    turn = float(rng.uniform(-35, 35))
    return kind, [(mesh.turned(turn), surface) for mesh, surface in parts]


def _surface(rng: Rng, pale: bool) -> Surface:
    if pale:
        light = rng.uniform(0.68, 0.86)
        colour = tuple(np.clip(light + rng.normal(0, 0.012, 3), 0, 0.9))
        return glossy(colour, rng.uniform(0.03, 0.2)) if rng.random() < 0.5 else matte(colour)
    lot = rng.integers(6)
    colour = tuple(np.clip(rng.dirichlet((1, 1, 1)) * rng.uniform(0.1, 1.4), 0.02, 0.85))
    if lot == 0:
        return brass(rng.uniform(0.06, 0.25))
    if lot == 1:
        return steel(rng.uniform(0.06, 0.3))
    if lot == 2:
        return metal(str(rng.choice(["Cu", "Al", "Au"])), rng.uniform(0.08, 0.25))
    if lot == 3:
        return glossy((0.03, 0.03, 0.035), rng.uniform(0.04, 0.2))
    return glossy(colour, rng.uniform(0.03, 0.2)) if lot == 4 else matte(colour)


def _outline(rng: Rng, height: float, widest: float) -> list[tuple[float, float]]:
    radii = widest * np.clip(np.cumsum(rng.normal(0, 0.22, 5)) + rng.uniform(0.6, 0.95), 0.3, 1)
    return [(float(r), float(y)) for r, y in zip(radii, height * np.linspace(0.05, 1, 5), strict=True)]


def _vessel(rng: Rng, pale: bool) -> Parts:
    height, widest = rng.uniform(0.7, 1.7), rng.uniform(0.35, 0.75)
    wall = _outline(rng, height, widest)
    inner = [(max(0.02, r - 0.035), y) for r, y in wall[::-1]]
    body = lathe(profile((0.001, 0.0), (wall[0][0] * 0.95, 0.0), *wall, *inner, (0.001, 0.06)))
    parts: Parts = [(body, _surface(rng, pale))]
    if rng.random() < 0.7:
        side, (r1, y1), (r2, y2) = rng.choice([-1, 1]), wall[1], wall[3]
        out = max(r1, r2) + rng.uniform(0.15, 0.35)
        grip = smooth_path(
            [(side * (r1 - 0.01), y1, 0), (side * out, y1 + 0.1, 0), (side * out, y2, 0), (side * (r2 - 0.01), y2, 0)], 20
        )
        parts.append((tube(grip, rng.uniform(0.03, 0.06), 14), parts[0][1] if rng.random() < 0.6 else _surface(rng, pale)))
    if rng.random() < 0.4:
        r, y = wall[-1]
        lid = lathe(profile((r + 0.01, y), (r * 0.8, y + 0.08), (0.05, y + 0.14), (0.09, y + 0.2), (0.001, y + 0.26)))
        parts.append((lid, _surface(rng, pale)))
    return parts


def _cuboid(width: float, height: float, depth: float) -> Mesh:
    """With vertices of its own for each face, so that edges stay sharp."""
    corner = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], float)
    vertices, faces = [], []
    for axis in range(3):
        for side in (-1, 1):
            start = 4 * len(vertices)
            vertices.append(np.insert(corner, axis, side, axis=1))
            order = [[0, 1, 2], [0, 2, 3]]
            faces += [[start + i for i in face] for face in order]
    whole = np.concatenate(vertices) * np.array([width, height, depth]) / 2
    return Mesh(whole + np.array([0, height / 2, 0]), np.asarray(faces, np.int32))


def _box(rng: Rng, pale: bool) -> Parts:
    width, height, depth = rng.uniform(0.5, 1.5), rng.uniform(0.3, 1.5), rng.uniform(0.3, 0.9)
    parts: Parts = [(_cuboid(width, height, depth), _surface(rng, pale))]
    if rng.random() < 0.7:
        label = _cuboid(width * rng.uniform(0.4, 0.8), height * rng.uniform(0.3, 0.6), 0.004)
        parts.append((label.moved(0, height * rng.uniform(0.1, 0.3), depth / 2 + 0.003), _surface(rng, rng.random() < 0.5)))
    if rng.random() < 0.5:
        band = _cuboid(width * 1.004, height * 0.06, depth * 1.004)
        parts.append((band.moved(y=height * rng.uniform(0.5, 0.85)), _surface(rng, False)))
    return parts


def _ring(rng: Rng, pale: bool) -> Parts:
    radius, thick = rng.uniform(0.4, 0.8), rng.uniform(0.05, 0.16)
    angle = np.linspace(0, 2 * np.pi, 96, endpoint=False)
    path = np.stack([radius * np.cos(angle), radius * np.sin(angle) * rng.uniform(0.7, 1.1), 0.1 * np.sin(3 * angle)], 1)
    path[:, 1] -= path[:, 1].min() - thick
    wound = rng.random() < 0.35
    mesh = rope(path, thick, turns=24, closed=True) if wound else tube(path, thick, 20, closed=True)
    stand = _cuboid(0.5, 0.12, 0.4) if rng.random() < 0.6 else _cuboid(0.2, 0.05, 0.2)
    return [(mesh, _surface(rng, pale)), (stand, _surface(rng, pale))]


def _figure(rng: Rng, pale: bool) -> Parts:
    body = ball(1.0).stretched(rng.uniform(0.35, 0.6), rng.uniform(0.4, 0.6), 0.4)
    body = body.moved(y=-float(body.vertices[:, 1].min()))
    top = float(body.vertices[:, 1].max())
    head = ball(rng.uniform(0.2, 0.3)).moved(rng.uniform(-0.15, 0.15), top + 0.12, 0)
    limbs = [
        tube(
            smooth_path([(s * 0.25, top * 0.6, 0.1), (s * rng.uniform(0.5, 0.8), top * rng.uniform(0.3, 1.2), 0.15)], 12),
            0.07,
            14,
        )
        for s in (-1, 1)
    ]
    eyes = [ball(0.03, 24).moved(x, top + 0.16, 0.27) for x in (-0.08, 0.08)]
    skin = _surface(rng, pale)
    return [(join(body, head, *limbs), skin), (join(*eyes), glossy((0.02, 0.02, 0.02), 0.05))]


def _glassware(rng: Rng, _: bool) -> Parts:
    height, widest = rng.uniform(0.8, 1.6), rng.uniform(0.35, 0.6)
    wall = profile((widest * 0.8, 0.02), *_outline(rng, height, widest))
    inner = wall[::-1] - np.array([0.03, 0.0])
    inner = inner[inner[:, 1] > 0.08]
    shell = np.concatenate([[[0.001, 0.0]], wall, inner, [[0.001, 0.08]]])
    parts: Parts = [(lathe(shell, 160), glass(1.5))]
    if rng.random() < 0.5:
        r, y = wall[-1]
        parts.append(
            (lathe(profile((r * 0.9, y - 0.1), (r + 0.03, y), (r + 0.02, y + 0.08), (0.001, y + 0.1))), _surface(rng, False))
        )
    return parts


def _bottle(rng: Rng, pale: bool) -> Parts:
    height, radius, neck = rng.uniform(0.9, 1.6), rng.uniform(0.25, 0.4), rng.uniform(0.08, 0.14)
    body = lathe(
        profile(
            (0.001, 0), (radius, 0), (radius, 0.04), (radius, height * 0.65), (neck, height * 0.85), (neck, height), sharp=True
        )
    )
    cap = lathe(profile((neck * 1.2, height * 0.95), (neck * 1.2, height * 1.1), (0.001, height * 1.1), sharp=True))
    label = lathe(profile((radius * 1.004, height * 0.2), (radius * 1.004, height * 0.5), sharp=True))
    pale = rng.random() < 0.5
    return [(body, _surface(rng, pale)), (cap, _surface(rng, False)), (label, _surface(rng, rng.random() < 0.5))]


def _brush(rng: Rng, _: bool) -> Parts:
    count, y = 2600, rng.uniform(0.6, 0.9)
    grip = lathe(profile((0.001, 0), (0.22, 0), (0.2, 0.08), (0.08, 0.15), (0.07, y), (0.001, y)))
    angle, tall = rng.uniform(0, 2 * np.pi, count), rng.uniform(0, 1, count)
    spread = rng.uniform(0.4, 1.2)
    roots = np.stack([0.05 * np.cos(angle), y + 0.4 * tall, 0.05 * np.sin(angle)], 1)
    out = np.stack([spread * np.cos(angle), rng.normal(0.8, 0.25, count), spread * np.sin(angle)], 1)
    hair = strands(roots, out, rng.uniform(0.3, 0.55, count), 0.006, rng, bend=0.25)
    light = rng.choice([0.08, 0.3, 0.7])
    return [(grip, _surface(rng, False)), (hair, matte((light, light * 0.9, light * 0.75)))]


def _stack(rng: Rng, _: bool) -> Parts:
    parts: Parts = []
    level = 0.0
    for _each in range(int(rng.integers(3, 6))):
        tall = rng.uniform(0.08, 0.22)
        slab = _cuboid(rng.uniform(0.8, 1.3), tall, rng.uniform(0.6, 0.9)).turned(rng.uniform(-12, 12))
        parts.append((slab.moved(rng.uniform(-0.06, 0.06), level, 0), _surface(rng, rng.random() < 0.4)))
        level += tall + 0.001
    return parts


def _frame(rng: Rng, _: bool) -> Parts:
    """Thin wire in the shape of a stand, with a bead: mostly air."""
    thick = rng.uniform(0.015, 0.035)
    wires = []
    for turn in (0, 90, 180, 270):
        leg = smooth_path([(0.5, thick, 0), (0.42, 0.5, 0), (0.2, 1.1, 0), (0.0, 1.35, 0)], 20)
        wires.append(tube(leg, thick, 10).turned(turn + 20))
    angle = np.linspace(0, 2 * np.pi, 64, endpoint=False)
    hoop = tube(np.stack([0.42 * np.cos(angle), np.full(64, 0.5), 0.42 * np.sin(angle)], 1), thick, 10, closed=True)
    bead = ball(rng.uniform(0.08, 0.16)).moved(y=1.4)
    return [(join(*wires, hoop), _surface(rng, rng.random() < 0.3)), (bead, _surface(rng, False))]
