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
from true_backdrop.catalog.cut_source import CutSource, File
from true_backdrop.core import codec, exchange, pipeline, views
from true_backdrop.core.arrays import EncodedRGB, LinearRGB, Mask
from true_backdrop.core.cut.edge import CutOut, View, as_seen, cut_view, enlarged, held, resample
from true_backdrop.core.cut.propose import Proposal
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import CutSettings, Hands, Material, Touch, Treatment

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
class Asked:
    """What a look is made from: the files, and the settings that change the cut."""

    source: CutSource
    cut: CutSettings
    hands: Hands

    @property
    def files(self) -> Hashable:
        """Equal where the comparison with the empty set is the same."""
        dark = self.source.dark if self.cut.silhouette else ""
        if self.source.hand_made is not None:
            dark += self.source.hand_made.sha256
        return self.source.frame.sha256, self.source.behind, dark, self.cut.framing


#: OpenCV works on a picture that somebody waits for with so many threads; in the workers each frame has one.
THREADS = 2


class PreviewDesk:
    """Prepared frames, decisions and decoded pictures, each in a small bounded memory."""

    def __init__(self, blobs: BlobStore, size: int) -> None:
        self._blobs = blobs
        self._pictures: Kept[Picture] = Kept(4)
        self._prepared: Kept[pipeline.Prepared] = Kept(size)
        self._proposals: Kept[Proposal] = Kept(256)
        self._decided: Kept[Mask] = Kept(4 * size)
        self._products: Kept[Mask] = Kept(8 * size)
        self._decisions: Kept[pipeline.Decision] = Kept(2 * size)
        self._shown: Kept[tuple[LinearRGB, LinearRGB]] = Kept(size)

    def picture(self, digest: str, name: str) -> Picture:
        return self._pictures.get(digest, lambda: codec.decode(self._blobs.get(digest), name))

    def _file(self, file: File) -> Picture:
        return self.picture(file.sha256, file.name)

    def prepared(self, asked: Asked) -> pipeline.Prepared:
        return self._prepared.get(asked.files, lambda: self._prepare(asked)).seen_for(asked.hands)

    def _prepare(self, asked: Asked) -> pipeline.Prepared:
        source = asked.source
        backdrop = silhouette = hand_made = None
        if source.backdrop is not None:
            picture = self._file(source.backdrop)
            backdrop = (picture.height, picture.width), pipeline.backdrop_proxy(picture)

        def closer() -> Picture:
            assert source.backdrop is not None
            return self._file(source.backdrop)

        if source.hand_made is not None:
            hand_made = exchange.returned(self._blobs.get(source.hand_made.sha256), source.hand_made.name).made
        elif source.silhouette is not None and asked.cut.silhouette:
            empty = pipeline.backdrop_proxy(self._file(source.backlit)) if source.backlit else None
            silhouette = source.silhouette.name, self._file(source.silhouette), empty
        beside = pipeline.Beside(backdrop, silhouette, hand_made, closer)
        return pipeline.prepare_with(self._file(source.frame), beside, asked.cut.framing)

    def proposal(self, asked: Asked) -> Proposal:
        key = (asked.files, asked.cut.material, self.prepared(asked).close is None)
        return self._proposals.get(key, lambda: pipeline.propose_match(self.prepared(asked), asked.cut))

    def decision(self, asked: Asked) -> pipeline.Decision:
        def make() -> pipeline.Decision:
            at_match, product = (self._product(asked, strokes) for strokes in ((), asked.hands.touches.strokes))
            prepared, proposal = self.prepared(asked), self.proposal(asked)
            return pipeline.decide_cut(prepared, asked.cut, proposal, asked.hands, at_match=at_match, product=product)

        return self._decisions.get((asked.files, asked.cut, asked.hands), make)

    def seems(self, asked: Asked) -> Material | None:
        """What the product seems to be made of, where nobody said it or made the matte by hand."""
        prepared = self.prepared(asked)
        if asked.cut.material != "auto" or prepared.hand_made is not None:
            return None
        return pipeline.seems(prepared, self.decision(asked))

    def _product(self, asked: Asked, strokes: tuple[Touch, ...]) -> Mask:
        """The product on the proxy after some touches. Each is kept, so that the next one starts from there."""
        prepared, proposal = self.prepared(asked), self.proposal(asked)
        match, material = asked.cut.match, asked.cut.material

        def make() -> Mask:
            if strokes:
                return pipeline.after_touches(prepared, self._product(asked, strokes[:-1]), strokes, len(strokes) - 1)
            return pipeline.product_at(prepared, proposal.match if match is None else match, material, proposal, kept)

        def kept(at: float, decide: Callable[[], Mask]) -> Mask:
            return self._decided.get((*seen, at), decide)

        seen = asked.files, material, prepared.close is None
        return self._products.get((*seen, match, strokes), make)

    def look(self, asked: Asked, name: views.ViewName, width: int, shadow: float) -> bytes:
        """The whole frame in one of the views, at most as large as the proxy."""
        prepared, decision = self.prepared(asked), self.decision(asked)
        height, proxy_width = prepared.aligned.frame.shape[:2]
        shown = min(width, proxy_width)
        size = (max(1, round(height * shown / proxy_width)), shown)
        frame, backdrop = self._shown.get((asked.files, size), lambda: _shown(prepared, size))
        view = View(Region(0, 0, *prepared.frame_size), size, prepared.frame_size)
        backlit = None
        if prepared.backlit is not None and prepared.backlit_proxy is not None:
            backlit = held(_at(prepared.backlit.frame, size)), as_seen(held(_at(prepared.backlit_proxy, size)))
        picture = views.render_view(name, frame, backdrop, decision.outline, view, shadow=shadow, backlit=backlit)
        return codec.encode_preview(picture)

    def look_close(self, asked: Asked, name: views.ViewName, region: Region, shadow: float) -> bytes:
        """A part of the frame at its own size: only what is visible is computed."""
        frame, prepared = self._file(asked.source.frame), self.prepared(asked)
        decision = self.decision(asked)
        inside = Region(
            max(0, min(region.top, frame.height - 1)),
            max(0, min(region.left, frame.width - 1)),
            min(frame.height, max(region.bottom, region.top + 1)),
            min(frame.width, max(region.right, region.left + 1)),
        )
        view = View(inside, (inside.height, inside.width), (frame.height, frame.width))
        if prepared.aligned.corrected or asked.source.backdrop is None:
            behind = resample(prepared.backdrop_proxy, view)
        else:
            behind = self._file(asked.source.backdrop).linear(inside)
        backlit = None
        if prepared.backlit_proxy is not None and asked.source.silhouette is not None:
            dark = self._file(asked.source.silhouette).linear(inside)
            backlit = held(dark), enlarged(prepared.backlit_proxy, view)
        shown = views.render_view(name, frame.linear(inside), behind, decision.outline, view, shadow=shadow, backlit=backlit)
        return codec.encode_preview(shown, 93)

    def whole(self, asked: Asked) -> tuple[pipeline.Prepared, pipeline.Decision, CutOut, LinearRGB]:
        """The cut-out of the whole frame at its own size, and the backdrop (H, W, 3) as it was shot."""
        prepared, decision, frame = self.prepared(asked), self.decision(asked), self._file(asked.source.frame)
        view = View(frame.whole, (frame.height, frame.width), (frame.height, frame.width))
        if prepared.aligned.corrected or asked.source.backdrop is None:
            behind = resample(prepared.backdrop_proxy, view)
        else:
            behind = self._file(asked.source.backdrop).linear()
        backlit = None
        if prepared.backlit_proxy is not None and asked.source.silhouette is not None:
            backlit = self._file(asked.source.silhouette).linear, enlarged(prepared.backlit_proxy, view)
        return prepared, decision, cut_view(frame.linear, as_seen(held(behind)), decision.outline, view, backlit), behind

    def square(self, asked: Asked, treatment: Treatment, spec: Spec) -> EncodedRGB | None:
        """The finished square as an outlet would get it, before it is encoded."""
        frame, prepared = self._file(asked.source.frame), self.prepared(asked)
        silhouette = None
        if prepared.backlit_proxy is not None and asked.source.silhouette is not None:
            silhouette = self._file(asked.source.silhouette), prepared.backlit_proxy
        outline = self.decision(asked).outline
        return pipeline.finish(frame, prepared.backdrop_proxy, outline, treatment, spec, silhouette)


def _shown(prepared: pipeline.Prepared, size: tuple[int, int]) -> tuple[LinearRGB, LinearRGB]:
    """Frame and backdrop, (h, w, 3) each, in the size of a look."""
    return _at(prepared.aligned.frame, size), _at(prepared.backdrop_proxy, size)


def _at(light: LinearRGB, size: tuple[int, int]) -> LinearRGB:
    if light.shape[:2] == size:
        return light
    return np.asarray(cv2.resize(light, size[::-1], interpolation=cv2.INTER_AREA), dtype=np.float32)
