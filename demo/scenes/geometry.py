"""Meshes as plain arrays: surfaces of revolution, tubes along a path, and bundles of strands."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]


@dataclass(frozen=True)
class Mesh:
    """Vertices (N, 3) in decimetres and triangles (M, 3) as vertex numbers."""

    vertices: Points
    faces: NDArray[np.int32]

    def moved(self, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> Mesh:
        return Mesh(self.vertices + np.array([x, y, z]), self.faces)

    def turned(self, degrees: float, axis: str = "y") -> Mesh:
        """Right-handed turn about one of the axes through the origin."""
        angle = np.deg2rad(degrees)
        i, j = {"x": (1, 2), "y": (2, 0), "z": (0, 1)}[axis]
        out = self.vertices.copy()
        out[:, i] = np.cos(angle) * self.vertices[:, i] - np.sin(angle) * self.vertices[:, j]
        out[:, j] = np.sin(angle) * self.vertices[:, i] + np.cos(angle) * self.vertices[:, j]
        return Mesh(out, self.faces)

    def stretched(self, x: float = 1.0, y: float = 1.0, z: float = 1.0) -> Mesh:
        return Mesh(self.vertices * np.array([x, y, z]), self.faces)

    def write(self, path: Path) -> None:
        """Write as binary PLY without normals; the renderer derives smooth ones."""
        header = (
            "ply\nformat binary_little_endian 1.0\n"
            f"element vertex {len(self.vertices)}\n"
            "property float x\nproperty float y\nproperty float z\n"
            f"element face {len(self.faces)}\nproperty list uchar int vertex_indices\nend_header\n"
        )
        rows = np.empty(len(self.faces), dtype=[("n", "u1"), ("v", "<i4", 3)])
        rows["n"], rows["v"] = 3, self.faces
        path.write_bytes(header.encode() + self.vertices.astype("<f4").tobytes() + rows.tobytes())


def join(*meshes: Mesh) -> Mesh:
    """Several meshes as one."""
    counts = np.cumsum([0, *(len(m.vertices) for m in meshes)])
    return Mesh(
        np.concatenate([m.vertices for m in meshes]),
        np.concatenate([m.faces + n for m, n in zip(meshes, counts, strict=False)]).astype(np.int32),
    )


def grid_faces(rows: int, columns: int, *, wrap_rows: bool, wrap_columns: bool) -> NDArray[np.int32]:
    """Two triangles for each cell of a (rows, columns) lattice of vertices."""
    r = np.arange(rows if wrap_rows else rows - 1)
    c = np.arange(columns if wrap_columns else columns - 1)
    r, c = (a.ravel() for a in np.meshgrid(r, c, indexing="ij"))
    r2, c2 = (r + 1) % rows, (c + 1) % columns
    a, b, d, e = r * columns + c, r * columns + c2, r2 * columns + c, r2 * columns + c2
    return np.concatenate([np.stack([a, d, b], 1), np.stack([b, d, e], 1)]).astype(np.int32)


def smooth_path(points: list[tuple[float, ...]], steps: int, *, closed: bool = False) -> Points:
    """A Catmull-Rom curve through the points, `steps` samples for each span."""
    p = np.asarray(points, dtype=float)
    p = np.concatenate([p[-1:], p, p[:2]]) if closed else np.concatenate([p[:1], p, p[-1:]])
    t = np.linspace(0, 1, steps, endpoint=False)[:, None]
    spans = []
    for i in range(len(p) - 3):
        a, b, c, d = p[i : i + 4]
        spans.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    out = np.concatenate(spans)
    return out if closed else np.concatenate([out, p[-2:-1]])


def lathe(profile: Points, segments: int = 128) -> Mesh:
    """Turn a profile of (radius, height) pairs about the upright axis; wind from bottom outside up."""
    angle = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    r, y = profile[:, 0:1], profile[:, 1:2]
    v = np.stack([r * np.cos(angle), np.broadcast_to(y, (len(r), segments)), r * np.sin(angle)], -1)
    return Mesh(v.reshape(-1, 3), grid_faces(len(r), segments, wrap_rows=False, wrap_columns=True))


def frames_along(path: Points, *, closed: bool) -> tuple[Points, Points]:
    """Two unit vectors across the path at each point, carried along without twist."""
    ahead = np.roll(path, -1, 0) - np.roll(path, 1, 0)
    if not closed:
        ahead[0], ahead[-1] = path[1] - path[0], path[-1] - path[-2]
    ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
    start = np.array([0.0, 1.0, 0.0]) if abs(ahead[0][1]) < 0.9 else np.array([1.0, 0.0, 0.0])
    across = np.empty_like(path)
    for i, tangent in enumerate(ahead):
        start = start - tangent * (start @ tangent)
        start /= np.linalg.norm(start)
        across[i] = start
    return across, np.cross(ahead, across)


def tube(path: Points, radius: float | Points, sides: int = 10, *, closed: bool = False) -> Mesh:
    """A round tube along a path (N, 3); `radius` is one length or one for each point."""
    u, v = frames_along(path, closed=closed)
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    radii = np.broadcast_to(np.asarray(radius, dtype=float), (len(path),))[:, None, None]
    ring = np.cos(angle)[None, :, None] * u[:, None] + np.sin(angle)[None, :, None] * v[:, None]
    points = path[:, None] + radii * ring
    return Mesh(points.reshape(-1, 3), grid_faces(len(path), sides, wrap_rows=closed, wrap_columns=True))


def rope(path: Points, radius: float, strands: int = 3, turns: float = 8.0, *, closed: bool = False) -> Mesh:
    """Laid rope: strands wound about the path."""
    u, v = frames_along(path, closed=closed)
    along = np.linspace(0, 2 * np.pi * turns, len(path), endpoint=not closed)
    parts = []
    for k in range(strands):
        angle = (along + 2 * np.pi * k / strands)[:, None]
        parts.append(tube(path + 0.55 * radius * (np.cos(angle) * u + np.sin(angle) * v), 0.52 * radius, 8, closed=closed))
    return join(*parts)


def strands(
    roots: Points,
    directions: Points,
    lengths: Points,
    radius: float,
    rng: np.random.Generator,
    *,
    bend: float = 0.2,
    droop: float = 0.0,
    joints: int = 5,
) -> Mesh:
    """Thin tapering three-sided tubes from the roots: bristles, fibres, fluff."""
    n = len(roots)
    d = directions / np.linalg.norm(directions, axis=1, keepdims=True)
    sideways = rng.normal(size=(n, 3))
    sideways -= d * (sideways * d).sum(1, keepdims=True)
    t = np.linspace(0, 1, joints)[None, :, None]
    reach = lengths[:, None, None]
    line = roots[:, None] + d[:, None] * t * reach + sideways[:, None] * bend * t**2 * reach
    line = line - np.array([0, 1.0, 0]) * droop * t**2 * reach
    across = np.cross(d, sideways)
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    other = np.cross(d, across)
    angle = np.arange(3) * 2 * np.pi / 3
    ring = np.cos(angle)[None, :, None] * across[:, None] + np.sin(angle)[None, :, None] * other[:, None]
    thick = radius * (1 - 0.75 * np.linspace(0, 1, joints))[None, :, None, None]
    v = line[:, :, None] + thick * ring[:, None]
    one = grid_faces(joints, 3, wrap_rows=False, wrap_columns=True)
    faces = (one[None] + (np.arange(n) * joints * 3)[:, None, None]).reshape(-1, 3)
    return Mesh(v.reshape(-1, 3), faces.astype(np.int32))


def ball(radius: float, segments: int = 96) -> Mesh:
    """A sphere about the origin."""
    t = np.linspace(-np.pi / 2, np.pi / 2, segments // 2)
    return lathe(np.stack([radius * np.cos(t) + 1e-5, radius * np.sin(t)], 1), segments)


def profile(*points: tuple[float, float], steps: int = 8, sharp: bool = False) -> Points:
    """(radius, height) pairs, smoothed unless `sharp`."""
    return np.asarray(points, dtype=float) if sharp else smooth_path(list(points), steps)
