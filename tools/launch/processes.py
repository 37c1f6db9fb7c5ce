"""Web server and workers: started, watched, started again when one dies, ended together."""

import contextlib
import os
import signal
import socket
import subprocess
import time
import urllib.request
from pathlib import Path

from . import database
from .install import python
from .say import ROOT, VAR, GiveUp, say

PID_FILE = VAR / "run.pid"


def alive(pid):
    """Whether a process is there and is ours: a stale number may have gone to another program."""
    try:
        words = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
    except OSError:
        return False
    return any(Path(os.fsdecode(word)).name == "run" for word in words[:3])


def running_pid():
    with contextlib.suppress(OSError, ValueError):
        pid = int(PID_FILE.read_text())
        if alive(pid):
            return pid
        PID_FILE.unlink(missing_ok=True)  # stale: the machine was switched off, or the process was killed
    return None


def require_free(host, port):
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as fault:
            raise GiveUp(
                f"port {port} is taken by another program. End that program, "
                f"or choose another port: TRUE_BACKDROP_PORT={port + 1} ./run ..."
            ) from fault


class Crew:
    """The processes of one start."""

    def __init__(self, environment, workers, studio=None):
        """`studio` is the simulated studio's own arguments; None for no studio."""
        self.environment = environment
        self.wanted = {
            "web": ["true_backdrop.web.server"],
            **{f"worker-{n}": ["true_backdrop.jobs.worker"] for n in range(1, workers + 1)},
            **({"studio": ["true_backdrop.studio.simulated.server", *studio]} if studio else {}),
        }
        self.processes = {}
        self.started_at = {}

    def start(self, name):
        (VAR / "log").mkdir(parents=True, exist_ok=True)
        log = (VAR / "log" / f"{name}.log").open("ab")
        self.processes[name] = subprocess.Popen(
            [str(python()), "-m", *self.wanted[name]],
            stdout=log,
            stderr=log,
            cwd=ROOT,
            env=self.environment,
            start_new_session=True,
        )
        log.close()
        self.started_at[name] = time.monotonic()

    def start_all(self):
        for name in self.wanted:
            self.start(name)

    def watch(self):
        """Start again what died; a process that dies at once is given a pause."""
        while True:
            time.sleep(0.5)
            for name, process in list(self.processes.items()):
                if process.poll() is not None and time.monotonic() - self.started_at[name] > 2.0:
                    say(f"{name} ended (exit {process.returncode}) and is started again; see var/log/{name}.log")
                    self.start(name)

    def stop(self):
        for process in self.processes.values():
            if process.poll() is None:
                with contextlib.suppress(ProcessLookupError):
                    os.killpg(process.pid, signal.SIGTERM)
        deadline = time.monotonic() + 8
        for process in self.processes.values():
            try:
                process.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                with contextlib.suppress(ProcessLookupError):
                    os.killpg(process.pid, signal.SIGKILL)
                process.wait()


def wait_until_up(address, crew):
    deadline = time.monotonic() + 40
    while time.monotonic() < deadline:
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=2):
                return
        except OSError:
            if crew.processes["web"].poll() is not None:
                break
            time.sleep(0.1)
    tail = (VAR / "log" / "web.log").read_text(errors="replace").splitlines()[-15:]
    raise GiveUp("\n".join(tail) + "\n\nthe web server did not come up; the lines above are from var/log/web.log")


def stop_everything():
    """End what another terminal started."""
    pid = running_pid()
    if pid:
        os.kill(pid, signal.SIGTERM)
        deadline = time.monotonic() + 20
        while alive(pid) and time.monotonic() < deadline:
            time.sleep(0.1)
        say("stopped")
    else:
        say("nothing was running")
    database.stop()
