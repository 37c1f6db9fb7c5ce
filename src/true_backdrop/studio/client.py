"""The program's side of a device in another process: plain sockets, one for orders and one for each live view."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Any

from true_backdrop.studio import wire
from true_backdrop.studio.errors import BY_WORD, DeviceBusy, DeviceGone, StudioError
from true_backdrop.studio.protocols import CameraSettings, DeviceStatus, LampSettings, LiveFrame, Taken

#: A release with its download may take this long.
PATIENCE_S = 20.0
LIVE_PATIENCE_S = 3.0


class RemoteStudio:
    """Camera, lamps and turntable (see protocols.py) of a studio process. Safe to use from several threads."""

    def __init__(self, host: str, port: int, *, patience_s: float = PATIENCE_S) -> None:
        self._address, self._patience = (host, port), patience_s
        self._lock = threading.Lock()
        self._line: _Line | None = None

    def status(self) -> DeviceStatus:
        return _status(self._ask({"do": "status"})[0])

    def set_camera(self, settings: CameraSettings) -> DeviceStatus:
        return _status(self._ask({"do": "set_camera", "settings": settings.model_dump()})[0])

    def set_lamps(self, settings: LampSettings) -> DeviceStatus:
        return _status(self._ask({"do": "set_lamps", "settings": settings.model_dump()})[0])

    def focus_at(self, x: float, y: float) -> DeviceStatus:
        return _status(self._ask({"do": "focus_at", "x": x, "y": y})[0])

    def turn_to(self, degrees: float) -> DeviceStatus:
        return _status(self._ask({"do": "turn_to", "degrees": degrees})[0])

    def release(self) -> str:
        return str(self._ask({"do": "release"})[0]["file_name"])

    def waiting(self) -> list[str]:
        return [str(name) for name in self._ask({"do": "waiting"})[0]["file_names"]]

    def fetch(self, file_name: str) -> Taken:
        head, data = self._ask({"do": "download", "file_name": file_name})
        return Taken(
            file_name,
            data,
            datetime.fromtimestamp(head["taken_at"], UTC),
            CameraSettings(**head["camera"]),
            LampSettings(**head["lamps"]),
        )

    def forget(self, file_name: str) -> None:
        self._ask({"do": "forget", "file_name": file_name})

    def hands(self, order: dict[str, Any]) -> dict[str, Any]:
        """Orders that only a simulated studio knows: what the hands do at the table, and faults on request."""
        return self._ask({"do": "hands", **order})[0]

    def live_view(self) -> Iterator[LiveFrame]:
        line = _Line(self._address, LIVE_PATIENCE_S)
        try:
            line.send({"do": "live"})
            while True:
                head, jpeg = line.receive()
                yield LiveFrame(jpeg, int(head["number"]), float(head["made_at"]))
        finally:
            line.close()

    def close(self) -> None:
        with self._lock:
            self._drop()

    def _ask(self, order: dict[str, Any]) -> tuple[dict[str, Any], bytes]:
        with self._lock:
            try:
                if self._line is None:
                    self._line = _Line(self._address, self._patience)
                self._line.send(order)
                return self._line.receive()
            except (DeviceGone, DeviceBusy):
                self._drop()
                raise

    def _drop(self) -> None:
        if self._line is not None:
            self._line.close()
            self._line = None


class _Line:
    """One connection."""

    def __init__(self, address: tuple[str, int], patience_s: float) -> None:
        try:
            self._socket = socket.create_connection(address, timeout=2.0)
        except OSError as fault:
            raise DeviceGone("the camera does not answer; check its cable and that it is switched on") from fault
        self._socket.settimeout(patience_s)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

    def send(self, head: dict[str, Any]) -> None:
        try:
            self._socket.sendall(wire.packed(head))
        except OSError as fault:
            raise DeviceGone("the connection to the camera was lost; check its cable") from fault

    def receive(self) -> tuple[dict[str, Any], bytes]:
        try:
            head_length, body_length = wire.lengths(self._exactly(wire.PREFIX))
            head, body = wire.parsed(self._exactly(head_length)), self._exactly(body_length)
        except TimeoutError as fault:
            raise DeviceBusy("the camera did not answer in time; try again, or switch it off and on") from fault
        except (OSError, ValueError) as fault:
            raise DeviceGone("the connection to the camera was lost; check its cable") from fault
        if "fault" in head:
            raise BY_WORD.get(head["fault"], StudioError)(head["said"])
        return head, body

    def _exactly(self, count: int) -> bytes:
        parts = bytearray()
        while len(parts) < count:
            some = self._socket.recv(min(count - len(parts), 1 << 20))
            if not some:
                raise OSError("closed")
            parts += some
        return bytes(parts)

    def close(self) -> None:
        self._socket.close()


def _status(head: dict[str, Any]) -> DeviceStatus:
    return DeviceStatus(
        head["name"],
        bool(head["simulated"]),
        CameraSettings(**head["camera"]),
        LampSettings(**head["lamps"]),
        float(head["focal_mm"]),
        int(head["card_free"]),
        head.get("turntable"),
    )
