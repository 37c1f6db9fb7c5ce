"""Shoots, their plan and their frames."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Query, Request, Response, UploadFile
from sse_starlette import EventSourceResponse, ServerSentEvent

from true_backdrop.catalog import frames, shoots
from true_backdrop.catalog.backdrops import backdrop_of
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.taking import next_shot
from true_backdrop.core import codec
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.estimate import estimated_backdrop
from true_backdrop.core.errors import TrueBackdropError
from true_backdrop.core.picture import proxy_size
from true_backdrop.core.placement import CannotTell, outline_drawing, seen
from true_backdrop.core.product_list import parse_product_list
from true_backdrop.web import models, present, studio_models
from true_backdrop.web.dependencies import Blobs, Db

router = APIRouter(prefix="/api/shoots", tags=["shoots"])


@router.get("")
def list_shoots(db: Db) -> list[models.ShootSummary]:
    return [present.summary(db, shoot) for shoot in shoots.list_shoots(db)]


@router.post("", status_code=201)
def create_shoot(new: models.ShootCreate, db: Db) -> models.ShootPublic:
    shoot = shoots.create_shoot(db, new.name.strip(), new.angles)
    return present.shoot_public(db, shoot.id)


@router.get("/{shoot_id}")
def read_shoot(shoot_id: int, db: Db) -> models.ShootPublic:
    return present.shoot_public(db, shoot_id)


@router.get("/{shoot_id}/shots")
def read_board(shoot_id: int, db: Db) -> list[models.ShotPublic]:
    view = present.ShootView(db, shoot_id)
    return [present.shot_public(view, shot) for shot in view.shots]


@router.post("/{shoot_id}/products")
def add_products(shoot_id: int, listed: models.ProductListText, db: Db) -> models.ProductListResult:
    parsed = parse_product_list(listed.text)
    added, renewed = shoots.add_products(db, shoot_id, parsed.products)
    announce(db, shoot_id, "plan")
    return models.ProductListResult(added=added, renewed=renewed, problems=list(parsed.problems))


@router.post("/{shoot_id}/angles", status_code=201)
def add_angle(shoot_id: int, new: models.AngleCreate, db: Db) -> models.ShootPublic:
    shoots.add_angle(db, shoot_id, new.name.strip())
    announce(db, shoot_id, "plan")
    db.expire_all()
    return present.shoot_public(db, shoot_id)


@router.post("/{shoot_id}/frames", status_code=201)
def bring_in_frame(
    shoot_id: int,
    file: UploadFile,
    db: Db,
    blobs: Blobs,
    kind: Annotated[Literal["auto", "product", "backdrop"], Form()] = "auto",
) -> models.FrameReceived:
    """One file. It is decoded to its end before anything is stored; the rest of a drop does not depend on it."""
    shoots.get_shoot(db, shoot_id)
    checked = frames.check_frame(file.filename or "file without a name", file.file.read())
    frame, fresh = frames.add_frame(db, blobs, shoot_id, checked, kind=None if kind == "auto" else kind)
    announce(db, shoot_id, "frames")
    shot = shoots.get_shot(db, frame.shot_id) if frame.shot_id else None
    return models.FrameReceived(
        frame=present.frame_public(frame), fresh=fresh, shot=f"{shot.product.code} {shot.angle.name}" if shot else None
    )


@router.get("/{shoot_id}/next-shot")
def read_next_shot(
    shoot_id: int, db: Db, order: studio_models.ShootingOrder = "product", after: int | None = None
) -> models.ShotPublic | None:
    """The next shot of the list that has no take yet; None when all are shot or skipped."""
    view = present.ShootView(db, shoot_id)
    found = next_shot(view.shots, order, after)
    return present.shot_public(view, found) if found else None


@router.get("/{shoot_id}/events", response_class=EventSourceResponse)
async def listen(shoot_id: int, request: Request) -> EventSourceResponse:
    """Server-sent events; each says what part of the shoot has changed."""
    return EventSourceResponse(request.app.state.announcer.events(shoot_id), ping=15, sep="\n", ping_message_factory=_ping)


def _ping() -> ServerSentEvent:
    return ServerSentEvent(json.dumps({"what": "ping"}), event="ping")


change = APIRouter(prefix="/api/frames", tags=["frames"])
KEPT = {"Cache-Control": "private, max-age=31536000, immutable"}


@change.get("/{frame_id}/view", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
def view_frame(frame_id: int, db: Db, request: Request, width: Annotated[int, Query(ge=100, le=1600)] = 960) -> Response:
    """A frame as large as the live view. It never changes."""
    frame = frames.get_frame(db, frame_id)
    picture = request.app.state.desk.picture(frame.sha256, frame.file_name)
    shown = encode_pixels(picture.linear(size=proxy_size(picture.height, picture.width, width)))
    return Response(codec.encode_preview(shown), media_type="image/jpeg", headers=KEPT)


@change.get("/{frame_id}/outline", response_class=Response, responses={200: {"content": {"image/png": {}}}})
def view_outline(frame_id: int, db: Db, request: Request) -> Response:
    """The product's outline in a frame, as a line on a clear ground: for the placement guide."""
    frame = frames.get_frame(db, frame_id)
    picture = request.app.state.desk.picture(frame.sha256, frame.file_name)
    small = picture.linear(size=proxy_size(picture.height, picture.width, 960))
    behind = backdrop_of(db, shoots.get_shot(db, frame.shot_id)) if frame.shot_id else None
    backdrop = None
    if behind is not None and (behind.height, behind.width) == (frame.height, frame.width):
        backdrop = request.app.state.desk.picture(behind.sha256, behind.file_name).linear(size=small.shape[:2])
    found = seen(small, estimated_backdrop(small) if backdrop is None else backdrop)
    if isinstance(found, CannotTell):
        raise TrueBackdropError(f"{frame.file_name}: {found.reason}")
    line, alpha = outline_drawing(found.product)
    return Response(codec.encode_png(line, alpha=alpha), media_type="image/png", headers={"Cache-Control": "no-cache"})


@change.put("/{frame_id}")
def change_frame(frame_id: int, wanted: models.FrameChange, db: Db) -> models.FramePublic:
    """Match a frame by hand."""
    frame = frames.get_frame(db, frame_id)
    if wanted.kind == "backdrop":
        frames.make_backdrop(db, frame)
    else:
        shoots.give_frame(db, frame, shoots.get_shot(db, wanted.shot_id) if wanted.shot_id else None)
        frame.kind = "product"
        shoot = shoots.get_shoot(db, frame.shoot_id)
        if shoot.backdrop_id == frame.id:
            shoot.backdrop_id = None
    db.flush()
    announce(db, frame.shoot_id, "frames")
    return present.frame_public(frame)
