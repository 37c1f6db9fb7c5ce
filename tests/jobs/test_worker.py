"""Real worker processes: they finish a run, and a killed one loses and doubles nothing."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.scenes import jpeg, scene
from true_backdrop.catalog import frames, runs, shoots
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import transaction
from true_backdrop.catalog.models import Cut, Rendition
from true_backdrop.core.product_list import parse_product_list
from true_backdrop.jobs.queue import defer_items
from true_backdrop.settings import Settings

SHOTS = 6


def start_worker(log: Path) -> subprocess.Popen[bytes]:
    with log.open("ab") as out:
        return subprocess.Popen(
            [sys.executable, "-m", "true_backdrop.jobs.worker"], stdout=out, stderr=out, env=os.environ.copy()
        )


def end(worker: subprocess.Popen[bytes]) -> None:
    worker.terminate()
    try:
        worker.wait(20)
    except subprocess.TimeoutExpired:
        worker.kill()
        worker.wait()


def make_run(config: Settings) -> tuple[int, int]:
    url, blobs, made = config.database_url.get_secret_value(), BlobStore(config.blob_url), scene()
    with transaction(url) as session:
        shoot = shoots.create_shoot(session, "Run")
        shoots.add_products(session, shoot.id, parse_product_list("\n".join(f"P{n}" for n in range(SHOTS))).products)
        frames.add_frame(session, blobs, shoot.id, frames.check_frame("backdrop.jpg", jpeg(made.backdrop)))
        for n in range(SHOTS):
            frames.add_frame(session, blobs, shoot.id, frames.check_frame(f"P{n}_front.jpg", jpeg(scene(seed=20 + n).frame)))
        run = runs.start_run(session, shoot.id, runs.runnable_shots(session, shoot.id), ["kiosk-nine"])
        defer_items(session, runs.waiting_items(session, run.id))
        return shoot.id, run.id


def done(url: str, run_id: int) -> int:
    with transaction(url) as session:
        progress = runs.progress_of(session, runs.get_run(session, run_id))
        return progress.done + progress.failed


def wait_for(url: str, run_id: int, count: int, seconds: float) -> None:
    deadline = time.monotonic() + seconds
    while done(url, run_id) < count:
        if time.monotonic() > deadline:
            pytest.fail(f"{done(url, run_id)} of {count} shots after {seconds:.0f} s")
        time.sleep(0.1)


def test_a_killed_worker_loses_and_doubles_nothing(config: Settings, tmp_path: Path) -> None:
    url, log = config.database_url.get_secret_value(), tmp_path / "worker.log"
    _, run_id = make_run(config)
    first = start_worker(log)
    wait_for(url, run_id, 1, 60)
    first.send_signal(signal.SIGKILL)  # in the middle of a shot
    first.wait()
    second = start_worker(log)
    try:
        wait_for(url, run_id, SHOTS, 90)
    finally:
        end(second)
    with transaction(url) as session:
        assert runs.get_run(session, run_id).state == "done"
        assert session.query(Cut).count() == SHOTS
        assert session.query(Rendition).count() == SHOTS


def test_a_run_can_be_stopped_and_resumed(config: Settings, tmp_path: Path) -> None:
    url = config.database_url.get_secret_value()
    _, run_id = make_run(config)
    with transaction(url) as session:
        runs.stop_run(session, runs.get_run(session, run_id))
    worker = start_worker(tmp_path / "worker.log")
    try:
        time.sleep(4)
        assert done(url, run_id) == 0
        with transaction(url) as session:
            defer_items(session, runs.resume_run(session, runs.get_run(session, run_id)))
        wait_for(url, run_id, SHOTS, 60)
    finally:
        end(worker)
