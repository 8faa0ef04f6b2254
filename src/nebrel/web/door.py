"""The door for workers elsewhere: files go out, results and progress come in."""

from __future__ import annotations

import secrets
import threading
from typing import Annotated

import uvicorn
from fastapi import Depends, FastAPI, Path, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, ConfigDict, Field, ValidationError
from starlette.concurrency import run_in_threadpool

from nebrel.core.errors import Cancelled, Refused, TooLarge
from nebrel.core.formats.files import writing
from nebrel.core.recipe.explain import explain
from nebrel.web import errors
from nebrel.work.depot import RESULT, FolderDepot, Kind
from nebrel.work.elsewhere import HttpDepot

_MOST_BYTES = 8_000_000_000
_MOST_SAID = 10_000  # bytes of what is told of a job
_Name = Annotated[str, Path(pattern=RESULT)]
_Job = Annotated[str, Path(pattern="^[0-9a-f]{32}$")]


class _Told(BaseModel):
    """What a worker says of a job."""

    model_config = ConfigDict(extra="forbid", strict=True)
    done: Annotated[float, Field(allow_inf_nan=False)]
    words: Annotated[str, Field(max_length=200)]


def create_door(depot: FolderDepot, token: str, most_bytes: int = _MOST_BYTES) -> FastAPI:
    """The three routes that `HttpDepot` asks.

    Parameters
    ----------
    token : what a worker has to show
    most_bytes : of one result
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
            size = 0
            async for part in request.stream():
                size += len(part)
                if size > most_bytes:
                    raise TooLarge("result", f"it is over {most_bytes / 1e9:g} GB", "Make less")
                await run_in_threadpool(file.write, part)

    @app.post("/jobs/{job}")
    async def tell(request: Request, job: _Job) -> dict[str, bool]:
        said = b""
        async for part in request.stream():
            said += part
            if len(said) > _MOST_SAID:
                raise TooLarge("word of a job", f"it is over {_MOST_SAID} bytes", "Say less")
        try:
            told = _Told.model_validate_json(said)
        except ValidationError as error:
            raise explain(error.errors()) from error
        try:
            done = min(max(told.done, 0.0), 1.0)
            await run_in_threadpool(depot.tell, job, done, told.words)
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
