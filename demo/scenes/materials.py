"""Surfaces of the demo products, as renderer descriptions."""

from __future__ import annotations

from typing import Any

Surface = dict[str, Any]
Colour = tuple[float, float, float]


def rgb(colour: Colour) -> Surface:
    return {"type": "rgb", "value": list(colour)}


def two_sided(inner: Surface) -> Surface:
    return {"type": "twosided", "bsdf": inner}


def matte(colour: Colour) -> Surface:
    return two_sided({"type": "diffuse", "reflectance": rgb(colour)})


def glossy(colour: Colour, roughness: float = 0.05) -> Surface:
    """Glaze, enamel or paint under a clear coat."""
    return two_sided({"type": "roughplastic", "diffuse_reflectance": rgb(colour), "alpha": roughness, "nonlinear": True})


def metal(name: str, roughness: float) -> Surface:
    """A conductor with measured refractive indices: Cu, Al, Ag, Au."""
    return two_sided({"type": "roughconductor", "material": name, "alpha": roughness, "distribution": "ggx"})


def brass(roughness: float = 0.12) -> Surface:
    return two_sided(
        {
            "type": "roughconductor",
            "alpha": roughness,
            "distribution": "ggx",
            "eta": rgb((0.444, 0.527, 1.094)),
            "k": rgb((3.695, 2.765, 1.829)),
        }
    )


def steel(roughness: float = 0.15) -> Surface:
    return two_sided(
        {
            "type": "roughconductor",
            "alpha": roughness,
            "distribution": "ggx",
            "eta": rgb((2.76, 2.54, 2.27)),
            "k": rgb((3.83, 3.43, 3.04)),
        }
    )


def glass(ior: float = 1.5) -> Surface:
    return {"type": "dielectric", "int_ior": ior, "ext_ior": 1.0}
