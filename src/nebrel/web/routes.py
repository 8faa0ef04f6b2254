"""The JSON API."""

from __future__ import annotations

import shutil
import time
from tempfile import NamedTemporaryFile
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, File, Form, Path, Query, Request, Response, UploadFile
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool

from nebrel import __version__
from nebrel.core.choices import StartName
from nebrel.core.errors import InvalidValue, UnknownFile
from nebrel.core.formats.drawing import is_drawing
from nebrel.core.formats.meshes import is_mesh
from nebrel.core.formats.png import encode_png
from nebrel.core.lengths import LengthUnits, parse_length
from nebrel.core.products.bundle import is_bundle
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.store.kept_files import DrawingInfo, NetworkInfo
from nebrel.web.desk import Desk, OnDesk, Question, attachment, bringing, heavy, trying
from nebrel.web.errors import detail, refusals
from nebrel.web.jobs import Job
from nebrel.web.schemas import (
    Change,
    HistoryOut,
    JobOut,
    LengthIn,
    LengthOut,
    MeshOut,
    PictureOut,
    PieceCard,
    PieceOut,
    Rename,
    ReportIn,
    StartsOut,
    StateOut,
)

_GLB = "model/gltf-binary"
_KEY = 64  # letters
_HEAD = 1024  # bytes, that tell what a file is
_NOTHING = encode_png(np.zeros((2, 2), np.float32), np.zeros((2, 2), np.float32))
_RESULTS = f"^[0-9a-f]{{{_KEY}}}\\.[A-Za-z0-9.-]{{1,40}}$"

router = APIRouter(prefix="/api", responses=refusals(403, 404, 408, 409, 413, 415, 422, 503, 507))


@router.get("/version")
async def version() -> dict[str, str]:
    """Which version answers."""
    return {"version": __version__}


Steps = Annotated[int, Query(ge=1, le=10_000)]
_BRING = (
    "Bring a picture (PNG, JPEG, TIFF, WebP, BMP or GIF), a drawing (SVG or DXF), "
    "a mesh (STL, 3MF, OBJ, PLY, GLB, glTF or OFF), or a piece saved as ZIP"
)


@router.post("/length")
def length(body: LengthIn) -> LengthOut:
    """A typed length in millimetres."""
    units = LengthUnits(body.line_mm, body.layer_mm)
    return LengthOut(mm=parse_length(body.text, units), text=" ".join(body.text.split()))


@router.get("/pieces")
@heavy
def pieces(desk: OnDesk, query: str = "") -> list[PieceCard]:
    """The shelf, newest change first."""
    return [PieceCard.of(piece, desk.card_pending(piece)) for piece in desk.shelf(query)]


@router.post("/pieces", status_code=201)
@bringing
def create_piece(
    desk: OnDesk,
    request: Request,
    file: Annotated[UploadFile, File()],
    name: Annotated[str, Form()] = "",
) -> PieceOut:
    """A new piece from a picture file, from a drawing, a mesh or a piece in one file."""
    filename = file.filename or "picture"
    if is_bundle(file.file, filename):
        with NamedTemporaryFile(suffix=".zip") as out:
            shutil.copyfileobj(file.file, out)
            out.flush()
            return PieceOut.made_of(desk.store.create_from_bundle(out.name, filename, name))
    if is_mesh(file.file, filename):
        return PieceOut.made_of(desk.store.create_from_mesh(file.file, filename, name))
    head = file.file.read(_HEAD)
    file.file.seek(0)
    if is_drawing(head, filename):
        return PieceOut.made_of(desk.store.create_from_drawing(file.file, filename, name))
    try:
        info = desk.store.add_picture(file.file, filename)
    except UnknownFile as error:
        raise UnknownFile(filename, "it is nothing that a piece begins with", _BRING) from error
    return PieceOut.made_of(desk.store.create_piece(info, name))


@router.post("/drawings", status_code=201)
@bringing
def add_drawing(desk: OnDesk, request: Request, file: Annotated[UploadFile, File()]) -> DrawingInfo:
    """Keep a drawing, to be laid on a piece."""
    return desk.store.add_drawing(file.file, file.filename or "drawing")


@router.post("/meshes", status_code=201)
@bringing
def add_mesh(desk: OnDesk, request: Request, file: Annotated[UploadFile, File()]) -> MeshOut:
    """Keep a mesh, to be joined with a piece."""
    info = desk.store.add_mesh(file.file, file.filename or "mesh.stl")
    return MeshOut(**info.model_dump())


