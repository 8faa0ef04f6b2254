"""The API of the Heights stop: the section, the build-up's outlines, flat tones."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from nebrel.core.recipe.forms import ArcForm
from nebrel.web.desk import OnDesk, Question
from nebrel.web.errors import refusals
from nebrel.web.schemas import (
    BendIn,
    ChartIn,
    CutIn,
    CutOut,
    OutlineOut,
    OutlinesIn,
    PartsIn,
    PartsOut,
    ReportIn,
    SectionIn,
    SectionOut,
    SpotIn,
    SpotOut,
    TonesOut,
)

router = APIRouter(prefix="/api", responses=refusals(403, 404, 409, 413, 422, 507))


@router.post("/section")
async def section(desk: OnDesk, body: SectionIn, question: Question = None) -> SectionOut:
    """The profile along a line, from the heights at full resolution."""
    given = {"start": body.start, "end": body.end, "parts": body.parts}
    return SectionOut(**await desk.ask("section", question, recipe=body.recipe, **given))


@router.post("/cut")
async def cut(desk: OnDesk, body: CutIn, question: Question = None) -> CutOut:
    """Where an upright plane cuts the finished mesh."""
    given = {"across": body.across, "at_mm": body.at_mm, "before": body.before}
    return CutOut(**await desk.ask("cut", question, recipe=body.recipe, **given))


@router.post("/spot")
async def spot(desk: OnDesk, body: SpotIn, question: Question = None) -> SpotOut:
    """The height of one spot with the whole build-up, at full resolution."""
    return SpotOut(**await desk.ask("spot", question, recipe=body.recipe, at=body.at))


@router.post("/chart")
def chart(body: ChartIn) -> list[float]:
    """Heights above the underside of 256 tones from black to white, mm; 0 where it is cut."""
    from nebrel.core.links.raise_relief import heights_of_tones

    found = heights_of_tones(body.backing.mm, body.entry, body.attenuation_per_mm)
    return [round(float(mm), 4) for mm in found]


@router.post("/bend")
def bend(body: BendIn) -> float:
    """The angle, degrees, at which the bare surface of an arc has a radius."""
    return round(ArcForm.bend_of(body.wide_mm, body.radius_mm), 4)


@router.post("/outlines")
async def outlines(desk: OnDesk, body: OutlinesIn) -> list[OutlineOut]:
    """Where the entries of the build-up lie; those that are refused are left out."""
    return [OutlineOut(**found) for found in await desk.ask("outlines", recipe=body.recipe)]


@router.post("/parts")
async def parts(desk: OnDesk, body: PartsIn, question: Question = None) -> PartsOut:
    """The parts that a trace finds in the corrected picture."""
    return PartsOut(**await desk.ask("parts", question, recipe=body.recipe, entry_id=body.entry_id))


@router.post("/tones")
async def tones(
    desk: OnDesk, body: ReportIn, count: Annotated[int | None, Query(ge=2, le=12)] = None
) -> TonesOut:
    """The flat tones of the corrected picture; with a count, the best so many."""
    return TonesOut(**await desk.ask("tones", recipe=body.recipe, count=count))
