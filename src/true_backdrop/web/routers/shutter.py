"""The shutter, and what is chosen at the table for a shot."""

from __future__ import annotations

from fastapi import APIRouter

from true_backdrop.catalog import frames, series, shoots, spins, taking
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.errors import Conflict
from true_backdrop.catalog.models import FocusSeries, Frame, Shot
from true_backdrop.jobs.queue import defer_looks
from true_backdrop.web import models, present, shutter, studio_models
from true_backdrop.web.dependencies import Blobs, Db
from true_backdrop.web.proposals import proposal_for
from true_backdrop.web.routers.studio import Desk, steps_between

router = APIRouter(prefix="/api/shots", tags=["studio"])


def _hold(desk: Desk, order: studio_models.ShutterOrder) -> None:
    if not desk.hold(order.client, take_over=order.take_over):
        raise Conflict("another window holds the shutter; take it over first")


@router.post("/{shot_id}/release", status_code=201)
def release(shot_id: int, order: studio_models.ReleaseOrder, desk: Desk, db: Db, blobs: Blobs) -> studio_models.Released:
    """Press the shutter. The file is in the store before anything else happens to it."""
    shot = shoots.get_shot(db, shot_id)
    _hold(desk, order)
    frame = shutter.take(desk, db, blobs, shot, order.kind)
    return studio_models.Released(
        frame=present.frame_public(frame), shot=present.shot_public(present.ShootView(db, shot.shoot_id), shot)
    )


@router.post("/{shot_id}/collect")
def collect(shot_id: int, desk: Desk, db: Db, blobs: Blobs) -> list[models.FramePublic]:
    """Bring in what lies on the camera's card."""
    shot = shoots.get_shot(db, shot_id)
    return [present.frame_public(frame) for frame in shutter.collect(desk, db, blobs, shot.shoot_id)]


@router.post("/{shot_id}/series", status_code=201)
def shoot_series(shot_id: int, order: studio_models.SeriesOrder, desk: Desk, db: Db, blobs: Blobs) -> studio_models.SeriesPublic:
    """Shoot a focus series, or go on with the one that was broken off (without points)."""
    shot = shoots.get_shot(db, shot_id)
    _hold(desk, order)
    if order.near_mm is None or order.far_mm is None:
        unfinished = series.unfinished_of(db, shot_id)
        if not unfinished:
            raise Conflict("no focus series of this shot was broken off; mark a near and a far point")
        made = unfinished[0]
    else:
        made = series.begin_series(db, shot, steps_between(desk.studio.status(), order.near_mm, order.far_mm))
        db.commit()
    shutter.shoot_series(desk, db, blobs, made)
    return _series_public(db, made)


@router.post("/{shot_id}/spin", status_code=201)
def shoot_spin(shot_id: int, order: studio_models.ShutterOrder, desk: Desk, db: Db, blobs: Blobs) -> studio_models.SpinShot:
    """Shoot every position of this shot's spin that has no take yet."""
    shot = shoots.get_shot(db, shot_id)
    if shot.angle.spin is None:
        raise Conflict(f"the angle {shot.angle.name} is no spin")
    if desk.studio.status().turntable is None:
        raise Conflict("there is no turntable; turn the product by hand and press the shutter for each position")
    _hold(desk, order)
    shots = list(spins.spin_shots(db, shot.shoot_id, shot.product.code, shot.angle.spin))
    taken = shutter.shoot_spin(desk, db, blobs, shots)
    return studio_models.SpinShot(positions=len(shots), taken=taken)


@router.put("/{shot_id}/take")
def choose_take(shot_id: int, wanted: studio_models.TakeChoice, db: Db) -> models.ShotPublic:
    """Choose another take of a shot; it is looked at again."""
    shot, frame = shoots.get_shot(db, shot_id), frames.get_frame(db, wanted.frame_id)
    if frame.shot_id != shot.id or frame.kind != "product":
        raise Conflict(f"{frame.file_name} is no take of this shot")
    shot.frame_id = frame.id
    db.flush()
    defer_looks(db, [shot.id])
    announce(db, shot.shoot_id, "frames")
    db.expire_all()
    return present.shot_public(present.ShootView(db, shot.shoot_id), shot)


@router.put("/{shot_id}/guide")
def choose_guide(shot_id: int, wanted: studio_models.GuideChoice, db: Db) -> studio_models.NextShot:
    """Make a take the placement guide of this shot's angle."""
    shot = shoots.get_shot(db, shot_id)
    if wanted.frame_id is not None:
        frames.get_frame(db, wanted.frame_id)
    shot.angle.guide_id = wanted.frame_id
    db.flush()
    announce(db, shot.shoot_id, "guide")
    return _next(db, shot)


