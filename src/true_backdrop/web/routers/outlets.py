"""Outlets, sheets and deliveries."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response
from fastapi.responses import PlainTextResponse

from true_backdrop.catalog import results, shoots
from true_backdrop.catalog.blobs import BlobStore
from true_backdrop.catalog.database import announce
from true_backdrop.catalog.errors import Conflict, Missing
from true_backdrop.catalog.models import Delivery
from true_backdrop.core.naming import safe_file_name
from true_backdrop.core.spec import Spec
from true_backdrop.outlets.archive import archive
from true_backdrop.outlets.folder import OutgoingFile, deliver
from true_backdrop.outlets.report import report
from true_backdrop.settings import settings
from true_backdrop.web import models, present
from true_backdrop.web.dependencies import Blobs, Db

router = APIRouter(prefix="/api", tags=["outlets"])
REPORT = "report.csv"


@router.get("/outlets")
def list_outlets(db: Db) -> list[models.OutletPublic]:
    return [models.OutletPublic(**row.spec, shipped=row.shipped) for row in results.list_outlets(db)]


@router.post("/outlets", status_code=201)
def add_outlet(spec: Spec, db: Db) -> Spec:
    """Add an outlet."""
    results.add_outlet(db, spec)
    return spec


@router.put("/outlets/{name}")
def change_outlet(name: str, spec: Spec, db: Db) -> Spec:
    """Give an outlet made by hand other rules."""
    results.change_outlet(db, name, spec)
    return spec


@router.delete("/outlets/{name}", status_code=204)
def remove_outlet(name: str, db: Db) -> None:
    """Remove an outlet made by hand. What was sent stays in its folder."""
    results.remove_outlet(db, name)


@router.get("/shoots/{shoot_id}/sheets/{outlet}")
def read_sheet(shoot_id: int, outlet: str, db: Db) -> models.Sheet:
    return present.sheet(present.ShootView(db, shoot_id), results.get_spec(db, outlet))


@router.post("/shoots/{shoot_id}/deliveries/{outlet}", status_code=201)
def send(shoot_id: int, outlet: str, wanted: models.DeliveryRequest, db: Db, blobs: Blobs) -> models.DeliveryPublic:
    """Lay the chosen pictures and their report in the outlet's folder. Sending again doubles nothing."""
    view = present.ShootView(db, shoot_id)
    sheet = present.sheet(view, results.get_spec(db, outlet))
    rows = [row for row in sheet.rows if row.shot_id in set(wanted.shot_ids)]
    not_ready = [f"{row.code} {row.angle} ({row.state})" for row in rows if row.state not in ("ready", "fails")]
    if not_ready or not rows:
        raise Conflict(f"not ready to go out: {', '.join(not_ready[:5]) or 'nothing chosen'}; run the shoot first")
    files = [_file_entry(view, row, outlet) for row in rows]
    folder = settings().deliveries / f"{shoot_id}-{safe_file_name(view.shoot.name)}" / outlet
    deliver(folder, [*_outgoing(blobs, files), OutgoingFile(REPORT, report(files).encode("utf-8"))])
    row = results.record_delivery(db, shoot_id, outlet, str(folder), files)
    announce(db, shoot_id, "delivery")
    return _public(row)


def _file_entry(view: present.ShootView, row: models.SheetRow, outlet: str) -> dict[str, Any]:
    rendition = view.renditions[row.shot_id, outlet]
    return {
        "file": row.file,
        "code": row.code,
        "name": row.name,
        "angle": row.angle,
        "bytes": rendition.bytes,
        "quality": rendition.quality,
        "verdict": row.verdict,
        "passed": rendition.passed,
        "sha256": rendition.sha256,
        "findings": rendition.findings,
    }


def _outgoing(blobs: BlobStore, files: list[dict[str, Any]]) -> list[OutgoingFile]:
    return [OutgoingFile(file["file"], blobs.get(file["sha256"])) for file in files]


def _public(row: Delivery) -> models.DeliveryPublic:
    return models.DeliveryPublic(id=row.id, outlet=row.outlet, folder=row.folder, created_at=row.created_at, files=row.files)


@router.get("/shoots/{shoot_id}/deliveries")
def list_deliveries(shoot_id: int, db: Db) -> list[models.DeliveryPublic]:
    shoots.get_shoot(db, shoot_id)
    return [_public(row) for row in results.list_deliveries(db, shoot_id)]


def _delivery(db: Db, delivery_id: int) -> Delivery:
    row = db.get(Delivery, delivery_id)
    if row is None:
        raise Missing("delivery", delivery_id)
    return row


@router.get("/deliveries/{delivery_id}/zip", response_class=Response)
def download(delivery_id: int, db: Db, blobs: Blobs) -> Response:
    """A delivery as one archive, exactly as it was sent."""
    row = _delivery(db, delivery_id)
    data = archive([*_outgoing(blobs, row.files), OutgoingFile(REPORT, report(row.files).encode("utf-8"))])
    name = safe_file_name(f"{shoots.get_shoot(db, row.shoot_id).name} {row.outlet}")
    return Response(data, media_type="application/zip", headers={"Content-Disposition": f'attachment; filename="{name}.zip"'})


@router.get("/deliveries/{delivery_id}/report", response_class=PlainTextResponse)
def read_report(delivery_id: int, db: Db) -> PlainTextResponse:
    row = _delivery(db, delivery_id)
    return PlainTextResponse(
        report(row.files),
        media_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{REPORT}"'},
    )
