"""The API of the Picture stop: corrected pictures, their report, and motifs."""

from __future__ import annotations

from collections.abc import AsyncIterator
from functools import partial
from typing import Annotated

import cv2
import numpy as np
from anyio import to_thread
from fastapi import APIRouter, File, Response, UploadFile
from fastapi.responses import FileResponse, StreamingResponse

from nebrel.core.data import Picture
from nebrel.core.errors import NebrelError, NotFound
from nebrel.core.picture.levels import bend, find_levels, histogram
from nebrel.core.picture.report import Finding
from nebrel.core.picture.resample import display_bytes
from nebrel.core.recipe.models import default_recipe, load_recipe
from nebrel.web.desk import OnDesk, file_name, heavy
from nebrel.web.errors import ErrorBody, detail
from nebrel.web.routes import send
from nebrel.web.schemas import (
    CorrectedIn,
    CorrectedOut,
    CurveIn,
    FailureOut,
    FindingOut,
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
_STATUSES: tuple[int, ...] = (403, 404, 409, 413, 415, 422, 507)
_MARK_PX = 1024

router = APIRouter(prefix="/api", responses={status: {"model": ErrorBody} for status in _STATUSES})


@router.post("/corrected")
@heavy
def corrected(desk: OnDesk, body: CorrectedIn) -> CorrectedOut:
    """What a picture is after its corrections."""
    found = desk.corrected(body.recipe, body.quality, body.upto)
    work = found.work
    tone = work.tone
    shares = np.diag([1 / (work.cols - 1), 1 / (work.rows - 1), 1.0]) @ work.place
    return CorrectedOut(
        key=found.key,
        cols=found.cols,
        rows=found.rows,
        wide_mm=found.size_mm[0],
        tall_mm=found.size_mm[1],
        place=shares.ravel().tolist(),
        transparent=work.alpha is not None,
        kept=1.0 if work.alpha is None else float(work.alpha.mean()),
        failures=[FailureOut(index=f.index, error=detail(f.error)) for f in found.failures],
        histogram=histogram(tone).tolist(),
        levels=find_levels(tone),
    )


@router.post("/corrected.png", response_class=Response, responses={200: {"content": {_PNG: {}}}})
@heavy
def corrected_view(desk: OnDesk, body: ViewIn) -> Response:
    """The same picture for the screen, 8 bits a channel."""
    work = desk.corrected(body.recipe, body.quality, body.upto).work
    shown = Picture(work.pixels)
    if body.part == "before":
        original = desk.corrected(body.recipe, body.quality, 0).work
        matrix = (work.place @ np.linalg.inv(original.place))[:2]
        size = (work.cols, work.rows)
        moved = cv2.warpAffine(original.pixels, matrix, size, borderMode=cv2.BORDER_REPLICATE)
        shown = Picture(moved)
    elif body.part == "dropped":
        white = np.ones((work.rows, work.cols), np.float32)
        shown = Picture(white, white * 0 if work.alpha is None else 1 - work.alpha)
    return Response(
        display_bytes(shown, body.longest),
        media_type=_PNG,
        headers={"Cache-Control": "no-store"},
    )


@router.post("/curve")
def curve(body: CurveIn) -> list[float]:
    """A curve as it will be applied: 65 tones from black to white."""
    tones = np.linspace(0, 1, 65, dtype=np.float32)
    return [round(float(tone), 5) for tone in bend(tones, body.curve.points)]


@router.post(
    "/report",
    response_class=StreamingResponse,
    responses={200: {"model": ReportLine, "content": {_LINES: {}}}},
)
async def report(desk: OnDesk, body: ReportIn) -> StreamingResponse:
    """What of the corrected picture will not print as meant, a line of JSON as each is found."""
    each = desk.report_each(body.recipe)

    async def following() -> Finding | None:
        return await to_thread.run_sync(partial(next, each, None), limiter=desk.computing)

    glanced = await to_thread.run_sync(desk.glance, body.recipe, limiter=desk.computing)
    # A picture that cannot be read is refused as anywhere else.
    first = None if glanced else await following()

    async def lines() -> AsyncIterator[str]:
        for finding in glanced:
            yield _line(ReportLine(finding=FindingOut.of(finding), early=True))
        try:
            found = await following() if glanced else first
            while found is not None:
                yield _line(ReportLine(finding=FindingOut.of(found)))
                found = await following()
            yield _line(ReportLine(done=True))
        except NebrelError as error:
            yield _line(ReportLine(error=detail(error)))

    return StreamingResponse(lines(), media_type=_LINES, headers={"Cache-Control": "no-store"})


def _line(line: ReportLine) -> str:
    return line.model_dump_json() + "\n"


@router.post("/report/mark.png", response_class=Response, responses={200: {"content": {_PNG: {}}}})
@heavy
def mark(desk: OnDesk, body: MarkIn) -> Response:
    """Where a finding is: a white picture, opaque where it applies."""
    found = (f for f in desk.report_each(body.recipe) if f.key == body.key)
    where = getattr(next(found, None), "where", None)
    if where is None:
        raise NotFound("finding", "it has no place in the picture", "Look at the report again")
    shown = where.astype(np.uint8)
    # Thin lines must still be seen when many pixels become one.
    side = max(1, max(shown.shape) // _MARK_PX)
    grown = cv2.dilate(shown, np.ones((side, side), np.uint8)).astype(np.float32)
    white = Picture(np.ones_like(grown), grown)
    return Response(display_bytes(white, _MARK_PX), media_type=_PNG)


@router.get(
    "/pieces/{piece_id}/picture.png",
    response_class=FileResponse,
    responses={200: {"content": {_PNG: {}}}},
)
async def save_picture(desk: OnDesk, piece_id: str) -> FileResponse:
    """The corrected picture of a piece as a 16-bit gray PNG."""
    return await send(desk, piece_id, "picture.png", "{name}, corrected.png")


@router.post("/pictures", status_code=201)
@heavy
def add_picture(desk: OnDesk, file: Annotated[UploadFile, File()]) -> PictureOut:
    """Keep a second picture, to be laid on top."""
    return PictureOut.of(desk.store.add_picture(file.file.read(), file.filename or "picture"))


@router.get("/motifs")
def motifs(desk: OnDesk, query: str = "") -> list[MotifOut]:
    """The library, newest first."""
    return [
        MotifOut.of(motif, desk.store.picture_info(motif.sha256))
        for motif in desk.store.motifs.all(query)
    ]


@router.post("/motifs", status_code=201)
@heavy
def keep_motif(desk: OnDesk, body: MotifIn) -> MotifOut:
    """Keep the corrected picture of a piece as a motif."""
    piece = desk.store.piece(body.piece_id)
    data = desk.corrected_png(piece.recipe)
    info = desk.store.add_picture(data, f"{file_name(body.name)}.png")
    wide = desk.originals.correct(piece.recipe, "full").size_mm[0]
    return MotifOut.of(desk.store.motifs.keep(info.sha256, body.name, body.tags, wide), info)


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
