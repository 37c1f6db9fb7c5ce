"""Set-ups: the studio's settings under a name."""

from __future__ import annotations

from fastapi import APIRouter

from true_backdrop.catalog import setups, shoots, treatments
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.models import SetUp
from true_backdrop.core.treatment import FramingBox
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
        framing=FramingBox.model_validate(setup.framing) if setup.framing else None,
        locked=setup.locked,
    )


@router.get("")
def list_setups(db: Db) -> list[studio_models.SetUpPublic]:
    return [_setup_public(setup) for setup in setups.list_setups(db)]


@router.post("", status_code=201)
def save_setup(wanted: studio_models.SetUpName, desk: Desk, db: Db) -> studio_models.SetUpPublic:
    """Save the studio's present settings, and the framing box of a shoot, under a name."""
    status, box = desk.studio.status(), _framing(db, wanted.shoot_id)
    saved = setups.save_setup(db, wanted.name.strip(), status.camera.model_dump(), status.lamps.model_dump(), box)
    return _setup_public(saved)


def _framing(db: Db, shoot_id: int | None) -> dict[str, float] | None:
    box = treatments.shoot_treatment(db, shoot_id).cut.framing if shoot_id else None
    return box.model_dump() if box else None


@router.put("/{setup_id}")
def change_setup(setup_id: int, wanted: studio_models.SetUpChange, desk: Desk, db: Db) -> studio_models.SetUpPublic:
    setup = setups.get_setup(db, setup_id)
    if wanted.locked is not None:
        setup.locked = wanted.locked
    if wanted.renew:
        status = desk.studio.status()
        box = _framing(db, wanted.shoot_id)
        setups.renew_setup(db, setup, status.camera.model_dump(), status.lamps.model_dump(), box)
    db.flush()
    return _setup_public(setup)


@router.post("/{setup_id}/recall")
def recall_setup(setup_id: int, desk: Desk, db: Db, shoot_id: int | None = None) -> studio_models.StudioPublic:
    """Set camera and lamps as they were saved, and the framing box of a shoot."""
    setup = _setup_public(setups.get_setup(db, setup_id))
    if shoot_id is not None and setup.framing is not None:
        set_framing(db, shoot_id, setup.framing)
    desk.studio.set_lamps(setup.lamps)
    return studio_public(desk.studio.set_camera(setup.camera))


@router.delete("/{setup_id}", status_code=204)
def remove_setup(setup_id: int, db: Db) -> None:
    setups.remove_setup(db, setups.get_setup(db, setup_id))


of_shoot = APIRouter(prefix="/api/shoots", tags=["studio"])


@of_shoot.put("/{shoot_id}/framing", status_code=204)
def change_framing(shoot_id: int, wanted: studio_models.FramingChoice, db: Db) -> None:
    """Set the framing box of a shoot."""
    set_framing(db, shoot_id, wanted.framing)


def set_framing(db: Db, shoot_id: int, framing: FramingBox | None) -> None:
    cut = treatments.shoot_treatment(db, shoot_id).cut.model_copy(update={"framing": framing})
    said = "framing box set" if framing else "framing box taken away"
    treatments.set_sections(db, shoots.get_shoot(db, shoot_id).id, None, {"cut": cut.model_dump()}, said)
    announce(db, shoot_id, "treatment")


routers = (router, of_shoot)