@router.post("/networks", status_code=201)
@trying
def add_network(desk: OnDesk, request: Request, file: Annotated[UploadFile, File()]) -> NetworkInfo:
    """Keep a network of one's own, once it answered a test picture."""
    return desk.store.add_network(file.file, file.filename or "network.onnx")


@router.get("/drawings/{sha256}")
def drawing(desk: OnDesk, sha256: str) -> DrawingInfo:
    """What is known of a drawing."""
    return desk.store.drawing_info(sha256)


@router.post("/starts")
async def suggest(desk: OnDesk, body: ReportIn) -> StartsOut:
    """What a piece that just arrived may be set up for, and what suits its picture."""
    return StartsOut(**await desk.ask("suggest", recipe=body.recipe))


@router.post("/recipe/traced-tones")
async def traced_tones(desk: OnDesk, body: ReportIn) -> Recipe:
    """A recipe with an entry for each flat tone of its picture."""
    return load_recipe(await desk.ask("tones_traced", recipe=body.recipe))


@router.post("/starts/{name}")
async def begin(desk: OnDesk, name: StartName, body: ReportIn) -> Recipe:
    """A recipe set up for a purpose."""
    return load_recipe(await desk.ask("start", recipe=body.recipe, purpose=name))


@router.get("/pieces/{piece_id}")
def piece(desk: OnDesk, piece_id: str) -> PieceOut:
    """One piece with its recipe."""
    return PieceOut.made_of(desk.store.piece(piece_id))


@router.patch("/pieces/{piece_id}")
def rename(desk: OnDesk, piece_id: str, body: Rename) -> PieceOut:
    """Give a piece another name."""
    return PieceOut.made_of(desk.store.rename(piece_id, body.name))


@router.delete("/pieces/{piece_id}", status_code=204)
def delete(desk: OnDesk, piece_id: str) -> None:
    """Take a piece off the shelf."""
    desk.store.delete(piece_id)


@router.post("/pieces/{piece_id}/restore")
def restore(desk: OnDesk, piece_id: str) -> PieceCard:
    """Bring a deleted piece back."""
    return PieceCard.of(desk.store.restore(piece_id))


@router.post("/pieces/{piece_id}/duplicate", status_code=201)
def duplicate(desk: OnDesk, piece_id: str) -> PieceOut:
    """A copy with a history of its own."""
    return PieceOut.made_of(desk.store.duplicate(piece_id))


@router.put("/pieces/{piece_id}/recipe")
def change(desk: OnDesk, piece_id: str, body: Change) -> PieceOut:
    """Keep a new state of the recipe."""
    changed = desk.store.change(
        piece_id,
        body.recipe,
        body.label,
        body.base,
        state=body.state,
        amend=body.amend,
    )
    return PieceOut.made_of(changed)


@router.get("/pieces/{piece_id}/state")
def state(desk: OnDesk, piece_id: str) -> StateOut:
    """Whether a piece has become another; asked every few seconds by each open window."""
    found, name = desk.store.state(piece_id)
    return StateOut(state=found, name=name)


@router.post("/pieces/{piece_id}/undo")
def undo(desk: OnDesk, piece_id: str, state: str | None = None, steps: Steps = 1) -> PieceOut:
    """Back some revisions; with a state, only from that one."""
    return PieceOut.made_of(desk.store.undo(piece_id, state, steps))


@router.post("/pieces/{piece_id}/redo")
def redo(desk: OnDesk, piece_id: str, state: str | None = None, steps: Steps = 1) -> PieceOut:
    """Forward some revisions; with a state, only from that one."""
    return PieceOut.made_of(desk.store.redo(piece_id, state, steps))


@router.get("/pieces/{piece_id}/history")
def history(desk: OnDesk, piece_id: str) -> HistoryOut:
    """The states that can be undone and redone to."""
    return HistoryOut.of(desk.store.history(piece_id))


@router.post("/preview", response_class=Response, responses={200: {"content": {_GLB: {}}}})
async def preview(desk: OnDesk, recipe: Recipe) -> Response:
    """A recipe at draft quality as GLB, kept nowhere; for while a control moves."""
    start = time.perf_counter()
    key, data = await desk.ask("preview", recipe=recipe)
    spent = (time.perf_counter() - start) * 1000
    return Response(
        data,
        media_type=_GLB,
        headers={"ETag": f'"{key}"', "Server-Timing": f"evaluate;dur={spent:.1f}"},
    )


