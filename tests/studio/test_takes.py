"""The contract of every source of takes, and what is special about a watched folder."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Protocol

import cv2
import numpy as np
import pytest

from tests.studio.process import Process, running
from true_backdrop.studio.errors import StudioError
from true_backdrop.studio.protocols import Taken, Takes
from true_backdrop.studio.watched import GIVEN_UP_S, SETTLED_S, Stamp, WatchedFolder


def jpeg(tone: int) -> bytes:
    return cv2.imencode(".jpg", np.full((40, 60, 3), tone, np.uint8))[1].tobytes()


class FileLedger:
    """A ledger that outlives its object, as the catalog's does the program."""

    def __init__(self, path: Path) -> None:
        self._path = path

    def has(self, stamp: Stamp) -> bool:
        return self._path.exists() and repr(stamp) in self._path.read_text().splitlines()

    def add(self, stamp: Stamp) -> None:
        with self._path.open("a") as file:
            file.write(f"{stamp!r}\n")


class Clock:
    now = 0.0

    def __call__(self) -> float:
        return self.now


class Source(Protocol):
    """A source of takes under test: something makes a file, and the program comes and goes."""

    def make(self) -> bytes: ...

    def connect(self) -> Takes: ...

    def restart(self) -> None: ...


class SimulatedSource:
    def __init__(self, process: Process) -> None:
        self._process = process

    def make(self) -> bytes:
        client = self._process.client()
        return client.fetch(client.release()).data

    def connect(self) -> Takes:
        return self._process.client()

    def restart(self) -> None:
        self._process.kill()
        self._process.start()


class FolderSource:
    def __init__(self, folder: Path) -> None:
        self.folder = folder / "takes"
        self.folder.mkdir()
        self._ledger, self._clock, self._made = folder / "ledger", Clock(), 0

    def make(self) -> bytes:
        self._made += 1
        data = jpeg(self._made)
        path = self.folder / f"IMG_{self._made}.jpg"
        path.write_bytes(data)
        os.utime(path, ns=(self._made, self._made))
        return data

    def connect(self) -> Takes:
        folder = WatchedFolder(self.folder, FileLedger(self._ledger), clock=self._clock)
        folder.waiting()
        self._clock.now += SETTLED_S
        return folder

    def restart(self) -> None:
        pass  # the program's own restart is `connect`; a folder has none


@pytest.fixture(params=["simulated studio", "watched folder"])
def source(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Source]:
    if request.param == "watched folder":
        yield FolderSource(tmp_path)
        return
    with running() as process:
        yield SimulatedSource(process)


def all_of(takes: Takes) -> list[Taken]:
    return [takes.fetch(name) for name in takes.waiting()]


class TestEverySource:
    """What holds for the simulated studio and for a watched folder alike."""

    def test_takes_come_in_order_and_byte_for_byte(self, source: Source) -> None:
        made = [source.make() for _ in range(3)]
        assert [taken.data for taken in all_of(source.connect())] == made

    def test_what_is_not_forgotten_goes_on_waiting(self, source: Source) -> None:
        made = [source.make() for _ in range(2)]
        takes = source.connect()
        first, second = takes.waiting()
        takes.fetch(first)
        takes.fetch(second)
        takes.forget(first)
        source.restart()
        again = source.connect()
        assert again.waiting() == [second]
        assert again.fetch(second).data == made[1]

    def test_nothing_comes_twice(self, source: Source) -> None:
        source.make()
        takes = source.connect()
        (name,) = takes.waiting()
        takes.forget(name)
        takes.forget(name)
        assert takes.waiting() == []
        source.restart()
        assert source.connect().waiting() == []
        source.make()
        assert name not in source.connect().waiting()

    def test_a_name_that_does_not_wait_is_refused_in_a_sentence(self, source: Source) -> None:
        with pytest.raises(StudioError, match=r"nothing\.jpg is not"):
            source.connect().fetch("nothing.jpg")


