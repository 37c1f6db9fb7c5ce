"""The live view for any number of watchers, over one connection to the device; and who holds the shutter."""

from __future__ import annotations

import asyncio
import contextlib
import logging
import threading
import time
from dataclasses import dataclass
from typing import Any

from true_backdrop.catalog.taking import Kind
from true_backdrop.studio.client import RemoteStudio
from true_backdrop.studio.errors import DeviceGone, StudioError
from true_backdrop.studio.gphoto import GPHOTO2, GPhotoStudio
from true_backdrop.studio.protocols import LiveFrame, Studio

log = logging.getLogger("true_backdrop.studio")

NO_STUDIO = "no camera is set up; start the program with a studio device, or bring in files"
#: Pause before a camera that went away is looked for again.
_AGAIN_S = 1.0


@dataclass(frozen=True, slots=True)
class Pressed:
    """What a press of the shutter was for, until its file is safe."""

    shot_id: int
    kind: Kind
    series_id: int | None = None


class Watcher:
    """One browser's view: only ever the newest frame waits for it."""

    def __init__(self) -> None:
        self._news = asyncio.Event()

    def tell(self) -> None:
        self._news.set()

    async def wait(self) -> None:
        await self._news.wait()
        self._news.clear()


def studio_at(address: str) -> Studio | None:
    """The device behind an address: `host:port` of a studio process, `gphoto2` for a camera on USB, empty for none."""
    if address == GPHOTO2:
        return GPhotoStudio()
    host, _, port = address.partition(":")
    return RemoteStudio(host, int(port)) if port else None


class StudioDesk:
    """Owns the connection to the device. The live view runs while somebody watches."""

    def __init__(self, address: str) -> None:
        self._remote = studio_at(address)
        self._watchers: set[Watcher] = set()
        self._watched, self._ended = threading.Event(), False
        self._loop: asyncio.AbstractEventLoop | None = None
        self.latest: LiveFrame | None = None
        self.trouble: str | None = NO_STUDIO if self._remote is None else None
        self.holder: str | None = None
        self.pressed: dict[str, Pressed] = {}
        #: Set by whoever wants a series or a spin to end after the picture that is being taken.
        self.halt = threading.Event()

    @property
    def studio(self) -> Studio:
        """The device; raises DeviceGone when none is set up."""
        if self._remote is None:
            raise DeviceGone(NO_STUDIO)
        return self._remote

    def hands(self, order: dict[str, Any]) -> dict[str, Any]:
        """Move the hands of a simulated studio; a real one has none."""
        if not isinstance(self._remote, RemoteStudio):
            raise StudioError("this studio is not simulated: move the product by hand")
        return self._remote.hands(order)

    def start(self) -> None:
        self._loop = asyncio.get_running_loop()
        if self._remote is not None:
            threading.Thread(target=self._follow, name="live-view", daemon=True).start()

    def stop(self) -> None:
        self._ended = True
        self._watched.set()
        if self._remote is not None:
            self._remote.close()

    def watch(self) -> Watcher:
        watcher = Watcher()
        self._watchers.add(watcher)
        self._watched.set()
        return watcher

    def leave(self, watcher: Watcher, client: str | None) -> None:
        self._watchers.discard(watcher)
        if not self._watchers:
            self._watched.clear()
        if client is not None and self.holder == client:
            self.holder = None

    def hold(self, client: str, *, take_over: bool = False) -> bool:
        """Whether this client may press the shutter; one that nobody holds goes to who asks first."""
        if self.holder is None or take_over:
            self.holder = client
        return self.holder == client

    def _follow(self) -> None:
        """Runs in its own thread: frames in, watchers told. A camera that vanishes is looked for until it is back."""
        while not self._ended:
            self._watched.wait()
            try:
                for frame in self.studio.live_view():
                    self.latest, self.trouble = frame, None
                    self._tell()
                    if self._ended or not self._watched.is_set():
                        break
            except StudioError as fault:
                if self.trouble is None:
                    log.warning("live view: %s", fault)
                self.latest, self.trouble = None, str(fault)
                self._tell()
                time.sleep(_AGAIN_S)

    def _tell(self) -> None:
        if self._loop is not None:
            with contextlib.suppress(RuntimeError):  # the loop has ended
                self._loop.call_soon_threadsafe(self._tell_all)

    def _tell_all(self) -> None:
        for watcher in self._watchers:
            watcher.tell()
