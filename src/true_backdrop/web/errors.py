"""From exceptions to problem+json (RFC 9457). One table, walked along the class tree."""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from sqlalchemy.exc import InterfaceError, OperationalError
from starlette.exceptions import HTTPException

from true_backdrop.catalog.errors import BlobMissing, Conflict, Missing, StoreFull
from true_backdrop.core.errors import BackdropDoesNotFit, PictureError, PictureTooLarge, TrueBackdropError
from true_backdrop.outlets.errors import DeliveryFailed
from true_backdrop.studio.errors import CardFull, DeviceBusy, DeviceGone, StudioError

log = logging.getLogger("true_backdrop.web")

STATUS: dict[type[TrueBackdropError], int] = {
    Missing: 404,
    Conflict: 409,
    BackdropDoesNotFit: 409,
    BlobMissing: 410,
    PictureTooLarge: 413,
    PictureError: 422,
    StoreFull: 507,
    DeliveryFailed: 507,
    CardFull: 507,
    DeviceGone: 502,
    DeviceBusy: 504,
    StudioError: 409,
    TrueBackdropError: 422,
}


def status_of(fault: TrueBackdropError) -> int:
    """The status of the nearest class in the table."""
    return next(STATUS[kind] for kind in type(fault).__mro__ if kind in STATUS)


def problem(status: int, kind: str, detail: str) -> JSONResponse:
    """A problem+json answer. `kind` is stable, for machines; `detail` is a sentence for a person."""
    body = {"type": f"about:blank#{kind}", "title": kind, "status": status, "detail": detail}
    return JSONResponse(body, status_code=status, media_type="application/problem+json")


def _expected(_: Request, fault: Exception) -> JSONResponse:
    if not isinstance(fault, TrueBackdropError):
        raise fault
    return problem(status_of(fault), type(fault).__name__, str(fault))


def _database_away(_: Request, fault: Exception) -> JSONResponse:
    log.warning("the database does not answer: %s", str(fault).split("\n")[0])
    return problem(
        503, "DatabaseAway", "the database does not answer; nothing is lost, and this page goes on by itself when it is back"
    )


def _invalid(_: Request, fault: Exception) -> JSONResponse:
    if isinstance(fault, RequestValidationError | ValidationError):
        said = "; ".join(
            f"{'.'.join(str(p) for p in e['loc'] if p not in ('body', 'query'))}: {e['msg']}" for e in fault.errors()
        )
        return problem(422, "Invalid", said)
    raise fault


def _http(_: Request, fault: Exception) -> JSONResponse:
    if not isinstance(fault, HTTPException):
        raise fault
    return problem(fault.status_code, "Http", str(fault.detail))


def install(app: FastAPI) -> None:
    app.add_exception_handler(TrueBackdropError, _expected)
    for kind in (OperationalError, InterfaceError):
        app.add_exception_handler(kind, _database_away)
    for invalid in (RequestValidationError, ValidationError):
        app.add_exception_handler(invalid, _invalid)
    app.add_exception_handler(HTTPException, _http)
