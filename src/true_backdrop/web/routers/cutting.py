"""Work at the station Cut: touches, the chart of the set, mattes at any value, carrying, accepting."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Path, Query, Response
from fastapi.responses import StreamingResponse

from true_backdrop.catalog import shoots, treatments
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.errors import Conflict
from true_backdrop.core import codec
from true_backdrop.core.cut.levels import Risk, chart, product_at, risk
from true_backdrop.core.treatment import Touch
from true_backdrop.web import cut_models, models, present
from true_backdrop.web.dependencies import Blobs, Db

router = APIRouter(prefix="/api", tags=["cut"])
KEPT = {"Cache-Control": "private, max-age=31536000, immutable"}
#: A line of the stream tells the chart of so many more shots than the one before.
_SHOTS_A_LINE = 25

_WORDS = {"product": "product here", "backdrop": "backdrop here", "shadow": "shadow back", "no_shadow": "shadow away"}


@router.post("/shots/{shot_id}/touches", status_code=201)
def touch(shot_id: int, stroke: Touch, db: Db) -> cut_models.TouchAdded:
    """Add a touch to those of a shot; it is undone like any other change."""
    shot = shoots.get_shot(db, shot_id)
    strokes = (*treatments.treatment_of(db, shot).touches.strokes, stroke)
    section = {"strokes": [each.model_dump() for each in strokes]}
    row = treatments.set_sections(db, shot.shoot_id, shot.id, {"touches": section}, _WORDS[stroke.kind])
    announce(db, shot.shoot_id, "treatment")
    return cut_models.TouchAdded(strokes=len(strokes), revision=row.id)


@router.post("/shots/{shot_id}/accept")
def accept(shot_id: int, wanted: cut_models.Acceptance, db: Db) -> models.ShotPublic:
    """Say that this very cut is good, or no longer; any change of it asks anew."""
    shot = shoots.get_shot(db, shot_id)
    view = present.ShootView(db, shot.shoot_id)
    cut = view.cuts.get(shot_id)
    if wanted.accepted and (cut is None or not view.cut_holds(shot)):
        raise Conflict(f"{shot.product.code} {shot.angle.name} has not been cut with these settings yet; run it first")
    shot.accepted_key = cut.key if cut and wanted.accepted else None
    db.flush()
    announce(db, shot.shoot_id, "shot")
    return present.shot_public(view, shot)


@router.post("/shots/{shot_id}/carry-preview")
def preview_carrying(shot_id: int, wanted: cut_models.CarryRequest, db: Db) -> list[cut_models.CarryChange]:
    """What carrying would change, shot by shot, before it is done."""
    found = treatments.carrying(
        db, shoots.get_shot(db, shot_id), wanted.targets, wanted.sections, replace_by_hand=wanted.replace_by_hand
    )
    return [
        cut_models.CarryChange(
            shot_id=each.shot.id,
            code=each.shot.product.code,
            angle=each.shot.angle.name,
            changes=list(each.changes),
            kept=list(each.kept),
        )
        for each in found
    ]


@router.post("/shots/{shot_id}/carry")
def carry(shot_id: int, wanted: cut_models.CarryRequest, db: Db) -> cut_models.BatchDone:
    shot = shoots.get_shot(db, shot_id)
    count, batch = treatments.carry(db, shot, wanted.targets, wanted.sections, replace_by_hand=wanted.replace_by_hand)
    announce(db, shot.shoot_id, "treatment")
    return cut_models.BatchDone(shots=count, batch=batch)


@router.post("/shoots/{shoot_id}/match")
def give_match(shoot_id: int, wanted: cut_models.MatchForMany, db: Db) -> cut_models.BatchDone:
    """A backdrop match of their own for chosen shots, for an angle or for a material."""
    if wanted.shot_ids is None and wanted.angle is None and wanted.material is None:
        raise Conflict("say which shots: chosen ones, those of an angle, or those of a material")
    chosen = [
        shot
        for shot in shoots.shots_of(db, shoot_id)
        if (wanted.shot_ids is None or shot.id in set(wanted.shot_ids))
        and (wanted.angle is None or wanted.angle in (shot.angle.name, shot.angle.spin))
        and (wanted.material is None or shot.product.material == wanted.material)
    ]
    if not chosen:
        raise Conflict("no shot of this shoot is meant by that")
    count, batch = treatments.give_match(db, chosen, wanted.match)
    announce(db, shoot_id, "treatment")
    return cut_models.BatchDone(shots=count, batch=batch)


@router.post("/shoots/{shoot_id}/take-batch-back")
def take_batch_back(shoot_id: int, wanted: cut_models.BatchName, db: Db) -> cut_models.BatchBack:
    back, stay = treatments.take_batch_back(db, shoot_id, wanted.batch)
    announce(db, shoot_id, "treatment")
    return cut_models.BatchBack(back=back, stay=stay)


@router.get("/shoots/{shoot_id}/tuning", responses={200: {"model": cut_models.Tuning, "content": {"application/x-ndjson": {}}}})
def tune(
    shoot_id: int,
    db: Db,
    blobs: Blobs,
    angle: Annotated[str | None, Query()] = None,
    material: Annotated[str | None, Query()] = None,
) -> StreamingResponse:
    """The chart of the set as it is computed: lines of JSON (`Tuning`), each of more shots than the one before."""
    view = present.ShootView(db, shoot_id)
    wanted = [
        (shot.id, cut.levels_sha256, cut.match)
        for shot in view.shots
        if (cut := view.cuts.get(shot.id)) is not None
        and shot.frame is not None
        and cut.levels_sha256
        and (angle is None or angle in (shot.angle.name, shot.angle.spin))
        and (material is None or shot.product.material == material)
    ]
    return StreamingResponse(_lines(blobs, wanted), media_type="application/x-ndjson", headers={"Cache-Control": "no-store"})


def _lines(blobs: BlobStore, wanted: list[tuple[int, str, int]]) -> Iterator[str]:
    risks: list[tuple[int, Risk]] = []
    for number, (shot_id, digest, match) in enumerate(wanted, 1):
        risks.append((shot_id, risk(codec.decode_plane(blobs.get(digest)), match)))
        if number % _SHOTS_A_LINE == 0 and number < len(wanted):
            yield _line(risks, len(wanted))
    yield _line(risks, len(wanted))


def _line(risks: list[tuple[int, Risk]], total: int) -> str:
    columns, proposed = chart(risks)
    shown = [cut_models.TuningColumn(match=c.match, leftover=list(c.leftover), lost=list(c.lost)) for c in columns]
    return cut_models.Tuning(done=len(risks), total=total, proposed=proposed, columns=shown).model_dump_json() + "\n"


@router.get("/levels/{digest}", response_class=Response, responses={200: {"content": {"image/png": {}}}})
def matte_at(
    digest: Annotated[str, Path(pattern="^[0-9a-f]{64}$")], match: Annotated[int, Query(ge=0, le=100)], blobs: Blobs
) -> Response:
    """A small matte of a shot at any backdrop match, for the wall while the control moves."""
    product = product_at(codec.decode_plane(blobs.get(digest)), match)
    return Response(codec.encode_plane(product.astype(np.uint8) * np.uint8(255)), media_type="image/png", headers=KEPT)
