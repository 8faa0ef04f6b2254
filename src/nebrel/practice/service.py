"""The practice service over HTTP; what is asked of it, and what it answers."""

from __future__ import annotations

import itertools
from collections.abc import AsyncIterator, Callable, Iterator
from contextlib import asynccontextmanager
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated, Any

from fastapi import APIRouter, Depends, FastAPI, Header, Request, UploadFile
from fastapi.responses import JSONResponse, Response
from starlette.middleware.trustedhost import TrustedHostMiddleware

from nebrel.practice.jobs import Jobs, Turned, checksum

_LOST_EVERY, _BUSY_EVERY = 4, 9  # answers to new jobs that get lost; requests that are too many
_CELLS = 320


def make_model(picture: bytes) -> bytes:
    """A picture file to a GLB: what the local core makes of it."""
    from nebrel.core.figure.choose import choose_way
    from nebrel.core.figure.figure import Wanted, make_figure
    from nebrel.core.figure.subject import find_subject
    from nebrel.core.formats.meshes import write_mesh
    from nebrel.core.picture.decode import decode

    subject = find_subject(decode(picture, "picture"))
    way = choose_way(subject.pixels, subject.cover).way
    figure = make_figure(subject, Wanted(way=way, resolution=_CELLS))
    with TemporaryDirectory() as folder:
        path = Path(folder) / "model.glb"
        write_mesh(figure.mesh, path)
        return path.read_bytes()


@dataclass
class _Desk:
    """What the requests share."""

    jobs: Jobs
    shaky: bool
    requests: Iterator[int] = field(default_factory=lambda: itertools.count(1))
    new: Iterator[int] = field(default_factory=lambda: itertools.count(1))


def _desk(request: Request) -> _Desk:
    found: _Desk = request.app.state.desk
    return found


OnDesk = Annotated[_Desk, Depends(_desk)]


def _no_page(origin: Annotated[str, Header()] = "") -> None:
    if origin:
        raise Turned(403, "This is not for pages of other sites")


def _key(desk: OnDesk, authorization: Annotated[str, Header()] = "") -> str:
    if desk.shaky and next(desk.requests) % _BUSY_EVERY == 0:
        raise Turned(503, "Too much is asked for at the moment")
    return authorization.removeprefix("Bearer ").strip()


Key = Annotated[str, Depends(_key)]
router = APIRouter(dependencies=[Depends(_no_page)])


@router.post("/keys", status_code=201)
def fresh_key(desk: OnDesk) -> dict[str, Any]:
    """Somebody new."""
    return {"key": desk.jobs.fresh_key()}


@router.get("/account")
def account(desk: OnDesk, key: Key) -> dict[str, int]:
    """What is left."""
    return {"credits": desk.jobs.credits(key)}


@router.post("/jobs", status_code=201)
def add_job(
    desk: OnDesk,
    key: Key,
    picture: UploadFile,
    idempotency_key: Annotated[str, Header(max_length=80)],
) -> dict[str, Any]:
    """A picture to be made into a model."""
    job, new = desk.jobs.add(key, idempotency_key, picture.file.read())
    if desk.shaky and new and next(desk.new) % _LOST_EVERY == 2:
        raise Turned(503, "The answer got lost on its way")
    return desk.jobs.look(key, job.id)


@router.get("/jobs/{job_id}")
def look(desk: OnDesk, key: Key, job_id: str) -> dict[str, Any]:
    """How a job stands."""
    return desk.jobs.look(key, job_id)


@router.get("/jobs/{job_id}/model")
def model(desk: OnDesk, key: Key, job_id: str) -> Response:
    """What came of it."""
    data = desk.jobs.model(key, job_id)
    headers = {"X-Checksum-SHA256": checksum(data)}
    return Response(data, media_type="model/gltf-binary", headers=headers)


@router.delete("/jobs/{job_id}")
def cancel(desk: OnDesk, key: Key, job_id: str) -> dict[str, Any]:
    """Give a job up."""
    desk.jobs.cancel(key, job_id)
    return desk.jobs.look(key, job_id)


def create_service(
    folder: Path,
    wait_s: float = 3.0,
    make: Callable[[bytes], bytes] = make_model,
    shaky: bool = True,
) -> FastAPI:
    """The service on a folder.

    Parameters
    ----------
    make : a picture file to a model file
    shaky : answers get lost now and then, and it is too busy at times
    """
    jobs = Jobs(folder, make, wait_s)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        yield
        jobs.close()

    app = FastAPI(title="Practice model maker", lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.desk = _Desk(jobs, shaky)

    @app.exception_handler(Turned)
    async def _turned(_: Request, turned: Turned) -> JSONResponse:
        headers = {"Retry-After": "1"} if turned.status in (429, 503) else None
        return JSONResponse({"error": turned.why}, turned.status, headers)

    app.include_router(router)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])
    return app
