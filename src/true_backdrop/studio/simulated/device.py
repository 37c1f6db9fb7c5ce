"""The simulated studio's own state: camera, lamps, table, card, and the faults it can be told to have."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from true_backdrop.core.codec import encode_preview
from true_backdrop.studio.errors import CardFull, DeviceBusy, DeviceGone, StudioError
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.studio.simulated.card import Card, Stored
from true_backdrop.studio.simulated.scene import FOCAL_MM, Focus, Scenery, Table
from true_backdrop.studio.simulated.sensor import exposed, file_of

LIVE_SIZE = (640, 960)
#: Where automatic focus ends up on an empty table, and how far it strays each time.
_LOST_FOCUS_MM, _HUNTING_MM = 1350.0, 90.0
#: How long the turntable takes from one position to the next.
_TURNING_S = 0.25


@dataclass
class Faults:
    """What goes wrong on request. Counts run down with each event they spoil."""

    lamp_warmth: float = 0.0
    front_lamp_lost: float = 0.0
    card_files: int | None = None
    unplugged_until: float = 0.0
    slow_s: float = 0.0


@dataclass
class _State:
    camera: CameraSettings = field(default_factory=CameraSettings)
    lamps: LampSettings = field(default_factory=LampSettings)
    table: Table = field(default_factory=Table)
    faults: Faults = field(default_factory=Faults)


class SimulatedStudio:
    """One camera, two groups of lamps, one table. Safe to use from several threads.

    With a `seed` the same takes in the same order have the same noise, however many live pictures were looked at meanwhile.
    """

    def __init__(self, layers: Path, size: tuple[int, int], card: Path, *, card_room: int = 500, seed: int | None = None) -> None:
        self._live, self._whole = Scenery(layers, LIVE_SIZE), Scenery(layers, size)
        self._now, self._lock = _State(), threading.RLock()
        self._of_takes, self._of_live = np.random.default_rng(seed), np.random.default_rng(seed)
        self._card, self._room = Card(card), card_room
        self._one_at_a_time, self._ahead = threading.Lock(), ThreadPoolExecutor(1, thread_name_prefix="light-ahead")

    def ask(self, order: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
        """Answer one order of the wire; raises StudioError."""
        self.check_line()
        do = str(order.get("do"))
        answers = {
            "status": self._status,
            "set_camera": self._set_camera,
            "set_lamps": self._set_lamps,
            "focus_at": self._focus_at,
            "turn_to": self._turn_to,
            "release": self._release,
            "waiting": self._waiting,
            "forget": self._forget,
            "hands": self._hands,
        }
        if do == "download":
            return self._download(str(order.get("file_name")))
        if do not in answers:
            raise StudioError(f"the simulated studio does not know the order {do!r}")
        return answers[do](order), b""

    def warm(self) -> None:
        """Make one picture, so that the first one asked for does not wait for layers and machine code."""
        self.live_frame()
        self._look_ahead()

    def check_line(self) -> None:
        """Raise DeviceGone while the cable is pulled."""
        if time.time() < self._now.faults.unplugged_until:
            raise DeviceGone("the camera's cable was pulled")

    def live_frame(self) -> bytes:
        """What the live view shows now, as JPEG."""
        with self._lock:
            now = _State(self._now.camera, self._effective_lamps(), self._now.table, self._now.faults)
        return encode_preview(self._picture(self._live, now), quality=85)

    def _picture(self, scenery: Scenery, now: _State) -> np.ndarray:
        return exposed(self._light(scenery, now), now.camera, self._of_live if scenery is self._live else self._of_takes)

    def _light(self, scenery: Scenery, now: _State) -> np.ndarray:
        focus = Focus(now.camera.f_number, now.camera.focus_mm)
        if scenery is self._live:
            return scenery.gathered(now.table, focus, now.lamps, now.faults.lamp_warmth)
        with self._one_at_a_time:
            return scenery.gathered(now.table, focus, now.lamps, now.faults.lamp_warmth)

    def _look_ahead(self) -> None:
        """Work out the light of a whole take as soon as the set changed: a real camera would not have to."""
        now = _State(self._now.camera, self._effective_lamps(), self._now.table, self._now.faults)
        self._ahead.submit(self._light_if_still, now)

    def _light_if_still(self, now: _State) -> None:
        if now.table == self._now.table:
            self._light(self._whole, now)

    def _effective_lamps(self) -> LampSettings:
        lamps = self._now.lamps
        return lamps.model_copy(update={"front": lamps.front * (1 - self._now.faults.front_lamp_lost)})

    def _status(self, _: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            return {
                "name": "Simulated studio",
                "simulated": True,
                "camera": self._now.camera.model_dump(),
                "lamps": self._now.lamps.model_dump(),
                "focal_mm": round(float(FOCAL_MM), 1),
                "card_free": self._card_free(),
                "turntable": self._now.table.turntable,
            }

    def _card_free(self) -> int:
        room = self._room if self._now.faults.card_files is None else self._now.faults.card_files
        return max(0, room - len(self._card.names()))

    def _set_camera(self, order: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            self._now.camera = CameraSettings(**order["settings"])
            self._look_ahead()
        return self._status({})

    def _set_lamps(self, order: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            self._now.lamps = LampSettings(**order["settings"])
            self._look_ahead()
        return self._status({})

    def _focus_at(self, order: dict[str, Any]) -> dict[str, Any]:
        """Automatic focus on one point, which then stays as if set by hand."""
        with self._lock:
            depth = self._live.seen(self._now.table).depth
            rows, columns = depth.shape
            y, x = (int(np.clip(float(order[key]) * n, 0, n - 1)) for key, n in (("y", rows), ("x", columns)))
            around = depth[max(0, y - 3) : y + 4, max(0, x - 3) : x + 4]
            focus_mm = float(np.clip(np.median(around), 300, 10000))
            self._now.camera = self._now.camera.model_copy(update={"focus_mm": round(focus_mm, 1), "autofocus": False})
            self._look_ahead()
        return self._status({})

    def _turn_to(self, order: dict[str, Any]) -> dict[str, Any]:
        time.sleep(_TURNING_S)
        with self._lock:
            self._now.table = replace(self._now.table, turntable=float(order["degrees"]) % 360)
            self._look_ahead()
        return self._status({})

    def _waiting(self, _: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            return {"file_names": self._card.names()}

    def _forget(self, order: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            self._card.remove(str(order["file_name"]))
        return {}

    def _release(self, _: dict[str, Any]) -> dict[str, Any]:
        with self._lock:
            if self._now.faults.slow_s:
                time.sleep(self._now.faults.slow_s)
                raise DeviceBusy("the camera did not write the picture in time; press the shutter again")
            if self._card_free() == 0:
                raise CardFull("the camera's card is full; change it or clear it, then press the shutter again")
            if self._now.camera.autofocus:
                self._now.camera = self._now.camera.model_copy(update={"focus_mm": self._focused()})
            now = _State(self._now.camera, self._effective_lamps(), self._now.table, self._now.faults)
            lamps = self._now.lamps
            name, taken_at = self._card.new_name(), datetime.now(UTC)
        # The live view goes on meanwhile.
        data = file_of(self._picture(self._whole, now), now.camera, float(FOCAL_MM), taken_at)
        with self._lock:
            self._card.put(name, Stored(data, taken_at.timestamp(), now.camera, lamps))
        return {"file_name": name}

    def _focused(self) -> float:
        """Automatic focus: on the product, or on an empty table somewhere else each time."""
        scene = self._live.seen(self._now.table)
        solid = scene.covered > 0.5
        if solid.any():
            return float(np.clip(np.percentile(scene.depth[solid], 15), 300, 10000))
        return float(_LOST_FOCUS_MM + self._of_takes.uniform(-_HUNTING_MM, _HUNTING_MM))

    def _download(self, name: str) -> tuple[dict[str, Any], bytes]:
        with self._lock:
            taken = self._card.get(name)
        if taken is None:
            raise StudioError(f"{name} is not on the camera's card")
        head = {"taken_at": taken.taken_at, "camera": taken.camera.model_dump(), "lamps": taken.lamps.model_dump()}
        return head, taken.data

    def _hands(self, order: dict[str, Any]) -> dict[str, Any]:
        """Change the table or the faults; answers with both, and with what can be put down."""
        with self._lock:
            table = dict(order.get("table") or {})
            known = self._live.codes()
            if "nudge" in table:
                table["nudge"] = tuple(table["nudge"])
            wanted = replace(self._now.table, **table)
            if wanted.angle not in known:
                raise StudioError(
                    f"the simulated studio cannot look from the angle {wanted.angle!r}; it knows {', '.join(known)}"
                )
            if wanted.code is not None and wanted.code not in known[wanted.angle]:
                raise StudioError(f"the simulated studio has no {wanted.code} for the angle {wanted.angle}")
            self._now.table = wanted
            faults = dict(order.get("faults") or {})
            if "unplugged_s" in faults:
                self._now.faults.unplugged_until = time.time() + float(faults.pop("unplugged_s"))
            self._now.faults = replace(self._now.faults, **faults)
            self._look_ahead()
            return {"table": asdict(self._now.table), "faults": asdict(self._now.faults), "products": known}
