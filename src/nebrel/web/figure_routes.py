"""The API of figures: as their picture sees them, and how they would look otherwise."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from nebrel.core.recipe.models import Recipe
from nebrel.web.desk import OnDesk, Question
from nebrel.web.errors import refusals

_PNG = "image/png"
_PICTURE: dict[int | str, dict[str, Any]] = {200: {"content": {_PNG: {}}}}

router = APIRouter(prefix="/api", responses=refusals(403, 404, 409, 413, 415, 422, 507))


class SeenIn(BaseModel):
    """A figure as its picture sees it.

    Attributes
    ----------
    part : the figure, or where its outline and that of the subject differ
    longest : pixels along the longer side
    """

    recipe: Recipe
    part: Literal["figure", "difference"] = "figure"
    longest: int = Field(1400, ge=64, le=4096)


class LookIn(BaseModel):
    """A piece to be looked at, as a small picture."""

    recipe: Recipe
    turned: float = Field(0.0, ge=-360, le=360, description="degrees about z")


@router.post("/figures/seen.png", response_class=Response, responses=_PICTURE)
async def seen(desk: OnDesk, body: SeenIn, question: Question = None) -> Response:
    """To be laid over its picture, and as large as that."""
    given = {"recipe": body.recipe, "part": body.part, "longest": body.longest}
    return Response(await desk.ask("figure_seen", question, **given), media_type=_PNG)


@router.post("/figures/look.png", response_class=Response, responses=_PICTURE)
async def look(desk: OnDesk, body: LookIn) -> Response:
    """How it would come out, as a draft."""
    found = await desk.ask("figure_look", recipe=body.recipe, turned=body.turned)
    return Response(found, media_type=_PNG)
