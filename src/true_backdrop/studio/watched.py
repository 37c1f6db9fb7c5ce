"""A folder that something else fills: a tethering program, a card reader, a colleague.

Files come up once each, in the order in which they were written, and only when they are whole. What has been taken is
kept in a ledger, so that a restart neither loses nor doubles anything. The folder itself is only read.
"""

from __future__ import annotations

import os
import re
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Protocol

from true_backdrop.studio.errors import StudioError
from true_backdrop.studio.protocols import Taken

SUFFIXES = frozenset({".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp"})
#: A file that has not changed for so long (seconds) and ends as its format ends is whole.
SETTLED_S = 0.4
#: One that does not end as it should is held to be still under way for so long; then it is handed on as it is.
GIVEN_UP_S = 10.0


@dataclass(frozen=True, slots=True)
class Stamp:
    """One state of one file. A file that is written again is another one."""

    name: str
    size: int
    mtime_ns: int


class Ledger(Protocol):
    """What has been taken from a folder. It must outlive the program."""

    def has(self, stamp: Stamp) -> bool: ...

    def add(self, stamp: Stamp) -> None: ...


@dataclass(slots=True)
class _Watched:
    stamp: Stamp
    since: float


class WatchedFolder:
    """`Takes` (see protocols.py) of a folder; hidden files and other kinds of file are passed over.

    Raises `StudioError` when the folder cannot be read.
    """

    def __init__(self, folder: Path, ledger: Ledger, *, clock: Callable[[], float] = time.monotonic) -> None:
        self._folder, self._ledger, self._clock = folder, ledger, clock
        self._seen: dict[str, _Watched] = {}

    def waiting(self) -> list[str]:
        now, there = self._clock(), self._listed()
        for name in self._seen.keys() - {stamp.name for stamp in there}:
            del self._seen[name]
        for stamp in there:
            if stamp.name not in self._seen or self._seen[stamp.name].stamp != stamp:
                self._seen[stamp.name] = _Watched(stamp, now)
        whole = []
        for stamp in sorted(there, key=_order):
            age = now - self._seen[stamp.name].since
            if not (age >= GIVEN_UP_S or (age >= SETTLED_S and self._ends_well(stamp))):
                break  # those behind it wait as well: takes come in order
            whole.append(stamp.name)
        return whole

    def fetch(self, file_name: str) -> Taken:
        known = self._seen.get(file_name)
        if known is None:
            raise StudioError(f"{file_name} is not in the watched folder")
        data = self._read(file_name)
        if len(data) != known.stamp.size:
            raise StudioError(f"{file_name} is still being written; it comes in when it is whole")
        return Taken(file_name, data, datetime.fromtimestamp(known.stamp.mtime_ns / 1e9, UTC))

    def forget(self, file_name: str) -> None:
        known = self._seen.pop(file_name, None)
        if known is not None:
            self._ledger.add(known.stamp)

    def stamp_of(self, file_name: str) -> Stamp | None:
        """The state of a file that waits."""
        known = self._seen.get(file_name)
        return known.stamp if known else None

    def _listed(self) -> list[Stamp]:
        stamps = []
        try:
            with os.scandir(self._folder) as entries:
                for entry in entries:
                    if entry.name.startswith(".") or Path(entry.name).suffix.lower() not in SUFFIXES or not entry.is_file():
                        continue
                    about = entry.stat()
                    stamp = Stamp(entry.name, about.st_size, about.st_mtime_ns)
                    if not self._ledger.has(stamp):
                        stamps.append(stamp)
        except FileNotFoundError as fault:
            raise StudioError(f"the watched folder {self._folder} is not there; is its drive connected?") from fault
        except OSError as fault:
            raise StudioError(f"the watched folder {self._folder} cannot be read: {fault.strerror}") from fault
        return stamps

    def _read(self, name: str) -> bytes:
        try:
            return (self._folder / name).read_bytes()
        except OSError as fault:
            raise StudioError(f"{name} in the watched folder cannot be read: {fault.strerror}") from fault

    def _ends_well(self, stamp: Stamp) -> bool:
        """Whether the last bytes are those that the format ends with; a format without such an end does."""
        try:
            with (self._folder / stamp.name).open("rb") as file:
                head = file.read(12)
                file.seek(max(0, stamp.size - 64))
                tail = file.read()
        except OSError:
            return False
        if head.startswith(b"\xff\xd8"):
            return b"\xff\xd9" in tail  # ITU-T T.81, end of image; some cameras add padding
        if head.startswith(b"\x89PNG"):
            return b"IEND" in tail
        if head.startswith(b"RIFF"):
            return int.from_bytes(head[4:8], "little") + 8 <= stamp.size
        return stamp.size > 0


_DIGITS = re.compile(r"(\d+)")


def _order(stamp: Stamp) -> tuple[int, list[tuple[int, str]]]:
    """By time of writing, then by name with its numbers as numbers: IMG_9 before IMG_10."""
    parts = [(int(part), "") if part.isdigit() else (-1, part) for part in _DIGITS.split(stamp.name)]
    return stamp.mtime_ns, parts
