"""Runs: start, stop, resume."""

from __future__ import annotations

from fastapi import APIRouter

from true_backdrop.catalog import runs, shoots
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.errors import Conflict
from true_backdrop.catalog.results import get_spec
from true_backdrop.jobs.queue import defer_items
from true_backdrop.web import models, present
from true_backdrop.web.dependencies import Db

router = APIRouter(prefix="/api", tags=["runs"])


@router.post("/shoots/{shoot_id}/runs", status_code=201)
def start(shoot_id: int, wanted: models.RunRequest, db: Db) -> models.RunPublic:
    """Cut and finish shots for outlets: all that have a frame, or the chosen ones."""
    if shoots.get_shoot(db, shoot_id).backdrop_id is None:
        raise Conflict("this shoot has no backdrop frame yet; bring in a frame of the empty set first")
    for outlet in wanted.outlets:
        get_spec(db, outlet)
    runnable = runs.runnable_shots(db, shoot_id)
    chosen = runnable if wanted.shot_ids is None else [shot for shot in runnable if shot in set(wanted.shot_ids)]
    run = runs.start_run(db, shoot_id, chosen, list(dict.fromkeys(wanted.outlets)))
    defer_items(db, runs.waiting_items(db, run.id))
    announce(db, shoot_id, "run")
    return present.run_public(db, run)


@router.get("/runs/{run_id}")
def read(run_id: int, db: Db) -> models.RunPublic:
    return present.run_public(db, runs.get_run(db, run_id))


@router.post("/runs/{run_id}/stop")
def stop(run_id: int, db: Db) -> models.RunPublic:
    run = runs.get_run(db, run_id)
    runs.stop_run(db, run)
    announce(db, run.shoot_id, "run")
    return present.run_public(db, run)


@router.post("/runs/{run_id}/resume")
def resume(run_id: int, db: Db) -> models.RunPublic:
    run = runs.get_run(db, run_id)
    defer_items(db, runs.resume_run(db, run))
    announce(db, run.shoot_id, "run")
    return present.run_public(db, run)
