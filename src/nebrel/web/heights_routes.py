"""The API of the Heights stop: the section, the build-up's outlines, flat tones, saved heights."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Query
from fastapi.responses import FileResponse

from nebrel.core.data import Floats, HeightField
from nebrel.core.heights.relief import Relief
from nebrel.core.heights.section import cut_section, section_path
from nebrel.core.picture.flat_tones import find_tones, recognise_tones
from nebrel.core.proof.light import lit
from nebrel.core.recipe.lay_map import lay_map
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.raise_relief import heights_of_tones
from nebrel.core.recipe.shine import thinnest_mm
from nebrel.web import work
from nebrel.web.desk import OnDesk, Question, heavy
from nebrel.web.errors import ErrorBody
from nebrel.web.routes import send
from nebrel.web.schemas import (
    ChartIn,
    OutlineOut,
    OutlinesIn,
    ReportIn,
    SectionIn,
    SectionOut,
    SpotIn,
    SpotOut,
    TonesOut,
)

_STATUSES: tuple[int, ...] = (403, 404, 409, 413, 422, 507)
_ERRORS: dict[int | str, dict[str, Any]] = {status: {"model": ErrorBody} for status in _STATUSES}

router = APIRouter(prefix="/api", responses=_ERRORS)


@router.post("/section")
@heavy
def section(desk: OnDesk, body: SectionIn, question: Question = None) -> SectionOut:
    """The profile along a line, from the heights at full resolution."""
    recipe = body.recipe
    relief = desk.relief(recipe, question)
    field = relief.field
    start, end = _place(recipe, field, body.start), _place(recipe, field, body.end)
    found = cut_section(relief, start, end, body.parts)
    path = section_path(lay_map(recipe.begins.form, relief), start, end, found)
    points: list[tuple[float, float, float]] = [tuple(p) for p in np.round(path, 3).tolist()]
    return SectionOut(
        length_mm=found.length_mm,
        low_mm=np.round(found.low_mm, 4).tolist(),
        high_mm=np.round(found.high_mm, 4).tolist(),
        slope_deg=np.round(found.slope_deg, 1).tolist(),
        path_mm=points,
        light=np.round(_light(recipe, relief, found.high_mm), 4).tolist(),
        highest_mm=relief.top_mm,
        line_mm=recipe.made_with.printer.line_mm,
        layer_mm=recipe.made_with.printer.layer_mm,
    )


@router.post("/spot")
@heavy
def spot(desk: OnDesk, body: SpotIn, question: Question = None) -> SpotOut:
    """The height of one spot with the whole build-up, at full resolution."""
    relief = desk.relief(body.recipe, question)
    x, y = _place(body.recipe, relief.field, body.at)
    height, there = relief.at(np.array([x]), np.array([y]))
    return SpotOut(height_mm=round(float(height[0]), 4), there=bool(there[0]))


def _light(recipe: Recipe, relief: Relief, mm: Floats) -> Floats:
    thinnest = thinnest_mm(recipe.begins.art.backing.mm, *_bare(relief))
    attenuation = recipe.made_with.material.attenuation_per_mm
    return lit(mm, mm > 0, attenuation, thinnest, recipe.proof.light.lamp)


def _bare(relief: Relief) -> tuple[Floats, Any]:
    return relief.field.mm, relief.picture_there


def _place(recipe: Recipe, field: HeightField, share: tuple[float, float]) -> tuple[float, float]:
    """A spot of the picture in mm from the lower left corner of the heights."""
    u = 1 - share[0] if recipe.begins.art.mirror else share[0]
    return u * field.wide_mm, (1 - share[1]) * field.tall_mm


@router.post("/chart")
def chart(body: ChartIn) -> list[float]:
    """Heights above the underside of 256 tones from black to white, mm; 0 where it is cut."""
    return [round(float(mm), 4) for mm in _heights_of(body)]


def _heights_of(body: ChartIn) -> Floats:
    return heights_of_tones(body.backing.mm, body.entry, body.attenuation_per_mm)


@router.post("/outlines")
async def outlines(desk: OnDesk, body: OutlinesIn) -> list[OutlineOut]:
    """Where the entries of the build-up lie; those that are refused are left out."""
    found = await desk.ask(work.outlines, body.recipe.model_dump(mode="json"))
    return [OutlineOut(entry_id=entry_id, loops=loops) for entry_id, loops in found]


@router.post("/tones")
@heavy
def tones(
    desk: OnDesk, body: ReportIn, count: Annotated[int | None, Query(ge=2, le=12)] = None
) -> TonesOut:
    """The flat tones of the corrected picture; with a count, the best so many."""
    tone = desk.corrected(body.recipe, "full").work.tone
    found = [] if count else recognise_tones(tone)
    chosen = found or find_tones(tone, count or 3)
    return TonesOut(tones=[round(value, 4) for value in chosen], flat=bool(found))


@router.get(
    "/pieces/{piece_id}/heights.{ending}",
    response_class=FileResponse,
    responses={200: {"content": {"image/tiff": {}, "image/png": {}}}},
)
async def save_heights(desk: OnDesk, piece_id: str, ending: Literal["tif", "png"]) -> FileResponse:
    """The heights of a piece in mm, above its underside, the scale in the file."""
    return await send(desk, piece_id, f"heights.{ending}", f"{{name}}, heights.{ending}")
