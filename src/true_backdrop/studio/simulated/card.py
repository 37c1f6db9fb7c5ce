"""The simulated camera's card: a folder, so that it outlives the process as a card would."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

from true_backdrop.studio.protocols import CameraSettings, LampSettings


@dataclass(frozen=True, slots=True)
class Stored:
    """A file on the card, when it was made (seconds since 1970) and with what."""

    data: bytes
    taken_at: float
    camera: CameraSettings
    lamps: LampSettings


class Card:
    """Files by name, in the order in which they were made."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self._folder = folder

    def names(self) -> list[str]:
        return [path.stem for path in sorted(self._folder.glob("*.json"))]

    def new_name(self) -> str:
        """The next running number, never one that was given before."""
        counter = self._folder / "number"
        number = int(counter.read_text()) + 1 if counter.exists() else 1
        counter.write_text(str(number))
        return f"TB_{number:05d}.jpg"

    def put(self, name: str, stored: Stored) -> None:
        (self._folder / name).write_bytes(stored.data)
        about = {"taken_at": stored.taken_at, "camera": stored.camera.model_dump(), "lamps": stored.lamps.model_dump()}
        part = self._folder / f"{name}.part"
        part.write_text(json.dumps(about))
        part.rename(self._folder / f"{name}.json")  # only now it is there

    def get(self, name: str) -> Stored | None:
        if name not in self.names():
            return None
        about = json.loads((self._folder / f"{name}.json").read_text())
        data = (self._folder / name).read_bytes()
        return Stored(data, about["taken_at"], CameraSettings(**about["camera"]), LampSettings(**about["lamps"]))

    def remove(self, name: str) -> None:
        if name in self.names():
            (self._folder / f"{name}.json").unlink()
            (self._folder / name).unlink()
