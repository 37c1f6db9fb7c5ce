"""What changed, told to the browsers: PostgreSQL notices become server-sent events."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
from collections.abc import AsyncIterator
from typing import Any

import psycopg

from true_backdrop.catalog.database import CHANNEL

log = logging.getLogger("true_backdrop.events")


#: Events within this time are one, and a browser is told no more often than this (seconds).
_AT_ONCE_S, _APART_S = 0.01, 0.15


class Announcer:
    """One listening connection for all browsers. It comes back by itself when the database was away."""

    def __init__(self, conninfo: str) -> None:
        self._conninfo = conninfo
        self._queues: set[asyncio.Queue[dict[str, Any]]] = set()
        self._task: asyncio.Task[None] | None = None

    async def start(self) -> None:
        self._task = asyncio.create_task(self._listen())

    async def stop(self) -> None:
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(
                    self._conninfo, autocommit=True, connect_timeout=3
                ) as connection:
                    await connection.execute(f"listen {CHANNEL}")
                    self._tell({"what": "database", "here": True})
                    async for notice in connection.notifies():
                        self._tell(json.loads(notice.payload))
            except psycopg.Error as fault:
                log.warning("the database does not answer (%s); trying again", str(fault).split("\n")[0])
            self._tell({"what": "database", "here": False})
            await asyncio.sleep(1.0)

    def _tell(self, event: dict[str, Any]) -> None:
        for queue in self._queues:
            if queue.qsize() < 100:  # a browser that sleeps reads everything anew when it wakes
                queue.put_nowait(event)

    async def events(self, shoot_id: int) -> AsyncIterator[dict[str, str]]:
        """Events of one shoot for as long as the browser listens. Several of a kind at once become one."""
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        self._queues.add(queue)
        try:
            yield {"event": "change", "data": json.dumps({"what": "hello"})}
            told, loop = 0.0, asyncio.get_running_loop()
            while True:
                pending = [await queue.get()]
                # The first of many comes at once; the others, together, a little later.
                await asyncio.sleep(max(_AT_ONCE_S, told + _APART_S - loop.time()))
                told = loop.time()
                while not queue.empty():
                    pending.append(queue.get_nowait())
                for event in {json.dumps(e, sort_keys=True) for e in pending if e.get("shoot", shoot_id) == shoot_id}:
                    yield {"event": "change", "data": event}
        finally:
            self._queues.discard(queue)
