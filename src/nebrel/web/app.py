"""Putting the application together."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import FileResponse, JSONResponse, PlainTextResponse, Response
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Receive, Scope, Send

from nebrel import __version__
from nebrel.core.errors import NotFound
from nebrel.store import Store
from nebrel.web import errors
from nebrel.web.begin_routes import router as begin_router
from nebrel.web.desk import Desk, Elsewhere
from nebrel.web.entry import Entry
from nebrel.web.errors import respond
from nebrel.web.figure_routes import router as figure_router
from nebrel.web.guard import Guard
from nebrel.web.heights_routes import router as heights_router
from nebrel.web.light_routes import router as light_router
from nebrel.web.maker_routes import router as maker_router
from nebrel.web.picture_routes import router as picture_router
from nebrel.web.routes import router
from nebrel.web.workshop_routes import router as workshop_router

STATIC = Path(__file__).parent / "static"
_MOST_UPLOAD = 520_000_000


def create_app(
    store: Store | None,
    host: str = "127.0.0.1",
    warm: bool = False,
    elsewhere: Elsewhere | None = None,
    token: str = "",
) -> FastAPI:
    """The application on a store; without one only its description can be read.

    Parameters
    ----------
    store : the open data folder
    host : the address that the server listens on, for the guard at the door
    warm : whether what answers first is made ready at once
    elsewhere : who does long work instead of processes of this machine
    token : what whoever comes in has to show; nothing when empty
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        if store is None:
            yield
            return
        app.state.desk = Desk(store, elsewhere)
        if warm:
            app.state.desk.warm()
        try:
            yield
        finally:
            app.state.desk.close()

    app = FastAPI(
        title="Nebrel",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
    )
    errors.install(app)
    # Made in a thread: it takes a second, and all else waits for what answers by itself.
    app.add_api_route(
        "/api/openapi.json", lambda: JSONResponse(app.openapi()), include_in_schema=False
    )
    app.include_router(begin_router)  # before those that take any piece
    app.include_router(router)
    app.include_router(picture_router)
    app.include_router(heights_router)
    app.include_router(light_router)
    app.include_router(workshop_router)
    app.include_router(maker_router)
    app.include_router(figure_router)
    app.mount("/", GZipMiddleware(FrontEnd(), minimum_size=500))
    if token:
        app.add_middleware(Entry, token=token)
    app.add_middleware(Guard, host=host, most_bytes=_MOST_UPLOAD)
    return app


class _Assets(StaticFiles):
    """What the build names by its content: a browser need never ask for it again."""

    def file_response(self, *given: Any, **named: Any) -> Response:
        """A file, to be kept."""
        found = super().file_response(*given, **named)
        found.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return found


class FrontEnd:
    """The built front end; every path of the application answers with its one page."""

    def __init__(self) -> None:
        self._files = _Assets(directory=STATIC) if STATIC.is_dir() else None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve a file, or the page."""
        response: Response
        path = scope.get("path", "")
        if path.startswith("/api/"):
            await respond(NotFound("address", "there is nothing here", "See /api/openapi.json"))(
                scope, receive, send
            )
            return
        if self._files is None:
            response = PlainTextResponse("The front end is not built yet: run make demo.", 503)
        elif path.startswith("/assets/"):
            await self._files(scope, receive, send)
            return
        elif (STATIC / "favicon.svg").exists() and path == "/favicon.svg":
            response = FileResponse(STATIC / "favicon.svg")
        else:
            response = FileResponse(STATIC / "index.html", headers={"Cache-Control": "no-cache"})
        await response(scope, receive, send)
