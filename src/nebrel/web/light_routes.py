"""The API of light: the lit piece, its reach, wedges and calibration."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Response, UploadFile

from nebrel.core.errors import InvalidValue
from nebrel.web.desk import OnDesk, Question, attachment
from nebrel.web.errors import refusals
from nebrel.web.schemas import CalibrationOut, LightOut, LightViewIn, ReportIn

_PNG = "image/png"

router = APIRouter(prefix="/api", responses=refusals(403, 404, 413, 415, 422, 507))


@router.post("/light.png", response_class=Response, responses={200: {"content": {_PNG: {}}}})
async def light_view(desk: OnDesk, body: LightViewIn, question: Question = None) -> Response:
    """The piece before its lamp, in the frame of the picture; or how far that is from it."""
    given = {"part": body.part, "longest": body.longest}
    data = await desk.ask("light_view", question, recipe=body.recipe, **given)
    return Response(data, media_type=_PNG, headers={"Cache-Control": "no-store"})


@router.post("/light")
async def light(desk: OnDesk, body: ReportIn, question: Question = None) -> LightOut:
    """What of the picture's light the material carries, and what printing makes of it."""
    return LightOut(**await desk.ask("light", question, recipe=body.recipe))


@router.get("/wedge.stl", response_class=Response)
async def wedge(
    desk: OnDesk,
    steps: int = 10,
    thickest: float = 4.0,
    material: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """A step wedge to print."""
    data = await desk.ask("wedge", steps=steps, thickest=thickest, material=material)
    return Response(data, media_type="model/stl", headers=attachment("step wedge.stl"))


@router.get("/practice-photograph.png", response_class=Response)
async def practice_photograph(
    desk: OnDesk,
    steps: int = 10,
    thickest: float = 4.0,
    attenuation: Annotated[float, Query(gt=0.01, le=50)] = 0.94,
    tilt: Annotated[float, Query(ge=-40, le=40)] = 12.0,
) -> Response:
    """A simulated photograph of a wedge against a lamp; its corners are in a header."""
    data, corners = await desk.ask(
        "practice_photograph", steps=steps, thickest=thickest, attenuation=attenuation, tilt=tilt
    )
    shown = ",".join(f"{value:.2f}" for value in corners)
    return Response(data, media_type=_PNG, headers={"X-Wedge-Corners": shown})


@router.post("/calibrate")
async def calibrate_photograph(
    desk: OnDesk,
    file: Annotated[UploadFile, File()],
    corners: Annotated[str, Form()],
    steps: Annotated[int, Form()] = 10,
    thickest: Annotated[float, Form()] = 4.0,
) -> CalibrationOut:
    """The attenuation that a photograph of a wedge shows."""
    try:
        values = [float(part) for part in corners.split(",")]
    except ValueError:
        values = []
    if len(values) != 8:
        raise InvalidValue("corners", "they are not four places", "Mark all four corners")
    found = await desk.ask(
        "calibration",
        data=await file.read(),
        filename=file.filename or "photograph",
        corners=values,
        steps=steps,
        thickest=thickest,
    )
    return CalibrationOut(**found)
