"""The studio: live view, settings, the shutter."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import secrets
import struct
from typing import Annotated

from fastapi import APIRouter, Depends, Request, WebSocket, WebSocketDisconnect
from sqlalchemy.exc import SQLAlchemyError

from true_backdrop.catalog.database import transaction
from true_backdrop.catalog.errors import Missing
from true_backdrop.core import codec
from true_backdrop.core.colour import decode_pixels
from true_backdrop.core.exposure import focus_steps, kelvin_for_neutral
from true_backdrop.settings import settings
from true_backdrop.studio.errors import DeviceGone, StudioError
from true_backdrop.studio.protocols import CameraSettings, DeviceStatus, LampSettings, LiveFrame
from true_backdrop.web import studio_models
from true_backdrop.web.dependencies import Db
from true_backdrop.web.live_reading import Bearings, LiveReader, bearings_of
from true_backdrop.web.studio_desk import StudioDesk, Watcher

router = APIRouter(prefix="/api/studio", tags=["studio"])
log = logging.getLogger("true_backdrop.studio")

#: More slices than this are a mistake of the points or of the aperture.
MOST_STEPS = 40
#: Seconds from one reading of the live view to the next: nearly five a second.
_READING_S = 0.22


def _desk(request: Request) -> StudioDesk:
    desk: StudioDesk = request.app.state.studio
    return desk


Desk = Annotated[StudioDesk, Depends(_desk)]


def studio_public(status: DeviceStatus) -> studio_models.StudioPublic:
    return studio_models.StudioPublic(
        connected=True,
        trouble=None,
        name=status.name,
        simulated=status.simulated,
        camera=status.camera,
        lamps=status.lamps,
        focal_mm=status.focal_mm,
        card_free=status.card_free,
        turntable=status.turntable,
    )


def steps_between(status: DeviceStatus, near_mm: float, far_mm: float) -> list[float]:
    """Focus distances (mm) from one point to the other, whichever is nearer; raises StudioError when they do not do."""
    near, far = sorted((near_mm, far_mm))
    try:
        steps = focus_steps(status.focal_mm, status.camera.f_number, near, far)
    except ValueError as fault:
        raise StudioError("near and far point lie at the same distance; mark two that lie apart") from fault
    if len(steps) > MOST_STEPS:
        raise StudioError(
            f"it would take {len(steps)} slices from {near:.0f} to {far:.0f} mm at f/{status.camera.f_number:g}; "
            f"close the aperture, or mark points that lie nearer together ({MOST_STEPS} at most)"
        )
    return [round(step, 1) for step in steps]


@router.get("")
def read_studio(desk: Desk) -> studio_models.StudioPublic:
    try:
        return studio_public(desk.studio.status())
    except StudioError as fault:
        return studio_models.StudioPublic(
            connected=False,
            trouble=str(fault),
            name="",
            simulated=False,
            camera=None,
            lamps=None,
            focal_mm=None,
            card_free=None,
            turntable=None,
        )


@router.put("/camera")
def set_camera(wanted: CameraSettings, desk: Desk) -> studio_models.StudioPublic:
    return studio_public(desk.studio.set_camera(wanted))


@router.put("/lamps")
def set_lamps(wanted: LampSettings, desk: Desk) -> studio_models.StudioPublic:
    return studio_public(desk.studio.set_lamps(wanted))


@router.post("/focus-at")
def focus_at(point: studio_models.LivePoint, desk: Desk) -> studio_models.StudioPublic:
    """Focus on what the live view shows at a point."""
    return studio_public(desk.studio.focus_at(point.x, point.y))


@router.get("/focus-steps")
def propose_focus_steps(desk: Desk, near_mm: float, far_mm: float) -> studio_models.FocusSteps:
    """The distances that keep everything sharp from near to far, at the aperture that is set."""
    status = desk.studio.status()
    return studio_models.FocusSteps(steps=steps_between(status, near_mm, far_mm), f_number=status.camera.f_number)


@router.post("/halt", status_code=204)
def halt(desk: Desk) -> None:
    """End the focus series or the spin that is being shot after the picture that is being taken; what is there stays."""
    desk.halt.set()


@router.post("/hands")
def move_hands(order: studio_models.HandsOrder, desk: Desk) -> studio_models.HandsPublic:
    return studio_models.HandsPublic.model_validate(desk.hands(order.model_dump()))


@router.post("/neutral")
def take_neutral(point: studio_models.LivePoint, desk: Desk) -> studio_models.StudioPublic:
    """Set the white balance by something neutral in the live view."""
    status, live = desk.studio.status(), desk.latest
    if live is None:
        raise DeviceGone("there is no live view to point at")
    picture = codec.decode(live.jpeg, "live view")
    row, column = int(point.y * (picture.height - 1)), int(point.x * (picture.width - 1))
    around = picture.pixels[max(0, row - 5) : row + 6, max(0, column - 5) : column + 6]
    if around.max() >= 254 or around.mean() < 25:
        raise StudioError("that point is too bright or too dark to tell its colour; point at something grey")
    red, _, blue = (float(v) for v in decode_pixels(around).reshape(-1, 3).mean(axis=0))
    kelvin = round(kelvin_for_neutral(status.camera.kelvin, red, blue) / 10) * 10
    return studio_public(desk.studio.set_camera(status.camera.model_copy(update={"kelvin": kelvin})))


@router.get("/word")
def read_word(request: Request, desk: Desk, db: Db, shot: int | None = None) -> studio_models.LiveWord:
    """One word of the live view by itself, for pages that do not watch."""
    reader: LiveReader = request.app.state.live_reader
    frame = desk.latest
    bearings = bearings_of(db, shot) if shot is not None else None
    reading = reader.read(frame.jpeg, bearings) if frame is not None else None
    return studio_models.LiveWord(trouble=desk.trouble, held_elsewhere=desk.holder is not None, reading=reading)


#: Before each picture of the live view: when the device made it, seconds since 1970 by its clock (IEEE 754 double, big endian).
MADE_AT = struct.Struct(">d")


def live_message(frame: LiveFrame) -> bytes:
    """A picture of the live view as pages get it: when it was made, then the JPEG."""
    return MADE_AT.pack(frame.made_at) + frame.jpeg


@router.websocket("/live")
async def live(socket: WebSocket) -> None:
    """Pictures as binary messages (`live_message`), words as JSON (`LiveWord`).

    The page says {"client": ..., "shot": id} when it looks at another shot, and "take_over" when it wants the shutter.
    """
    await socket.accept()
    desk: StudioDesk = socket.app.state.studio
    watching = _Watching(socket, desk)
    tasks = [asyncio.create_task(work()) for work in (watching.send_pictures, watching.send_words, watching.listen)]
    try:
        await asyncio.wait(tasks, return_when=asyncio.FIRST_COMPLETED)
    finally:
        for task in tasks:
            task.cancel()
        for fault in await asyncio.gather(*tasks, return_exceptions=True):
            if isinstance(fault, Exception) and not isinstance(fault, WebSocketDisconnect):
                log.error("a live view ended; its page asks again", exc_info=fault, extra={"action": "watch"})
        watching.leave()


class _Watching:
    """One open page."""

    def __init__(self, socket: WebSocket, desk: StudioDesk) -> None:
        self._socket, self._desk = socket, desk
        self._watcher: Watcher = desk.watch()
        self._client: str | None = None  # until the page has said its name
        self._bearings: Bearings | None = None
        self._shot: int | None = None
        self._reader: LiveReader = socket.app.state.live_reader
        self._sending = asyncio.Lock()

    def leave(self) -> None:
        self._desk.leave(self._watcher, self._client)

    async def send_pictures(self) -> None:
        while True:
            await self._watcher.wait()
            frame = self._desk.latest
            if frame is not None:
                async with self._sending:
                    await self._socket.send_bytes(live_message(frame))
            else:
                await self._say(studio_models.LiveWord(trouble=self._desk.trouble))

    async def send_words(self) -> None:
        loop, due = asyncio.get_running_loop(), 0.0
        while True:
            await asyncio.sleep(max(0.02, due - loop.time()))
            due = loop.time() + _READING_S
            frame, reading = self._desk.latest, None
            if frame is not None:
                await self._look_up()
                reading = await asyncio.to_thread(self._reader.read, frame.jpeg, self._bearings)
            if self._client is not None:
                self._desk.hold(self._client)
            await self._say(studio_models.LiveWord(trouble=self._desk.trouble, reading=reading))

    async def _say(self, word: studio_models.LiveWord) -> None:
        holder = self._desk.holder
        word = word.model_copy(
            update={"holds": holder is not None and holder == self._client, "held_elsewhere": holder not in (None, self._client)}
        )
        async with self._sending:
            await self._socket.send_text(word.model_dump_json())

    async def _look_up(self) -> None:
        """Guide and backdrop frame may have changed since the last reading."""
        if self._shot is None:
            self._bearings = None
            return
        shot_id = self._shot

        def look() -> Bearings | None:
            with transaction(settings().database_url.get_secret_value()) as session:
                return bearings_of(session, shot_id)

        with contextlib.suppress(SQLAlchemyError, Missing):  # the database is away: the old ones do
            self._bearings = await asyncio.to_thread(look)

    async def listen(self) -> None:
        with contextlib.suppress(WebSocketDisconnect):
            while True:
                said = json.loads(await self._socket.receive_text())
                self._shot = int(said["shot"]) if said.get("shot") else None
                self._client = str(said.get("client") or secrets.token_hex(8))[:64]
                if said.get("take_over") and self._client is not None:
                    self._desk.hold(self._client, take_over=True)
