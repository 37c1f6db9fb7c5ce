"""Out to a retoucher and back."""

from __future__ import annotations

import numpy as np
from fastapi import APIRouter, Request, Response, UploadFile

from true_backdrop.catalog import hand_made, shoots
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.models import Shot
from true_backdrop.core import codec, exchange
from true_backdrop.core.cut.edge import View, resample
from true_backdrop.core.finish.ground import own_shadow
from true_backdrop.core.naming import safe_file_name
from true_backdrop.core.picture import Region, proxy_size
from true_backdrop.jobs.queue import defer_looks
from true_backdrop.web import cut_models, models, present
from true_backdrop.web.dependencies import Blobs, Db
from true_backdrop.web.preview import PreviewDesk
from true_backdrop.web.routers.shots import asked_of

router = APIRouter(prefix="/api", tags=["exchange"])
_PREVIEW_PX = 560


def _identity(shot: Shot, frame_sha256: str) -> exchange.Identity:
    return exchange.Identity(shot.id, frame_sha256, shot.product.code, shot.angle.name)


def _file(data: bytes, media_type: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(data, media_type=media_type, headers=headers)


def _whole(size: tuple[int, ...]) -> Region:
    return Region(0, 0, int(size[0]), int(size[1]))


@router.get("/shots/{shot_id}/out.ora", response_class=Response, responses={200: {"content": {"image/openraster": {}}}})
def send_out(shot_id: int, request: Request, db: Db) -> Response:
    """The shot as OpenRaster: product, shadow and backdrop as layers, at the frame's own size."""
    shot = shoots.get_shot(db, shot_id)
    name = safe_file_name(f"{shot.product.code}_{shot.angle.name}")
    asked, _ = asked_of(db, shot_id, None, None)
    desk: PreviewDesk = request.app.state.desk
    _, decision, cut, behind = desk.whole(asked)
    size = (int(cut.alpha.shape[0]), int(cut.alpha.shape[1]))
    view = View(_whole(size), size, size)
    outline = decision.outline
    painted = None if outline.by_hand is None else outline.by_hand.shadow
    light = resample(own_shadow(outline.shadow, 1.0, outline.product, painted), view, covers=outline.covers)
    identity = _identity(shot, asked.source.frame.sha256)
    return _file(exchange.open_raster(cut.alpha, cut.foreground, light, behind, identity), "image/openraster", f"{name}.ora")


@router.get("/shots/{shot_id}/out-matte.png", response_class=Response, responses={200: {"content": {"image/png": {}}}})
def send_matte_out(shot_id: int, request: Request, db: Db) -> Response:
    """The matte alone, 16 bits."""
    shot = shoots.get_shot(db, shot_id)
    name = safe_file_name(f"{shot.product.code}_{shot.angle.name}_matte")
    asked, _ = asked_of(db, shot_id, None, None)
    _, _, cut, _ = request.app.state.desk.whole(asked)
    return _file(exchange.matte_png(cut.alpha, _identity(shot, asked.source.frame.sha256)), "image/png", f"{name}.png")


@router.post("/shots/{shot_id}/back", status_code=201)
def come_back(shot_id: int, file: UploadFile, db: Db, blobs: Blobs) -> cut_models.CameBack:
    """A matte or a retouched picture for this very shot."""
    shot = shoots.get_shot(db, shot_id)
    return _taken_back(db, blobs, shot.shoot_id, file, shot)


@router.post("/shoots/{shoot_id}/back", status_code=201)
def come_back_by_name(shoot_id: int, file: UploadFile, db: Db, blobs: Blobs) -> cut_models.CameBack:
    """The same, to the shot that the file names."""
    shoots.get_shoot(db, shoot_id)
    return _taken_back(db, blobs, shoot_id, file, None)


def _taken_back(db: Db, blobs: Blobs, shoot_id: int, file: UploadFile, shot: Shot | None) -> cut_models.CameBack:
    name, data = file.filename or "file without a name", file.file.read()
    came = exchange.returned(data, name)
    shot = shot or hand_made.shot_for(db, shoot_id, name, came)
    whole = _whole(came.made.opacity.shape)
    seen = came.made.seen(whole, proxy_size(whole.height, whole.width, _PREVIEW_PX)).alpha
    grey = np.repeat(np.round(seen * 255).astype(np.uint8)[..., None], 3, axis=2)
    hand_made.bring_back(db, blobs, shot, name, data, came, codec.encode_preview(grey))
    defer_looks(db, [shot.id])
    announce(db, shoot_id, "frames")
    return cut_models.CameBack(
        shot_id=shot.id, shot=f"{shot.product.code} {shot.angle.name}", retouched=came.made.retouched is not None
    )


@router.delete("/shots/{shot_id}/back")
def give_up(shot_id: int, db: Db) -> models.ShotPublic:
    """The program's own cut again."""
    shot = shoots.get_shot(db, shot_id)
    hand_made.give_up(db, shot)
    defer_looks(db, [shot.id])
    announce(db, shot.shoot_id, "frames")
    return present.shot_public(present.ShootView(db, shot.shoot_id), shot)
