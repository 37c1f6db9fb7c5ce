"""Doubt about what lies beside an outline: a faint hue there that neither the backdrop nor the product's light has."""

from __future__ import annotations

from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.faint_hue import of_another_hue
from true_backdrop.core.cut.places import named, places


def hue_beside(decided: Decided) -> Found:
    """Whether something beside an outline that nobody has touched has a hue of its own, so that it is no backdrop."""
    busy = decided.busy
    if busy.patterned or not decided.by_itself:
        return [], 0.0
    found = of_another_hue(busy.evidence, busy.of_proxy(decided.product))
    if not found.any():
        return [], 0.0
    at = places(busy.on_proxy(found), decided.product, "a faint hue beside the product")
    said = f"beside the product there is a faint hue that neither the backdrop nor its light has, {named(at)}; is a part lost?"
    return [(said, at)], 0.1