@router.put("/{shot_id}/stands-as")
def stand_as(shot_id: int, wanted: studio_models.StandsAs, db: Db) -> studio_models.NextShot:
    """The camera stands for this shot's angle as it does for another: they share backdrop frames."""
    shot = shoots.get_shot(db, shot_id)
    defer_looks(db, taking.stand_as(db, shot, wanted.angle_id))
    announce(db, shot.shoot_id, "frames")
    db.expire_all()
    return _next(db, shoots.get_shot(db, shot_id))


@router.put("/{shot_id}/skip")
def skip_shot(shot_id: int, wanted: studio_models.SkipChoice, db: Db) -> models.ShotPublic:
    shot = shoots.get_shot(db, shot_id)
    shot.skipped = wanted.skipped
    db.flush()
    announce(db, shot.shoot_id, "plan")
    return present.shot_public(present.ShootView(db, shot.shoot_id), shot)


@router.get("/{shot_id}/at-table")
def at_table(shot_id: int, db: Db) -> studio_models.NextShot:
    """All that is needed at the table for one shot."""
    return _next(db, shoots.get_shot(db, shot_id))


def _next(db: Db, shot: Shot) -> studio_models.NextShot:
    view = present.ShootView(db, shot.shoot_id)
    guide = frames.get_frame(db, shot.angle.guide_id) if shot.angle.guide_id else None
    backdrop = view.backdrops.of(shot)
    return studio_models.NextShot(
        shot=present.shot_public(view, shot),
        guide=_guide_public(guide) if guide else None,
        backdrop=present.frame_public(backdrop) if backdrop else None,
        takes=[present.frame_public(frame) for frame in frames.takes_of_shot(db, shot.id)],
        series=_series_public(db, latest) if (latest := series.latest_series(db, shot.id)) else None,
        proposal=proposal_for(view, shot),
        stands_as=shot.angle.stands_as_id,
        other_views=[
            studio_models.OtherView(angle_id=angle.id, name=angle.name)
            for angle in view.shoot.angles
            if angle.spin is None and angle.stands_as_id is None and angle.id != shot.angle_id
        ],
    )


def _series_public(db: Db, made: FocusSeries) -> studio_models.SeriesPublic:
    return studio_models.SeriesPublic(
        id=made.id,
        steps=[float(step) for step in made.steps],
        slices=len(series.slices_of(db, made.id)),
        state=made.state,
        problem=made.problem,
    )


def _guide_public(frame: Frame) -> studio_models.GuidePublic:
    where = f"/api/frames/{frame.id}"
    return studio_models.GuidePublic(frame=present.frame_public(frame), view=f"{where}/view", outline=f"{where}/outline")


of_shoot = APIRouter(prefix="/api/shoots", tags=["studio"])


@of_shoot.put("/{shoot_id}/expected", status_code=204)
def expect(shoot_id: int, wanted: studio_models.Expected, db: Db) -> None:
    """Say what the next file of the watched folder will be."""
    taking.expect(db, shoots.get_shoot(db, shoot_id), wanted.shot_id, wanted.kind)


@of_shoot.get("/{shoot_id}/latest-take")
def latest_take(shoot_id: int, db: Db) -> studio_models.LatestTake:
    """The shot that got the newest take, from whichever source."""
    return studio_models.LatestTake(shot_id=frames.latest_taken_shot(db, shoot_id))


@of_shoot.post("/{shoot_id}/spins", status_code=201)
def add_spin(shoot_id: int, wanted: studio_models.SpinCreate, db: Db) -> models.ShootPublic:
    spins.add_spin(db, shoot_id, wanted.name.strip(), wanted.positions, wanted.codes)
    announce(db, shoot_id, "plan")
    db.expire_all()
    return present.shoot_public(db, shoot_id)


guides = APIRouter(prefix="/api/guides", tags=["studio"])


@guides.get("")
def list_guides(db: Db) -> list[studio_models.KnownGuide]:
    """Guides of every shoot, the newest shoots first: any of them may serve another shoot."""
    return [
        studio_models.KnownGuide(shoot=shoot.name, angle=angle.name, guide=_guide_public(frame))
        for shoot, angle, frame in shoots.guides(db)
    ]


routers = (router, of_shoot, guides)
