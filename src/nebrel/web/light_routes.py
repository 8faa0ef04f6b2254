"""The API of light: the lit piece, its reach, wedges and calibration."""

from __future__ import annotations

from typing import Annotated, Any

import cv2
import numpy as np
from fastapi import APIRouter, File, Form, Query, Response, UploadFile
from fastapi.responses import FileResponse

from nebrel.core.choices import Part
from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.picture.decode import decode
from nebrel.core.picture.resample import display_bytes
from nebrel.core.picture.tone import read_tone
from nebrel.core.proof.calibrate import calibrate
from nebrel.core.proof.light import to_tone
from nebrel.core.proof.wedge import Camera, Wedge, photograph
from nebrel.core.recipe.advise import advise
from nebrel.core.recipe.finishing import stands
from nebrel.core.recipe.shine import lamp_of, reach, shine
from nebrel.web import work
from nebrel.web.desk import OnDesk, Question, attachment, heavy
from nebrel.web.errors import ErrorBody
from nebrel.web.routes import send
from nebrel.web.schemas import CalibrationOut, LightOut, LightViewIn, ReportIn

_PNG = "image/png"
_STATUSES: tuple[int, ...] = (403, 404, 413, 415, 422, 507)
_ERRORS: dict[int | str, dict[str, Any]] = {status: {"model": ErrorBody} for status in _STATUSES}

router = APIRouter(prefix="/api", responses=_ERRORS)


@router.post("/light.png", response_class=Response, responses={200: {"content": {_PNG: {}}}})
@heavy
def light_view(desk: OnDesk, body: LightViewIn, question: Question = None) -> Response:
    """The piece before its lamp, in the frame of the picture; or how far that is from it."""
    recipe = body.recipe
    relief = desk.relief(recipe, question)
    wanted = desk.corrected(recipe, "full").work.tone
    shone = shine(lamp_of(recipe), relief, wanted)
    if body.part == "lit":
        shown = Picture(to_tone(shone.light))
    else:
        # Madder where too little comes through, ochre where too much.
        off = shone.difference
        strength = np.clip(np.abs(off) * 4, 0, 1)[..., None]
        less, more = np.array([154, 43, 69]) / 255, np.array([181, 122, 18]) / 255
        ink = np.where(off[..., None] < 0, less, more)
        ground = np.array([244, 240, 232]) / 255
        shown = Picture((ground * (1 - strength) + ink * strength).astype(np.float32))
    headers = {"Cache-Control": "no-store"}
    return Response(display_bytes(shown, body.longest), media_type=_PNG, headers=headers)


@router.post("/light")
@heavy
def light(desk: OnDesk, body: ReportIn, question: Question = None) -> LightOut:
    """What of the picture's light the material carries, and what printing makes of it."""
    recipe = body.recipe
    relief = desk.relief(recipe, question)
    art, tone = recipe.begins.art, desk.corrected(recipe, "full").work.tone
    found = reach(lamp_of(recipe), art.depth_mm, relief, tone)
    advice = advise(recipe.made_with.printer, stands(recipe), art.backing.mm, relief.top_mm)
    return LightOut(**found.__dict__, advice=advice)


@router.get("/pieces/{piece_id}/lit.png", response_class=FileResponse)
async def save_lit(desk: OnDesk, piece_id: str) -> FileResponse:
    """The lit picture of a piece, to keep."""
    return await send(desk, piece_id, "lit.png", "{name}, lit.png")


@router.get("/pieces/{piece_id}/part.stl", response_class=FileResponse)
async def part_stl(desk: OnDesk, piece_id: str, part: Part) -> FileResponse:
    """A piece that goes with the piece: its holder, a cap, a part of a lantern."""
    return await send(desk, piece_id, f"{part}.stl", f"{{name}}, {part}.stl")


@router.get("/wedge.stl", response_class=Response)
async def wedge(
    desk: OnDesk,
    steps: int = 10,
    thickest: float = 4.0,
    material: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """A step wedge to print."""
    data = await desk.ask(work.wedge_stl, steps, thickest, material)
    return Response(data, media_type="model/stl", headers=attachment("step wedge.stl"))


@router.get("/practice-photograph.png", response_class=Response)
@heavy
def practice_photograph(
    desk: OnDesk,
    steps: int = 10,
    thickest: float = 4.0,
    attenuation: Annotated[float, Query(gt=0.01, le=50)] = 0.94,
    tilt: Annotated[float, Query(ge=-40, le=40)] = 12.0,
) -> Response:
    """A simulated photograph of a wedge against a lamp; its corners are in a header."""
    camera = Camera(tilt_deg=(tilt, 6.0), vignetting=0.25, noise=0.01, exposure=0.92)
    picture, corners = photograph(Wedge(steps, thickest), attenuation, camera)
    data = cv2.imencode(".png", picture)[1].tobytes()
    shown = ",".join(f"{value:.2f}" for value in corners.ravel())
    return Response(data, media_type=_PNG, headers={"X-Wedge-Corners": shown})


@router.post("/calibrate")
@heavy
def calibrate_photograph(
    desk: OnDesk,
    file: Annotated[UploadFile, File()],
    corners: Annotated[str, Form()],
    steps: Annotated[int, Form()] = 10,
    thickest: Annotated[float, Form()] = 4.0,
) -> CalibrationOut:
    """The attenuation that a photograph of a wedge shows."""
    tone = read_tone(decode(file.file.read(), file.filename or "photograph"))
    try:
        values = [float(part) for part in corners.split(",")]
    except ValueError:
        values = []
    if len(values) != 8:
        raise InvalidValue("corners", "they are not four places", "Mark all four corners")
    found = calibrate(tone, np.array(values).reshape(4, 2), Wedge(steps, thickest))
    return CalibrationOut(**found.as_dict())
