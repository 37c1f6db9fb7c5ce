"""The launcher: what it says and does when the ground is not as it should be."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import pytest
from tools.launch import commands, database, install, processes, sharing
from tools.launch.say import GiveUp, step


@pytest.fixture
def var(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A var/ of its own for every module that keeps something there."""
    folder = tmp_path / "var"
    folder.mkdir()
    for module in (database, processes, commands, install):
        monkeypatch.setattr(module, "VAR", folder)
    monkeypatch.setattr(processes, "PID_FILE", folder / "run.pid")
    return folder


def test_a_taken_port_is_named_and_the_way_out_given() -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        with pytest.raises(GiveUp, match=rf"port {port} is taken.*TRUE_BACKDROP_PORT={port + 1}"):
            processes.require_free("127.0.0.1", port)


@pytest.mark.parametrize("left", ["999999999", "not a number", ""])
def test_a_stale_pid_is_no_running_program(var: Path, left: str) -> None:
    processes.PID_FILE.write_text(left)
    assert processes.running_pid() is None


def test_a_pid_that_went_to_another_program_is_not_taken_for_ours(var: Path) -> None:
    sleeper = subprocess.Popen(["sleep", "30"])
    try:
        processes.PID_FILE.write_text(str(sleeper.pid))
        assert processes.running_pid() is None
        assert not processes.PID_FILE.exists()
    finally:
        sleeper.kill()
        sleeper.wait()


@pytest.mark.parametrize("text", ["80", "abc", "-1", "70000"])
def test_a_wrong_port_is_refused_with_its_range(monkeypatch: pytest.MonkeyPatch, text: str) -> None:
    monkeypatch.setenv("TRUE_BACKDROP_PORT", text)
    with pytest.raises(GiveUp, match="from 1024 to 65535"):
        commands._number("TRUE_BACKDROP_PORT", 8470, 1024, 65535)


def test_an_unknown_command_is_answered_with_the_help() -> None:
    with pytest.raises(GiveUp, match="no command 'strat'"):
        commands.main(["strat"], "the help")


def test_no_arguments_print_the_help(capsys: pytest.CaptureFixture[str]) -> None:
    assert commands.main([], "all commands\n") == 0
    assert capsys.readouterr().out == "all commands\n"


def test_a_failed_step_shows_its_last_lines_and_what_it_was() -> None:
    with pytest.raises(GiveUp, match=r"(?s)no such thing.*counting sheep failed"):
        step([sys.executable, "-c", "import sys; print('no such thing'); sys.exit(3)"], "counting sheep")


def test_a_missing_package_without_rights_is_named_with_the_command(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(os, "geteuid", lambda: 1001)
    monkeypatch.setattr(shutil, "which", lambda name: None)
    with pytest.raises(GiveUp, match="apt-get install postgresql"):
        install.debian_packages(["postgresql"])


def test_with_sudo_packages_are_installed_through_it_without_asking(monkeypatch: pytest.MonkeyPatch) -> None:
    said: list[list[str]] = []
    monkeypatch.setattr(os, "geteuid", lambda: 1001)
    monkeypatch.setattr(shutil, "which", lambda name: f"/usr/bin/{name}")
    monkeypatch.setattr(install, "step", lambda command, what, **_: said.append([str(word) for word in command]))
    install.debian_packages(["chromium"])
    assert all(command[:2] == ["sudo", "-n"] for command in said)
    assert said[-1][-1] == "chromium"


def test_the_digest_tells_names_and_contents_apart(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(install, "ROOT", tmp_path)
    (tmp_path / "a").write_text("1")
    first = install.digest([tmp_path / "a"])
    (tmp_path / "a").rename(tmp_path / "b")
    second = install.digest([tmp_path / "b"])
    (tmp_path / "b").write_text("2")
    assert len({first, second, install.digest([tmp_path / "b"])}) == 3


@contextmanager
def _another_user(var: Path) -> Iterator[None]:
    """Another program that uses the database of a folder, until it is killed."""
    told = (
        "import sys, time, pathlib; from tools.launch import sharing; sharing.join(pathlib.Path(sys.argv[1])); print(flush=True)"
    )
    command = [sys.executable, "-c", f"{told}; time.sleep(60)", str(var)]
    other = subprocess.Popen(command, stdout=subprocess.PIPE, cwd=Path(__file__).parents[2])
    try:
        assert other.stdout and other.stdout.readline()
        yield
    finally:
        other.kill()
        other.wait()


class TestCluster:
    """A real cluster in a folder of its own."""

    @pytest.fixture
    def folder(self, var: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
        # As root the server's own account must reach the folder; temporary folders of the tests are private.
        place = Path("/var/tmp") / f"true-backdrop-test-{os.getpid()}" / "postgres"
        place.parent.mkdir(mode=0o755)
        monkeypatch.setattr(database, "cluster_folder", lambda: place)
        yield place
        database.stop()
        shutil.rmtree(place.parent, ignore_errors=True)

    def test_it_is_made_started_found_running_and_stopped(self, folder: Path, var: Path) -> None:
        port = database.start()
        assert database._running(database.ensure_postgres(), folder)
        assert database.start() == port
        database.ensure_database(port)
        database.ensure_database(port)
        assert (var / "postgres-password").stat().st_mode & 0o077 == 0
        database.stop()
        assert not database._running(database.ensure_postgres(), folder)

    def test_it_goes_on_while_another_program_uses_it(self, folder: Path, var: Path) -> None:
        binaries = database.ensure_postgres()
        database.start()
        with _another_user(var):
            database.stop()
            assert database._running(binaries, folder)
        database.stop()
        assert not database._running(binaries, folder)

    def test_one_that_is_being_stopped_is_waited_for_and_started_again(self, folder: Path, var: Path) -> None:
        database.start()
        with ThreadPoolExecutor() as pool:
            with sharing.one_at_a_time(var):  # as a program does that is about to stop it
                again = pool.submit(database.start)
                with pytest.raises(TimeoutError):
                    again.result(timeout=0.5)
                sharing.leave(var)
                subprocess.run(
                    database._as_server([str(database.ensure_postgres() / "pg_ctl"), "-D", str(folder), "-w", "stop"]),
                    check=True,
                    capture_output=True,
                    cwd="/",
                )
            database.ensure_database(again.result(timeout=60))

    def test_a_half_made_one_is_set_aside_and_nothing_is_deleted(self, folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
        folder.mkdir()
        (folder / "PG_VERSION").write_text("15\n")
        (folder / "precious").write_text("kept")
        database.start()
        assert database._running(database.ensure_postgres(), folder)
        aside = [path for path in folder.parent.iterdir() if "set-aside" in path.name]
        assert (aside[0] / "precious").read_text() == "kept"
        assert str(aside[0]) in capsys.readouterr().out

    def test_one_that_cannot_start_says_where_its_log_is(self, folder: Path) -> None:
        database.start()
        database.stop()
        (folder / "postgresql.conf").write_text("no_such_setting = 1\n")
        with pytest.raises(GiveUp, match=r"(?s)no_such_setting.*its log is .*postgres\.log"):
            database.start()
