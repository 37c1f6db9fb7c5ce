"""Make a few small cuts, so that every compiled loop is there before the first picture comes.

`python -m true_backdrop.core.warm` does it; the machine code is kept beside the source for the next process.
"""

from __future__ import annotations

import numpy as np

from true_backdrop.core import pipeline
from true_backdrop.core.cut.edge import View
from true_backdrop.core.picture import Picture
from true_backdrop.core.spec import SHIPPED
from true_backdrop.core.treatment import CutSettings, EdgeSettings, Hands, Touch, TouchSettings, Treatment
from true_backdrop.core.views import render_view


def warm(*, usual_only: bool = False) -> None:
    """Cut and finish an invented disc in every way that leads to another loop: both depths, firm and with strands.

    With `usual_only` just in the way of most takes, so that a new process has the loops loaded that the first one needs.
    """
    for deep in (False,) if usual_only else (False, True):
        frame, backdrop = _scene(deep=deep)
        prepared = pipeline.prepare(frame, backdrop)
        _ = prepared.busy.closing.enclosed
        for settings in (CutSettings(), CutSettings(match=40, material="strands"))[: 1 if usual_only else 2]:
            decision = pipeline.decide_cut(prepared, settings, pipeline.propose_match(prepared, settings))
            for outlet in ("kiosk-nine", "larkfield-home"):
                pipeline.finish(frame, prepared.backdrop_proxy, decision.outline, Treatment(), SHIPPED[outlet])
            view = View(frame.whole, (frame.height, frame.width), (frame.height, frame.width))
            render_view("loud", frame.linear(), backdrop.linear(), decision.outline, view)
            pipeline.levels_of(prepared, decision, settings.material)
    if usual_only:
        return
    # What a person may do by hand, glass, and a silhouette (a dark disc before the lit wall is one).
    strokes = tuple(Touch(kind="backdrop", points=((0.5, 0.5),), reach=reach) for reach in (0.0, 0.2))
    hands = Hands(touches=TouchSettings(strokes=strokes), edge=EdgeSettings(shift_px=0.3))
    dark = pipeline.backdrop_proxy(backdrop)
    prepared = pipeline.with_silhouette(prepared, frame, dark)
    glass = CutSettings(material="clear")
    decision = pipeline.decide_cut(prepared, glass, pipeline.propose_match(prepared, glass), hands)
    pipeline.finish(frame, prepared.backdrop_proxy, decision.outline, Treatment(), SHIPPED["kiosk-nine"], (frame, dark))


def _scene(*, deep: bool) -> tuple[Picture, Picture]:
    """A dark disc (H, W) = (1600, 2400), more than twice and less than twice the size that two outlets ask for."""
    y, x = np.mgrid[:1600, :2400]
    grain = np.random.default_rng(0).integers(-2, 3, (2, 1600, 2400, 1))
    covered = (np.hypot(y - 800, x - 1200) < 700)[..., None]
    dtype, scale = (np.uint16, 257) if deep else (np.uint8, 1)
    frame, backdrop = (
        ((light + noise) * scale).astype(dtype).repeat(3, axis=2)
        for light, noise in zip((np.where(covered, 60, 200), 200), grain, strict=True)
    )
    return Picture(frame, "PNG"), Picture(backdrop, "PNG")


if __name__ == "__main__":
    warm()
