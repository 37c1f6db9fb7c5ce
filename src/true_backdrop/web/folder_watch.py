"""Watched folders: whatever is written there becomes takes of its shoot."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from true_backdrop.catalog import shoots, watched
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import announce, transaction
from true_backdrop.catalog.taking import take_from_outside
from true_backdrop.catalog.treatments import shoot_treatment
from true_backdrop.core.errors import TrueBackdropError
from true_backdrop.jobs.queue import defer_looks
from true_backdrop.studio.errors import StudioError
from true_backdrop.studio.watched import Stamp, WatchedFolder

log = logging.getLogger("true_backdrop.watched_folder")

#: Pause between two looks at the folders. Looking works on network drives as well, which give no notice of changes.
_LOOK_EVERY_S = 0.4


class _Ledger:
    """The catalog's ledger for one shoot; what was found there once is not asked for again."""

    def __init__(self, url: str, shoot_id: int) -> None:
        self._url, self._shoot_id = url, shoot_id
        self._known: set[Stamp] = set()

    def has(self, stamp: Stamp) -> bool:
        if stamp in self._known:
            return True
        with transaction(self._url) as session:
            there = watched.is_taken(session, self._shoot_id, stamp.name, stamp.size, stamp.mtime_ns)
        if there:
            self._known.add(stamp)
        return there

    def add(self, stamp: Stamp) -> None:
        self._known.add(stamp)


class FolderWatch:
    """Looks at the folders of all shoots again and again, in the background."""

    def __init__(self, url: str, blobs: BlobStore) -> None:
        self._url, self._blobs = url, blobs
        self._folders: dict[int, tuple[str, WatchedFolder]] = {}
        self._task: asyncio.Task[None] | None = None
        self.trouble: dict[int, str] = {}

    def start(self) -> None:
        self._task = asyncio.create_task(self._run())

    async def stop(self) -> None:
        if self._task is not None:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _run(self) -> None:
        while True:
            try:
                await asyncio.to_thread(self.look)
            except SQLAlchemyError as fault:
                log.warning("the database does not answer (%s); the watched folders wait", str(fault).split("\n")[0])
            except Exception:
                log.exception("watched folders could not be looked at; trying again", extra={"action": "watch_folder"})
            await asyncio.sleep(_LOOK_EVERY_S)

    def look(self) -> None:
        """Take what is whole in the folders of all shoots."""
        with transaction(self._url) as session:
            wanted = {shoot.id: shoot.watched_folder for shoot in watched.watching_shoots(session) if shoot.watched_folder}
        for shoot_id in self._folders.keys() - wanted.keys():
            del self._folders[shoot_id]
            self.trouble.pop(shoot_id, None)
        for shoot_id, path in wanted.items():
            if shoot_id not in self._folders or self._folders[shoot_id][0] != path:
                self._folders[shoot_id] = path, WatchedFolder(Path(path), _Ledger(self._url, shoot_id))
            self._look_at(shoot_id, self._folders[shoot_id][1])

    def _look_at(self, shoot_id: int, folder: WatchedFolder) -> None:
        try:
            for name in folder.waiting():
                self._take(shoot_id, folder, name)
            trouble = None
        except StudioError as fault:
            trouble = str(fault)
        if trouble != self.trouble.get(shoot_id):
            if trouble is None:
                del self.trouble[shoot_id]
            else:
                self.trouble[shoot_id] = trouble
            with transaction(self._url) as session:
                announce(session, shoot_id, "watch")

    def _take(self, shoot_id: int, folder: WatchedFolder, name: str) -> None:
        stamp = folder.stamp_of(name)
        if stamp is None:
            return
        data = folder.fetch(name).data
        problem = None
        try:
            with transaction(self._url) as session:
                shoots.get_shoot(session, shoot_id)
                framing = shoot_treatment(session, shoot_id).cut.framing
                frame, looks = take_from_outside(session, self._blobs, shoot_id, name, data, framing)
                watched.note_taken(session, shoot_id, name, stamp.size, stamp.mtime_ns, frame, None)
                defer_looks(session, looks)
                announce(session, shoot_id, "frames")
        except TrueBackdropError as fault:
            problem = str(fault)
        if problem is not None:
            log.warning("%s: %s", name, problem)
            with transaction(self._url) as session:
                watched.note_taken(session, shoot_id, name, stamp.size, stamp.mtime_ns, None, problem)
                announce(session, shoot_id, "watch")
        folder.forget(name)
