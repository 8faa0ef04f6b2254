"""The door for workers elsewhere: files go out, results and progress come in."""

from __future__ import annotations

import secrets
import threading
from typing import Annotated

import uvicorn
from fastapi import Body, Depends, FastAPI, Path, Request
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool

from nebrel.core.errors import Cancelled, Refused
from nebrel.core.formats.files import writing
from nebrel.web import errors
from nebrel.work.depot import RESULT, FolderDepot, Kind
from nebrel.work.elsewhere import HttpDepot

_Name = Annotated[str, Path(pattern=RESULT)]
_Job = Annotated[str, Path(pattern="^[0-9a-f]{32}$")]


def create_door(depot: FolderDepot, token: str) -> FastAPI:
    """The three routes that `HttpDepot` asks.

    Parameters
    ----------
    token : what a worker has to show
    """

    def check(request: Request) -> None:
        shown = request.headers.get("authorization", "")
        if not secrets.compare_digest(shown.encode(), f"Bearer {token}".encode()):
            raise Refused("worker", "it does not show the token", "Start it by the server")

    app = FastAPI(dependencies=[Depends(check)], openapi_url=None, docs_url=None, redoc_url=None)
    errors.install(app)

    @app.get("/files/{kind}/{name}", response_class=FileResponse)
    def load(kind: Kind, name: _Name) -> FileResponse:
        return FileResponse(depot.load(kind, name))

    @app.put("/results/{name}", status_code=204)
    async def put(request: Request, name: _Name) -> None:
        with depot.put(name) as path, writing(path) as file:
            async for part in request.stream():
                await run_in_threadpool(file.write, part)

    @app.post("/jobs/{job}")
    def tell(
        job: _Job, done: Annotated[float, Body()], words: Annotated[str, Body()]
    ) -> dict[str, bool]:
        try:
            depot.tell(job, done, words)
        except Cancelled:
            return {"stop": True}
        return {"stop": False}

    return app


def open_door(depot: FolderDepot, host: str, port: int) -> HttpDepot:
    """Open it beside the server, until that ends; the depot for its workers."""
    token = secrets.token_urlsafe(32)
    config = uvicorn.Config(create_door(depot, token), host=host, port=port, log_level="warning")
    server = uvicorn.Server(config)
    threading.Thread(target=server.run, daemon=True, name="door for workers").start()
    shown = f"[{host}]" if ":" in host else host
    return HttpDepot(f"http://{shown}:{port}", token)
