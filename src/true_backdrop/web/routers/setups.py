"""Set-ups: the studio's settings under a name."""

from __future__ import annotations

from fastapi import APIRouter

from true_backdrop.catalog import setups
from true_backdrop.catalog.models import SetUp
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.web import studio_models
from true_backdrop.web.dependencies import Db
from true_backdrop.web.routers.studio import Desk, studio_public

router = APIRouter(prefix="/api/setups", tags=["studio"])


def _setup_public(setup: SetUp) -> studio_models.SetUpPublic:
    return studio_models.SetUpPublic(
        id=setup.id,
        name=setup.name,
        camera=CameraSettings.model_validate(setup.camera),
        lamps=LampSettings.model_validate(setup.lamps),
        locked=setup.locked,
    )


@router.get("")
def list_setups(db: Db) -> list[studio_models.SetUpPublic]:
    return [_setup_public(setup) for setup in setups.list_setups(db)]


@router.post("", status_code=201)
def save_setup(wanted: studio_models.SetUpName, desk: Desk, db: Db) -> studio_models.SetUpPublic:
    """Save the studio's present settings under a name."""
    status = desk.studio.status()
    return _setup_public(setups.save_setup(db, wanted.name.strip(), status.camera.model_dump(), status.lamps.model_dump()))


@router.put("/{setup_id}")
def change_setup(setup_id: int, wanted: studio_models.SetUpChange, desk: Desk, db: Db) -> studio_models.SetUpPublic:
    setup = setups.get_setup(db, setup_id)
    if wanted.locked is not None:
        setup.locked = wanted.locked
    if wanted.renew:
        status = desk.studio.status()
        setups.renew_setup(db, setup, status.camera.model_dump(), status.lamps.model_dump())
    db.flush()
    return _setup_public(setup)


@router.post("/{setup_id}/recall")
def recall_setup(setup_id: int, desk: Desk, db: Db) -> studio_models.StudioPublic:
    """Set camera and lamps as they were saved."""
    setup = _setup_public(setups.get_setup(db, setup_id))
    desk.studio.set_lamps(setup.lamps)
    return studio_public(desk.studio.set_camera(setup.camera))


@router.delete("/{setup_id}", status_code=204)
def remove_setup(setup_id: int, db: Db) -> None:
    setups.remove_setup(db, setups.get_setup(db, setup_id))
