"""The desk that the page asks for its looks, with one frame and its backdrop frame stored."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.cut_source import CutSource, File
from true_backdrop.core import codec
from true_backdrop.core.treatment import CutSettings, Hands
from true_backdrop.web.preview import Asked, PreviewDesk


@dataclass(frozen=True, slots=True)
class OpenBench:
    """One shot on the bench, shown on loud colour."""

    desk: PreviewDesk
    source: CutSource

    def look(self, settings: CutSettings | None = None, hands: Hands | None = None) -> bytes:
        """The JPEG of the picture at some settings."""
        return self.desk.look(Asked(self.source, settings or CutSettings(), hands or Hands()), "loud", 950, 0.7)


@contextmanager
def opened(frame: bytes, backdrop: bytes) -> Iterator[OpenBench]:
    """The bench when its first picture has come."""
    with tempfile.TemporaryDirectory() as folder:
        blobs = BlobStore(f"file://{folder}")
        bench = OpenBench(PreviewDesk(blobs, 8), CutSource(_file(blobs, frame, "frame"), _file(blobs, backdrop, "empty")))
        bench.look()
        yield bench


def _file(blobs: BlobStore, data: bytes, name: str) -> File:
    picture = codec.decode(data, name)
    return File(blobs.put(data), name, picture.height, picture.width)
