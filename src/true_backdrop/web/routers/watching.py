"""The watched folder of a shoot."""

from __future__ import annotations

from typing import cast

from fastapi import APIRouter, Request

from true_backdrop.catalog import shoots, taking, watched
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.models import Frame, Shot, TakenFile
from true_backdrop.web import present, studio_models
from true_backdrop.web.dependencies import Db
from true_backdrop.web.folder_watch import FolderWatch

router = APIRouter(prefix="/api/shoots", tags=["studio"])


@router.get("/{shoot_id}/watch")
def read_watch(shoot_id: int, request: Request, db: Db) -> studio_models.WatchPublic:
    shoot, watch = shoots.get_shoot(db, shoot_id), _watch(request)
    view = present.ShootView(db, shoot_id)
    expected = taking.expected_shot(shoot, view.shots)
    return studio_models.WatchPublic(
        folder=shoot.watched_folder,
        trouble=watch.trouble.get(shoot_id),
        taken=watched.count_taken(db, shoot_id),
        latest=[_file(db, row) for row in watched.taken_files(db, shoot_id)],
        expected_shot=present.shot_public(view, expected) if expected else None,
        expected_kind=cast(studio_models.TakeKind, shoot.expected_kind),
    )


@router.put("/{shoot_id}/watch")
def change_watch(shoot_id: int, wanted: studio_models.WatchOrder, request: Request, db: Db) -> studio_models.WatchPublic:
    """Watch a folder of the machine that the program runs on, or no longer."""
    watched.watch_folder(db, shoots.get_shoot(db, shoot_id), wanted.folder)
    announce(db, shoot_id, "watch")
    return read_watch(shoot_id, request, db)


def _watch(request: Request) -> FolderWatch:
    found: FolderWatch = request.app.state.folder_watch
    return found


def _file(db: Db, row: TakenFile) -> studio_models.WatchedFile:
    frame = db.get(Frame, row.frame_id) if row.frame_id else None
    shot = db.get(Shot, frame.shot_id) if frame and frame.shot_id else None
    said = f"{shot.product.code} {shot.angle.name}" if shot else ("empty set" if frame and frame.kind == "backdrop" else None)
    return studio_models.WatchedFile(name=row.name, problem=row.problem, shot=said, taken_at=row.created_at)
