"""Delivery to a folder: each file whole or not at all, sent again without doubling."""

from __future__ import annotations

import contextlib
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from true_backdrop.outlets.errors import DeliveryFailed


@dataclass(frozen=True, slots=True)
class OutgoingFile:
    """A file under the name that the outlet gets. Names are safe file names without any folder."""

    name: str
    data: bytes


def deliver(folder: Path, files: Iterable[OutgoingFile]) -> int:
    """Lay files in a folder; one that is there with the same bytes is left alone. Returns how many were written."""
    written = 0
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise DeliveryFailed(f"the folder {folder} cannot be made ({fault.strerror or fault}); choose another one") from fault
    for file in files:
        if "/" in file.name or "\\" in file.name or file.name.startswith("."):
            raise DeliveryFailed(f"{file.name!r} is not a plain file name")
        target = folder / file.name
        if target.is_file() and target.read_bytes() == file.data:
            continue
        part = folder / f".{file.name}.part"  # a watcher must never see half a file
        try:
            part.write_bytes(file.data)
            part.replace(target)
        except OSError as fault:
            with contextlib.suppress(OSError):
                part.unlink(missing_ok=True)
            raise DeliveryFailed(
                f"{file.name} could not be written to {folder} ({fault.strerror or fault}); free some space and send again"
            ) from fault
        written += 1
    return written
