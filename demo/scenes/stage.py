"""The set: table with a seamless sweep, camera, and lamps in two groups that are rendered apart.

Light adds, so any lamp setting is a weighted sum of the two layers. Lengths in decimetres, y upwards,
camera on +z.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from geometry import Mesh, grid_faces

WIDTH, HEIGHT = 1500, 1000
SWEEP_REFLECTANCE = (0.80, 0.80, 0.79)


def sweep() -> Mesh:
    """Floor, quarter-round and wall in one piece, extruded sideways."""
    bend = np.linspace(0, np.pi / 2, 40)
    floor = np.stack([np.zeros(30), np.linspace(14, -3.0, 30)], 1)
    curve = np.stack([2.5 - 2.5 * np.cos(bend), -3.0 - 2.5 * np.sin(bend)], 1)
    wall = np.stack([np.linspace(2.5, 14, 30), np.full(30, -5.5)], 1)
    yz = np.concatenate([floor, curve[1:], wall[1:]])
    x = np.linspace(-16, 16, 9)
    v = np.stack(
        [np.broadcast_to(x, (len(yz), 9)), np.broadcast_to(yz[:, :1], (len(yz), 9)), np.broadcast_to(yz[:, 1:], (len(yz), 9))], -1
    )
    return Mesh(v.reshape(-1, 3), grid_faces(len(yz), 9, wrap_rows=False, wrap_columns=False))


def lamp(
    origin: tuple[float, float, float],
    target: tuple[float, float, float],
    size: tuple[float, float],
    radiance: tuple[float, float, float],
) -> dict[str, Any]:
    """A one-sided soft box facing its target."""
    import mitsuba as mi

    place = mi.ScalarTransform4f().look_at(origin=list(origin), target=list(target), up=[0, 1, 0.01])
    return {
        "type": "rectangle",
        "to_world": place @ mi.ScalarTransform4f().scale([*size, 1]),
        "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": 0.0}},
        "emitter": {"type": "area", "radiance": {"type": "rgb", "value": list(radiance)}},
    }


def lamps(group: str) -> dict[str, Any]:
    """`front`: two soft boxes and a small top light; `backdrop`: two strips and a bank on the sweep."""
    if group == "front":
        return {
            "key": lamp((-7.5, 6.0, 8.0), (0, 0.8, 0), (2.4, 1.8), (3.1, 3.1, 3.05)),
            "fill": lamp((8.0, 4.5, 7.0), (0, 0.8, 0), (2.0, 2.0), (1.9, 1.9, 1.95)),
            "top": lamp((0.0, 10.0, 1.0), (0, 0, -0.2), (2.6, 1.6), (2.2, 2.2, 2.2)),
        }
    if group == "backdrop":
        return {
            "left": lamp((-8.0, 4.0, -1.5), (0.5, 2.0, -5.5), (0.7, 3.0), (7.0, 7.0, 7.1)),
            "right": lamp((8.0, 4.0, -1.5), (-0.5, 2.0, -5.5), (0.7, 3.0), (7.0, 7.0, 7.1)),
            "bank": lamp((0.0, 9.5, -2.8), (0, 0.0, -2.0), (5.0, 1.0), (2.6, 2.6, 2.6)),
        }
    raise ValueError(f"no lamp group {group!r}; there are 'front' and 'backdrop'")


#: Where the camera stands for each angle, and how far the product is turned (degrees). Only `above` has another empty set.
ANGLES = {
    "front": ((0.0, 2.6, 11.0), (0.0, 0.98, 0.0), 0.0),
    "turned": ((0.0, 2.6, 11.0), (0.0, 0.98, 0.0), 38.0),
    "above": ((0.0, 7.6, 8.3), (0.0, 0.72, 0.0), 0.0),
}


def camera(angle: str, width: int = WIDTH, height: int = HEIGHT) -> dict[str, Any]:
    import mitsuba as mi

    origin, target, _ = ANGLES[angle]

    return {
        "type": "perspective",
        "fov": 19.0,
        "fov_axis": "x",
        "to_world": mi.ScalarTransform4f().look_at(origin=list(origin), target=list(target), up=[0, 1, 0]),
        "film": {
            "type": "hdrfilm",
            "width": width,
            "height": height,
            "pixel_format": "rgb",
            "component_format": "float32",
            "rfilter": {"type": "gaussian", "stddev": 0.45},
        },
        "sampler": {"type": "independent", "sample_count": 16},
    }
