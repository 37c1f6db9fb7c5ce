"""The application: only assembly."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Annotated

import cv2
from fastapi import FastAPI, Path
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from sqlalchemy import text

from true_backdrop.settings import settings
from true_backdrop.web import errors, models
from true_backdrop.web.dependencies import Blobs, Db, blob_store
from true_backdrop.web.events import Announcer
from true_backdrop.web.folder_watch import FolderWatch
from true_backdrop.web.live_reading import LiveReader
from true_backdrop.web.preview import THREADS, PreviewDesk
from true_backdrop.web.routers import cutting, exchange, outlets, runs, setups, shoots, shots, shutter, studio, watching
from true_backdrop.web.security import GuardMiddleware
from true_backdrop.web.studio_desk import StudioDesk

FOREVER = {"Cache-Control": "public, max-age=31536000, immutable"}


@asynccontextmanager
async def _running(app: FastAPI) -> AsyncIterator[None]:
    cv2.setNumThreads(THREADS)
    app.state.announcer = Announcer(settings().libpq_url)
    await app.state.announcer.start()
    app.state.studio.start()
    app.state.folder_watch.start()
    yield
    await app.state.folder_watch.stop()
    app.state.studio.stop()
    await app.state.announcer.stop()


def create_app() -> FastAPI:
    """The whole web application."""
    app = FastAPI(
        title="True Backdrop", version="1", lifespan=_running, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json"
    )
    app.state.desk = PreviewDesk(blob_store(), settings().preview_cache)
    app.state.studio = StudioDesk(settings().studio)
    app.state.live_reader = LiveReader(blob_store())
    app.state.folder_watch = FolderWatch(settings().database_url.get_secret_value(), blob_store())
    app.add_middleware(GuardMiddleware)
    errors.install(app)
    of_shoots = (
        shoots.router,
        shoots.change,
        shots.router,
        shots.of_shoot,
        runs.router,
        outlets.router,
        cutting.router,
        exchange.router,
    )
    for router in (*of_shoots, studio.router, *shutter.routers, *setups.routers, watching.router):
        app.include_router(router)

    @app.get("/api/health", tags=["health"])
    def health(db: Db) -> models.Health:
        db.execute(text("select 1"))
        return models.Health(database=True)

    @app.get("/api/pictures/{digest}", tags=["pictures"], response_class=Response)
    def picture(digest: Annotated[str, Path(pattern="^[0-9a-f]{64}$")], blobs: Blobs) -> Response:
        """A small picture or a finished file, by the digest of its bytes: it never changes."""
        data = blobs.get(digest)
        kind = "image/png" if data[:4] == b"\x89PNG" else "image/jpeg"
        return Response(data, media_type=kind, headers=FOREVER)

    built = settings().frontend
    if (built / "index.html").is_file():
        app.mount("/assets", StaticFiles(directory=built / "assets"))

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> Response:
            if path.startswith("api/"):
                return errors.problem(404, "Http", "there is nothing at this address")
            return FileResponse(built / "index.html", headers={"Cache-Control": "no-cache"})

    return app
