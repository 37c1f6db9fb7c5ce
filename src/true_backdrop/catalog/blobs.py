"""The blob store: immutable bytes under their SHA-256, in any place that fsspec reaches."""

from __future__ import annotations

import contextlib
import hashlib
import os
import uuid
from typing import Any

import fsspec
from fsspec.implementations.local import LocalFileSystem

from true_backdrop.catalog.errors import BlobMissing, StoreFull


def digest_of(data: bytes) -> str:
    """SHA-256 of the bytes, in hex."""
    return hashlib.sha256(data).hexdigest()


class BlobStore:
    """Bytes by digest. A blob is there whole or not at all."""

    def __init__(self, url: str) -> None:
        filesystem, root = fsspec.core.url_to_fs(url)
        self._fs: Any = filesystem
        self._root: str = root.rstrip("/")
        self._local = isinstance(filesystem, LocalFileSystem)

    def _path(self, digest: str) -> str:
        if len(digest) != 64 or not set(digest) <= set("0123456789abcdef"):
            raise BlobMissing(digest)
        return f"{self._root}/{digest[:2]}/{digest}"

    def put(self, data: bytes) -> str:
        """Store bytes and return their digest. Storing the same bytes again does nothing.

        Raises
        ------
        StoreFull
            When they cannot be written, a full disk for one.
        """
        digest = digest_of(data)
        path = self._path(digest)
        if self._fs.exists(path):
            return digest
        part = f"{path}.{uuid.uuid4().hex}.part"
        try:
            self._fs.makedirs(path.rsplit("/", 1)[0], exist_ok=True)
            with self._fs.open(part, "wb") as file:
                file.write(data)
                if self._local:
                    file.flush()
                    os.fsync(file.fileno())
            self._fs.mv(part, path)
        except OSError as fault:
            with contextlib.suppress(OSError):
                self._fs.rm(part)
            raise StoreFull(
                f"{len(data):,} bytes could not be stored ({fault.strerror or fault}); "
                "free some space and bring the file in again"
            ) from fault
        return digest

    def get(self, digest: str) -> bytes:
        """The bytes under a digest."""
        try:
            data: bytes = self._fs.cat_file(self._path(digest))
        except FileNotFoundError as fault:
            raise BlobMissing(digest) from fault
        return data
