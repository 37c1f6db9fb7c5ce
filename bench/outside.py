"""The cut, all automatic, on composites of outside pictures with true alpha (composites.py), beside three general ways."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from bench.accuracy import best_threshold, difference, matting
from bench.composites import MATERIALS, VARIANTS, Composite, chosen, composite
from true_backdrop.core import pipeline
from true_backdrop.core.colour import ciede2000, linear_to_lab
from true_backdrop.core.cut.edge import CutOut
from true_backdrop.core.measures import matte_error
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

#: Pictures; each is photographed in every way.
COUNT = 16
#: With more than this part of the product lost or of backdrop left over a cut is not within accuracy.
WITHIN = 0.01


def grabcut(made: Composite, threshold: int) -> np.ndarray:
    """GrabCut (Rother, Kolmogorov and Blake 2004), begun from the difference: its inside is likely, the rest unlikely product."""
    mask = difference(made.frame, made.backdrop, threshold) > 0
    if not mask.any():
        return mask.astype(np.float32)
    small = cv2.resize(made.frame, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    half = cv2.resize(mask.astype(np.uint8), small.shape[1::-1], interpolation=cv2.INTER_NEAREST) > 0
    state = np.where(half, cv2.GC_PR_FGD, cv2.GC_PR_BGD).astype(np.uint8)
    state[cv2.erode(half.astype(np.uint8), np.ones((15, 15), np.uint8)) > 0] = cv2.GC_FGD
    state[cv2.dilate(half.astype(np.uint8), np.ones((31, 31), np.uint8)) == 0] = cv2.GC_BGD
    cv2.grabCut(small, state, None, np.zeros((1, 65)), np.zeros((1, 65)), 4, cv2.GC_INIT_WITH_MASK)
    found = np.isin(state, (cv2.GC_FGD, cv2.GC_PR_FGD)).astype(np.float32)
    return np.asarray(cv2.resize(found, made.frame.shape[1::-1], interpolation=cv2.INTER_LINEAR), np.float32)


#: From a composite and the threshold of its difference, the way of each column of the table.
OTHERS: tuple[Callable[[Composite, int], np.ndarray], ...] = (
    lambda made, threshold: difference(made.frame, made.backdrop, threshold),
    grabcut,
    lambda made, threshold: matting(made.frame, made.backdrop, threshold),
)


def mistakes(alpha: np.ndarray, truth: np.ndarray) -> tuple[float, float]:
    """Eaten product and leftover backdrop, as parts of the product's area."""
    product, backdrop = truth > 0.995, truth < 0.005
    area = max(1, int(product.sum()))
    return float((product & (alpha < 0.9)).sum() / area), float((backdrop & (alpha > 0.02)).sum() / area)


@dataclass(frozen=True)
class Judged:
    """How the cut and the other ways do on some composites. Arrays hold one value for each of them.

    errors   MSE of the cut
    others   mean MSE of each other way, at its best threshold over all
    mistakes (n, 2) eaten product and leftover backdrop, as parts of the product's area
    clean    whether the verdict was clean
    cuts     the cut-outs themselves
    """

    errors: np.ndarray
    others: list[float]
    mistakes: np.ndarray
    clean: np.ndarray
    cuts: list[CutOut]

    @property
    def missed(self) -> np.ndarray:
        return np.asarray(self.mistakes.max(axis=1) > WITHIN)

    @property
    def of_best_other(self) -> float:
        return float(self.errors.mean()) / min(self.others)

    def row(self, name: str) -> str:
        """A row of a table under `heading`."""
        clean, off = self.clean.sum(), (self.clean & self.missed).sum()
        error = f"{1e4 * self.errors.mean():.1f} ({1e4 * np.median(self.errors):.1f})"
        return f"| {name} | {error} | {self.columns()} | {clean} of {self.clean.size} | {off} | {self.flagged()} |"

    def columns(self) -> str:
        """The cells of the other ways and of the ratio."""
        return " | ".join(f"{1e4 * value:.0f}" for value in self.others) + f" | {self.of_best_other:.2f}"

    def flagged(self) -> str:
        return f"{(self.missed & ~self.clean).sum()} of {self.missed.sum()}"


def heading(name: str) -> list[str]:
    """The heading of a table of such rows."""
    ways = "True Backdrop, mean (median) | difference | GrabCut | closed form | of the best other (aim 0.20)"
    return [f"| {name} | {ways} | called clean | of these off by 1 % | off, and flagged |", "|" + "---|" * 9]


