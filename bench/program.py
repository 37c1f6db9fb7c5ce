"""The whole program for measurements: database, simulated studio, workers as processes; the web server in this one."""

from __future__ import annotations

import contextlib
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import psycopg
import uvicorn
from fastapi import FastAPI
from tools.launch import database

from true_backdrop.settings import Settings, settings
from true_backdrop.studio.client import RemoteStudio

ROOT = Path(__file__).parents[1]
NAME = "true_backdrop_bench"
WORKERS = 2
#: Workers load their loops when they start.
WARMING_S = 8.0


@dataclass(frozen=True, slots=True)
class Running:
    """The web server's app, its address, and the studio's own line to the device."""

    app: FastAPI
    address: str
    studio: RemoteStudio


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _on_server(port: int, statement: str) -> None:
    libpq = database.url(port, "postgres").replace("postgresql+psycopg://", "postgresql://")
    with psycopg.connect(libpq, autocommit=True) as connection:
        connection.execute(statement)


@contextlib.contextmanager
def _database() -> Iterator[str]:
    port = database.start()
    try:
        _on_server(port, f'drop database if exists "{NAME}" with (force)')
        _on_server(port, f'create database "{NAME}"')
        yield database.url(port, NAME)
        _on_server(port, f'drop database "{NAME}" with (force)')
    finally:
        database.stop()


@contextlib.contextmanager
def _web(port: int) -> Iterator[FastAPI]:
    from true_backdrop.web.app import create_app

    app = create_app()
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="critical", timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.05)
    yield app
    server.should_exit = True
    thread.join(10)


@contextlib.contextmanager
def running(width: int) -> Iterator[Running]:
    """The program with a camera whose pictures are `width` px wide."""
    from true_backdrop.jobs.queue import prepare_database

    studio_port, web_port = _free_port(), _free_port()
    with _database() as url, tempfile.TemporaryDirectory() as folder:
        environment = {
            **os.environ,
            "TRUE_BACKDROP_DATABASE_URL": url,
            "TRUE_BACKDROP_BLOB_URL": f"{folder}/blobs",
            "TRUE_BACKDROP_STUDIO": f"127.0.0.1:{studio_port}",
            "OMP_NUM_THREADS": "1",
        }
        os.environ.update(environment)
        settings.cache_clear()
        prepare_database(Settings())
        layers, card = str(ROOT / "demo" / "layers"), f"{folder}/card"
        device = [
            "studio.simulated.server",
            "--layers",
            layers,
            "--port",
            str(studio_port),
            "--width",
            str(width),
            "--card",
            card,
        ]
        modules = [device, *([["jobs.worker"]] * WORKERS)]
        processes = [
            subprocess.Popen(
                [sys.executable, "-m", f"true_backdrop.{name}", *more], env=environment, cwd=ROOT, stderr=subprocess.DEVNULL
            )
            for name, *more in modules
        ]
        try:
            studio = RemoteStudio("127.0.0.1", studio_port, patience_s=120)
            _until(studio.status)
            time.sleep(WARMING_S)
            with _web(web_port) as app:
                yield Running(app, f"http://127.0.0.1:{web_port}", studio)
        finally:
            for process in processes:
                process.terminate()
                process.wait(20)


def _until(answers: object) -> None:
    deadline = time.monotonic() + 60
    while True:
        try:
            answers()  # type: ignore[operator]
            return
        except Exception:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.2)
