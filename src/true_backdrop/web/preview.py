"""Looks at a cut while a control moves: what does not depend on the control is kept ready."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Generic, TypeVar

import cv2
import numpy as np

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.core import codec, pipeline, views
from true_backdrop.core.arrays import EncodedRGB, LinearRGB
from true_backdrop.core.cut.edge import View, resample
from true_backdrop.core.cut.propose import Proposal
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import CutSettings, FramingBox, Material, Treatment

T = TypeVar("T")


class Kept(Generic[T]):
    """The few most recently used values; one that several threads ask for is made once."""

    def __init__(self, size: int) -> None:
        self._size = size
        self._values: OrderedDict[Hashable, T] = OrderedDict()
        self._locks: dict[Hashable, threading.Lock] = {}
        self._guard = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        with self._guard:
            if key in self._values:
                self._values.move_to_end(key)
                return self._values[key]
            lock = self._locks.setdefault(key, threading.Lock())
        with lock:
            with self._guard:
                if key in self._values:
                    return self._values[key]
            value = make()
            with self._guard:
                self._values[key] = value
                self._locks.pop(key, None)
                while len(self._values) > self._size:
                    self._values.popitem(last=False)
            return value


@dataclass(frozen=True, slots=True)
class Source:
    """The files that a look is made from, and the part of them that counts."""

    frame_sha: str
    frame_name: str
    backdrop_sha: str
    backdrop_name: str
    framing: FramingBox | None = None


class PreviewDesk:
    """Prepared frames, decisions and decoded pictures, each in a small bounded memory."""

    def __init__(self, blobs: BlobStore, size: int) -> None:
        self._blobs = blobs
        self._pictures: Kept[Picture] = Kept(3)
        self._prepared: Kept[pipeline.Prepared] = Kept(size)
        self._proposals: Kept[Proposal] = Kept(256)
        self._decisions: Kept[pipeline.Decision] = Kept(2 * size)

    def picture(self, digest: str, name: str) -> Picture:
        return self._pictures.get(digest, lambda: codec.decode(self._blobs.get(digest), name))

    def prepared(self, source: Source) -> pipeline.Prepared:
        def make() -> pipeline.Prepared:
            frame = self.picture(source.frame_sha, source.frame_name)
            return pipeline.prepare(frame, self.picture(source.backdrop_sha, source.backdrop_name), box=source.framing)

        return self._prepared.get((source.frame_sha, source.backdrop_sha, source.framing), make)

    def proposal(self, source: Source, material: Material) -> Proposal:
        key = (source.frame_sha, source.backdrop_sha, source.framing, material)
        return self._proposals.get(
            key, lambda: pipeline.propose_match(self.prepared(source), CutSettings(material=material), survey=True)
        )

    def decision(self, source: Source, settings: CutSettings) -> pipeline.Decision:
        key = (source.frame_sha, source.backdrop_sha, settings)
        return self._decisions.get(
            key, lambda: pipeline.decide_cut(self.prepared(source), settings, self.proposal(source, settings.material))
        )

    def look(self, source: Source, settings: CutSettings, name: views.ViewName, width: int, shadow: float) -> bytes:
        """The whole frame in one of the views, at most as large as the proxy."""
        prepared, decision = self.prepared(source), self.decision(source, settings)
        height, proxy_width = prepared.aligned.frame.shape[:2]
        shown = min(width, proxy_width)
        size = (max(1, round(height * shown / proxy_width)), shown)
        frame, backdrop = _at(prepared.aligned.frame, size), _at(prepared.backdrop_proxy, size)
        view = View(Region(0, 0, *prepared.frame_size), size, prepared.frame_size)
        return codec.encode_preview(views.render_view(name, frame, backdrop, decision.outline, view, shadow=shadow))

    def look_close(self, source: Source, settings: CutSettings, name: views.ViewName, region: Region, shadow: float) -> bytes:
        """A part of the frame at its own size: only what is visible is computed."""
        frame, prepared = self.picture(source.frame_sha, source.frame_name), self.prepared(source)
        decision = self.decision(source, settings)
        inside = Region(
            max(0, min(region.top, frame.height - 1)),
            max(0, min(region.left, frame.width - 1)),
            min(frame.height, max(region.bottom, region.top + 1)),
            min(frame.width, max(region.right, region.left + 1)),
        )
        view = View(inside, (inside.height, inside.width), (frame.height, frame.width))
        if prepared.aligned.corrected:
            behind = resample(prepared.backdrop_proxy, view)
        else:
            behind = self.picture(source.backdrop_sha, source.backdrop_name).linear(inside)
        shown = views.render_view(name, frame.linear(inside), behind, decision.outline, view, shadow=shadow)
        return codec.encode_preview(shown, 93)

    def square(self, source: Source, treatment: Treatment, spec: Spec) -> EncodedRGB | None:
        """The finished square as an outlet would get it, before it is encoded."""
        frame = self.picture(source.frame_sha, source.frame_name)
        outline = self.decision(source, treatment.cut).outline
        return pipeline.finish(frame, self.prepared(source).backdrop_proxy, outline, treatment, spec)


def _at(light: LinearRGB, size: tuple[int, int]) -> LinearRGB:
    if light.shape[:2] == size:
        return light
    return np.asarray(cv2.resize(light, size[::-1], interpolation=cv2.INTER_AREA), dtype=np.float32)