def judged(scenes: list[Composite]) -> Judged:
    """Cut all of them, with automatic settings only."""
    best = best_threshold((s.frame, s.backdrop, s.alpha) for s in scenes)
    others = [float(np.mean([np.mean((way(s, best) - s.alpha) ** 2) for s in scenes])) for way in OTHERS]
    made = [pipeline.cut_frame(Picture(s.frame, "PNG"), Picture(s.backdrop, "PNG"), CutSettings()) for s in scenes]
    errors = [float(np.mean((cut.alpha - s.alpha) ** 2)) for (_, cut), s in zip(made, scenes, strict=True)]
    off = [mistakes(cut.alpha, s.alpha) for (_, cut), s in zip(made, scenes, strict=True)]
    clean = [decision.judgement.verdict.value == "clean" for decision, _ in made]
    return Judged(np.array(errors), others, np.array(off), np.array(clean), [cut for _, cut in made])


def table() -> list[str]:
    lines = [
        "## Accuracy on outside pictures with true alpha",
        "",
        f"{COUNT} pictures of the npm package `@lobehub/fluent-emoji-3d`, laid over grained paper with shadow and noise "
        "(bench/composites.py). MSE x 10,000, mean and median; automatic settings only. The threshold is the best one for each way of photographing.",
        "",
        "| photographed | True Backdrop, mean (median) | difference | GrabCut | closed form | of the best other (aim 0.20) | eaten | left over | called clean | of these off by 1 % | off, and flagged |",
        "|" + "---|" * 11,
    ]
    cv2.setRNGSeed(1)
    rest: list[str] = []
    for number, variant in enumerate(VARIANTS):
        scenes = [composite(path, variant, 3 * i + number) for i, path in enumerate(chosen(COUNT))]
        found = judged(scenes)
        measured = [matte_error(cut.alpha, made.alpha) for cut, made in zip(found.cuts, scenes, strict=True)]
        colours = [_colour_errors(cut.alpha, cut.foreground, made, variant) for cut, made in zip(found.cuts, scenes, strict=True)]
        inner, edge = np.mean(colours, axis=0)
        eaten, left = 100 * found.mistakes.mean(axis=0)
        rest.append(
            f"| {variant} | {np.mean([e.sad for e in measured]):.2f} | {np.mean([e.gradient for e in measured]):.2f} "
            f"| {np.mean([e.connectivity for e in measured]):.2f} | {inner:.2f} | {edge:.2f} |"
        )
        lines.append(
            f"| {variant} | {1e4 * found.errors.mean():.1f} ({1e4 * np.median(found.errors):.1f}) | {found.columns()} "
            f"| {eaten:.2f} % | {left:.2f} % | {found.clean.sum()} of {found.clean.size} "
            f"| {(found.clean & found.missed).sum()} | {found.flagged()} |"
        )
    return [
        *lines,
        "",
        "| photographed | SAD / 1000 | gradient / 1000 | connectivity / 1000 | colour over white inside, CIEDE2000 | on the edge |",
        "|" + "---|" * 6,
        *rest,
    ]


#: Pictures for each material, with the paper's grain and without.
EACH = 6


def materials() -> list[str]:
    """The same product in four materials, before paper with and without grain; nobody says of which material it is."""
    lines = [
        "## By material",
        "",
        f"{EACH} of these pictures each, made paler, with hair, or of glass (bench/composites.py), photographed as it should be. "
        "MSE x 10,000, mean; nobody says which material it is.",
        "",
        "| material | paper | True Backdrop | difference | GrabCut | closed form | of the best other (aim 0.20) | called clean | off by 1 % and flagged |",
        "|" + "---|" * 9,
    ]
    for material in MATERIALS:
        for paper, grain in (("with grain", 0.006), ("without", 0.0)):
            scenes = [composite(path, "still", 500 + i, material, grain) for i, path in enumerate(chosen(EACH))]
            found = judged(scenes)
            lines.append(
                f"| {material} | {paper} | {1e4 * found.errors.mean():.1f} | {found.columns()} "
                f"| {found.clean.sum()} of {found.clean.size} | {found.flagged()} |"
            )
    return lines


def _colour_errors(alpha: np.ndarray, colour: np.ndarray, made: Composite, variant: str) -> tuple[float, float]:
    """Mean CIEDE2000 over white against the true picture over white: inside the product and on its edge."""
    true = made.colour * {"tent": 0.5, "touched": 1.03}.get(variant, 1.0)
    over = [a[..., None] * np.clip(c, 0, 1) + 1 - a[..., None] for a, c in ((alpha, colour), (made.alpha, true))]
    inside, edge = made.alpha > 0.995, (made.alpha > 0.02) & (made.alpha < 0.98)
    return tuple(  # type: ignore[return-value]
        float(np.mean(ciede2000(*(linear_to_lab(light[where].astype(np.float64)) for light in over)))) for where in (inside, edge)
    )
