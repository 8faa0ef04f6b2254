"""The API of the Picture stop: corrected pictures, their report, and motifs."""

from __future__ import annotations

from collections.abc import AsyncIterator
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, File, Request, Response, UploadFile
from fastapi.responses import StreamingResponse
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from nebrel.core.errors import NebrelError
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.models import default_recipe, load_recipe
from nebrel.web.desk import Desk, OnDesk, bringing, file_name
from nebrel.web.errors import detail, refusals
from nebrel.web.schemas import (
    CorrectedIn,
    CorrectedOut,
    CurveIn,
    FindingOut,
    LaidMotifIn,
    MarkIn,
    MotifChange,
    MotifIn,
    MotifOut,
    PictureOut,
    PieceOut,
    ReportIn,
    ReportLine,
    ViewIn,
)

_PNG = "image/png"
_LINES = "application/x-ndjson"

router = APIRouter(prefix="/api", responses=refusals(403, 404, 409, 413, 415, 422, 507))


@router.post("/corrected")
async def corrected(desk: OnDesk, body: CorrectedIn) -> CorrectedOut:
    """What a picture is after its corrections."""
    name = "corrected" if body.quality == "screen" else "corrected_whole"
    return CorrectedOut(**await desk.ask(name, **_asked(body)))


@router.post("/corrected.png", response_class=Response, responses={200: {"content": {_PNG: {}}}})
async def corrected_view(desk: OnDesk, body: ViewIn) -> Response:
    """The same picture for the screen, 8 bits a channel."""
    name = "corrected_view" if body.quality == "screen" else "corrected_view_whole"
    data = await desk.ask(name, **_asked(body))
    return Response(data, media_type=_PNG, headers={"Cache-Control": "no-store"})


def _asked(body: BaseModel) -> dict[str, Any]:
    """The fields of a question."""
    return {name: getattr(body, name) for name in type(body).model_fields}


@router.post("/curve")
def curve(body: CurveIn) -> list[float]:
    """A curve as it will be applied: 65 tones from black to white."""
    tones = np.linspace(0, 1, 65, dtype=np.float32)
    from nebrel.core.picture.levels import bend

    return [round(float(tone), 5) for tone in bend(tones, body.curve.points)]


@router.post(
    "/report",
    response_class=StreamingResponse,
    responses={200: {"model": ReportLine, "content": {_LINES: {}}}},
)
async def report(desk: OnDesk, body: ReportIn) -> StreamingResponse:
    """What of the corrected picture will not print as meant, a line of JSON as each is found."""
    each = desk.report(body.recipe)
    # A picture that cannot be read is refused as anywhere else.
    first = await anext(each, None)

    async def lines() -> AsyncIterator[str]:
        try:
            found = first
            while found is not None:
                finding, early = found
                yield _line(ReportLine(finding=FindingOut(**finding), early=early))
                found = await anext(each, None)
            yield _line(ReportLine(done=True))
        except NebrelError as error:
            yield _line(ReportLine(error=detail(error)))

    return StreamingResponse(lines(), media_type=_LINES, headers={"Cache-Control": "no-store"})


def _line(line: ReportLine) -> str:
    return line.model_dump_json() + "\n"


@router.post("/report/mark.png", response_class=Response, responses={200: {"content": {_PNG: {}}}})
async def mark(desk: OnDesk, body: MarkIn) -> Response:
    """Where a finding is: a white picture, opaque where it applies."""
    return Response(await desk.ask("mark", **_asked(body)), media_type=_PNG)


@router.post("/pictures", status_code=201)
@bringing
def add_picture(desk: OnDesk, request: Request, file: Annotated[UploadFile, File()]) -> PictureOut:
    """Keep a second picture, to be laid on top."""
    return PictureOut.of(desk.store.add_picture(file.file, file.filename or "picture"))


@router.get("/motifs")
def motifs(desk: OnDesk, query: str = "") -> list[MotifOut]:
    """The library, newest first."""
    return [
        MotifOut.of(motif, desk.store.picture_info(motif.sha256))
        for motif in desk.store.motifs.all(query)
    ]


@router.post("/motifs", status_code=201)
async def keep_motif(desk: OnDesk, body: MotifIn) -> MotifOut:
    """Keep the corrected picture of a piece as a motif."""
    piece = await run_in_threadpool(desk.store.piece, body.piece_id)
    data, wide_mm = await desk.ask("motif", recipe=piece.recipe)
    return await run_in_threadpool(_kept, desk, body, data, wide_mm)


@router.post("/motifs/decorations", status_code=201)
async def keep_decoration(desk: OnDesk, body: LaidMotifIn) -> MotifOut:
    """Keep a decoration as a motif, with all its numbers."""
    laid = body.recipe.decoration(body.decoration_id)
    data, wide_mm = await desk.ask("decoration_picture", recipe=body.recipe, decoration=laid)
    return await run_in_threadpool(_kept, desk, body, data, wide_mm, laid)


def _kept(
    desk: Desk,
    body: MotifIn | LaidMotifIn,
    data: bytes,
    wide_mm: float,
    laid: Decoration | None = None,
) -> MotifOut:
    info = desk.store.add_picture(data, f"{file_name(body.name)}.png")
    kept = desk.store.motifs.keep(info.sha256, body.name, body.tags, wide_mm, laid)
    return MotifOut.of(kept, info)


@router.patch("/motifs/{motif_id}")
def change_motif(desk: OnDesk, motif_id: str, body: MotifChange) -> MotifOut:
    """Another name, other tags."""
    motif = desk.store.motifs.change(motif_id, body.name, body.tags)
    return MotifOut.of(motif, desk.store.picture_info(motif.sha256))


@router.delete("/motifs/{motif_id}", status_code=204)
def delete_motif(desk: OnDesk, motif_id: str) -> None:
    """Take a motif out of the library."""
    desk.store.motifs.delete(motif_id)


@router.post("/motifs/{motif_id}/restore")
def restore_motif(desk: OnDesk, motif_id: str) -> MotifOut:
    """Bring a deleted motif back."""
    motif = desk.store.motifs.restore(motif_id)
    return MotifOut.of(motif, desk.store.picture_info(motif.sha256))


@router.post("/motifs/{motif_id}/piece", status_code=201)
def piece_from_motif(desk: OnDesk, motif_id: str) -> PieceOut:
    """A new piece whose picture is the motif, in the motif's own size."""
    motif = desk.store.motifs.get(motif_id)
    info = desk.store.picture_info(motif.sha256)
    recipe = default_recipe(info.sha256, info.rows, info.cols, info.filename)
    document = recipe.model_dump(mode="json")
    document["begins"]["art"]["picture"] |= {"along": "wide", "side": motif.wide_mm}
    recipe = load_recipe(document)
    return PieceOut.made_of(desk.store.create_piece(info, motif.name, recipe))