class TestWatchedFolder:
    @pytest.fixture
    def clock(self) -> Clock:
        return Clock()

    @pytest.fixture
    def folder(self, tmp_path: Path, clock: Clock) -> WatchedFolder:
        (tmp_path / "in").mkdir()
        return WatchedFolder(tmp_path / "in", FileLedger(tmp_path / "ledger"), clock=clock)

    def settle(self, folder: WatchedFolder, clock: Clock, seconds: float = SETTLED_S) -> list[str]:
        folder.waiting()
        clock.now += seconds
        return folder.waiting()

    def test_a_half_written_file_waits_until_it_is_whole(self, tmp_path: Path, folder: WatchedFolder, clock: Clock) -> None:
        data = jpeg(3)
        (tmp_path / "in" / "a.jpg").write_bytes(data[: len(data) // 2])
        assert self.settle(folder, clock) == []
        (tmp_path / "in" / "a.jpg").write_bytes(data)
        assert folder.waiting() == []  # it only just changed
        assert self.settle(folder, clock) == ["a.jpg"]
        assert folder.fetch("a.jpg").data == data

    def test_later_files_wait_for_the_half_written_one_but_not_for_ever(
        self, tmp_path: Path, folder: WatchedFolder, clock: Clock
    ) -> None:
        for at, (name, data) in enumerate([("a.jpg", jpeg(1)[:-60]), ("b.jpg", jpeg(2))]):
            (tmp_path / "in" / name).write_bytes(data)
            os.utime(tmp_path / "in" / name, ns=(at, at))
        assert self.settle(folder, clock) == []
        assert self.settle(folder, clock, GIVEN_UP_S) == ["a.jpg", "b.jpg"]

    def test_order_is_that_of_writing_then_of_numbers(self, tmp_path: Path, folder: WatchedFolder, clock: Clock) -> None:
        for name, at in (("z_1.jpg", 5), ("img_10.jpg", 9), ("img_9.jpg", 9), ("a_2.png", 7)):
            picture = cv2.imencode(Path(name).suffix, np.zeros((4, 4, 3), np.uint8))[1].tobytes()
            (tmp_path / "in" / name).write_bytes(picture)
            os.utime(tmp_path / "in" / name, ns=(at, at))
        assert self.settle(folder, clock) == ["z_1.jpg", "a_2.png", "img_9.jpg", "img_10.jpg"]

    def test_other_files_are_passed_over(self, tmp_path: Path, folder: WatchedFolder, clock: Clock) -> None:
        for name in (".a.jpg", "notes.txt", "a.jpg.part"):
            (tmp_path / "in" / name).write_bytes(jpeg(1))
        (tmp_path / "in" / "folder.jpg").mkdir()
        assert self.settle(folder, clock) == []

    def test_a_file_written_anew_under_its_name_is_a_new_one(self, tmp_path: Path, folder: WatchedFolder, clock: Clock) -> None:
        path = tmp_path / "in" / "a.jpg"
        path.write_bytes(jpeg(1))
        assert self.settle(folder, clock) == ["a.jpg"]
        folder.forget("a.jpg")
        path.write_bytes(jpeg(200) + b"\0")
        assert self.settle(folder, clock) == ["a.jpg"]

    def test_a_file_that_grows_while_it_is_read_is_not_half_taken(
        self, tmp_path: Path, folder: WatchedFolder, clock: Clock
    ) -> None:
        path = tmp_path / "in" / "a.jpg"
        path.write_bytes(jpeg(1))
        self.settle(folder, clock)
        path.write_bytes(jpeg(1) * 2)
        with pytest.raises(StudioError, match="still being written"):
            folder.fetch("a.jpg")

    def test_a_folder_that_is_away_is_named(self, tmp_path: Path) -> None:
        with pytest.raises(StudioError, match=r"gone is not there; is its drive connected"):
            WatchedFolder(tmp_path / "gone", FileLedger(tmp_path / "ledger")).waiting()