@router.post("/pieces/{piece_id}/products/{name}")
async def start_product(
    desk: OnDesk, piece_id: str, name: str, recipe: Recipe | None = None, question: Question = None
) -> JobOut:
    """Have something made of a piece at full quality; done at once when it is known already.

    With a recipe, that one is taken, whatever the piece has become in another window. A newer one
    of the same name ends what is made still: of the piece, or of the question that is named.
    """
    piece = await run_in_threadpool(desk.store.piece, piece_id)
    if recipe is not None:
        await run_in_threadpool(desk.store.check_files, recipe)
    asked = piece_id, recipe or piece.recipe, name, question
    result, job = await run_in_threadpool(desk.start, *asked)
    await desk.prune_soon()
    if job is not None:
        return _job(desk, job)
    return JobOut(
        id="", state="done", done=1, step="", result=result, **_said(desk.figures(result))
    )


@router.get("/results/{name}", response_class=FileResponse)
def result(
    desk: OnDesk,
    name: Annotated[str, Path(pattern=_RESULTS)],
    piece: Annotated[str, Query(max_length=400)] = "",
) -> FileResponse:
    """Something that was made, by its key and ending; with the name of a piece, to be saved."""
    from nebrel.core.products.table import KEPT

    if name[_KEY:] not in KEPT:
        raise InvalidValue("result", "nothing that is made ends so", "Have it made again")
    media_type, saved_as = KEPT[name[_KEY:]]
    headers = {"Cache-Control": "private, max-age=86400, immutable"}
    if piece:
        headers |= attachment(saved_as.format(piece))
    return FileResponse(desk.result(name), media_type=media_type, headers=headers)


@router.get("/jobs/{job_id}")
def job(desk: OnDesk, job_id: str) -> JobOut:
    """How long work stands."""
    return _job(desk, desk.jobs.get(job_id))


@router.delete("/jobs/{job_id}")
def cancel(desk: OnDesk, job_id: str) -> JobOut:
    """Call long work off."""
    return _job(desk, desk.jobs.cancel(job_id))


@router.get("/pieces/{piece_id}/thumbnail.png", response_class=Response)
@heavy
def thumbnail(desk: OnDesk, request: Request, piece_id: str) -> Response:
    """The picture on a card: the rendered piece; until that is made, what it is made from."""
    recipe = desk.store.piece(piece_id).recipe
    path = desk.cards.path(recipe)
    if path is None:
        if recipe.body is not None:
            return Response(_NOTHING, media_type="image/png", headers={"Cache-Control": "no-store"})
        view = desk.store.picture_view(recipe.pictured.file.sha256)
        return FileResponse(view, media_type="image/png", headers={"Cache-Control": "no-store"})
    key = desk.cards.key_of(recipe)
    headers = {"ETag": f'"{key}"', "Cache-Control": "no-cache"}
    if _known(request, key):
        return Response(status_code=304, headers=headers)
    return FileResponse(path, media_type="image/png", headers=headers)


@router.get("/pictures/{sha256}")
def picture(desk: OnDesk, sha256: str) -> PictureOut:
    """What is known of a picture."""
    return PictureOut.of(desk.store.picture_info(sha256))


@router.get("/pictures/{sha256}/view.png", response_class=Response)
@heavy
def picture_view(desk: OnDesk, sha256: str, longest: int = 2048) -> Response:
    """The picture for the screen, 8 bits a channel."""
    from nebrel.core.picture.resample import display_bytes

    data = display_bytes(desk.store.load_picture(sha256), max(16, min(longest, 4096)))
    return Response(
        data,
        media_type="image/png",
        headers={"Cache-Control": "public, max-age=31536000, immutable"},
    )


def _said(result: dict[str, Any] | None) -> dict[str, Any]:
    """What was said of a result, by what it is of."""
    if result is None:
        return {}
    return {"figures": result} if "quality" in result else result


def _job(desk: Desk, found: Job) -> JobOut:
    done, step = desk.jobs.progress(found)
    state, error = found.state(), found.error()
    return JobOut(
        id=found.id,
        state=state,
        done=done,
        step=step,
        result=found.result if state == "done" else None,
        **_said(found.future.result() if state == "done" else None),
        error=detail(error) if error and state == "failed" else None,
    )


def _known(request: Request, key: str) -> bool:
    return f'"{key}"' in request.headers.get("if-none-match", "")
