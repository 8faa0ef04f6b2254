"""The API of pieces that begin without a file: ready shapes, pieces of the shelf, made pictures."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Query, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from nebrel.core.choices import Catch, EntryName
from nebrel.core.formats.png import encode_png
from nebrel.core.picture.patterns import LEAST_PX, MOST_PX, Dials, PatternKind, pattern
from nebrel.core.questions.trial import MOST_TRIED, Over, trial_recipe, variants
from nebrel.core.recipe.art import Art
from nebrel.core.recipe.body import LinkedPiece
from nebrel.core.recipe.decoration import Decoration, Place
from nebrel.core.recipe.models import Recipe, ReliefBegin
from nebrel.core.recipe.ready import ReadyBody
from nebrel.core.recipe.step import DrawingFile, PictureFile
from nebrel.web.desk import Desk, OnDesk, heavy
from nebrel.web.errors import refusals
from nebrel.web.schemas import PictureOut, PieceOut

_PREVIEW_PX = 512
_BLANK_PX = 256
_MOST_USED = 40
_PNG = "image/png"

router = APIRouter(prefix="/api", responses=refusals(403, 404, 409, 413, 422, 507))


class BeginBody(BaseModel):
    """What a piece begins as."""

    body: Annotated[LinkedPiece | ReadyBody, Field(discriminator="kind")]
    name: str = Field("", max_length=200)


class PatternIn(BaseModel):
    """The dials of a pattern."""

    pixels: int = Field(1024, ge=LEAST_PX, le=MOST_PX)
    seed: int = Field(1, ge=0, le=2**31)
    across: int = Field(6, ge=1, le=200)
    uneven: float = Field(0.4, ge=0, le=1)
    soft: float = Field(0.5, ge=0, le=1)
    tile: bool = True

    @property
    def dials(self) -> Dials:
        """As the core takes them."""
        return Dials(**self.model_dump())


class UsedOut(BaseModel):
    """A decoration that is on a piece."""

    piece: str
    decoration: Decoration


class TrialOf(BaseModel):
    """What is tried, and from where to where, mm."""

    decoration_id: str
    over: Over = "depth"
    first: float = Field(0.4, ge=0.01, le=500)
    last: float = Field(2.0, ge=0.01, le=500)
    count: int = Field(5, ge=2, le=MOST_TRIED)

    @property
    def values(self) -> list[float]:
        """Evenly from the first to the last."""
        step = (self.last - self.first) / (self.count - 1)
        return [round(self.first + step * n, 4) for n in range(self.count)]


class TrialIn(TrialOf):
    """What is tried of a piece, as it is on the bench."""

    recipe: Recipe
    name: str = Field("", max_length=200, description="of the piece")


class VariantOut(BaseModel):
    """A decoration at one of the values that are tried."""

    value: float
    decoration: Decoration


class SpotsOut(BaseModel):
    """Spots of art, in shares of its size from its middle; none beside it."""

    spots: list[tuple[float, float] | None]
    size_mm: tuple[float, float]


class SpotsIn(BaseModel):
    """Places on a piece, mm, that spots of a decoration's art are wanted for."""

    recipe: Recipe
    decoration_id: str
    places: Annotated[list[Place], Field(min_length=1, max_length=1000)]


class CaughtIn(BaseModel):
    """What is to catch a decoration."""

    recipe: Recipe
    decoration_id: str
    by: Catch


class ArtIn(BaseModel):
    """What art is to be made of."""

    picture: PictureFile | None = None
    entry: EntryName = "text"
    drawing: DrawingFile | None = None
    wide_mm: float = Field(20.0, ge=0.1, le=5000)
    depth_mm: float = Field(1.0, ge=0.01, le=500)


@router.post("/pieces/bodies", status_code=201)
@heavy
def begin_body(desk: OnDesk, body: BeginBody) -> PieceOut:
    """A new piece that begins as a ready shape, or as another piece of the shelf."""
    return PieceOut.made_of(desk.store.create_from_body(body.body, body.name))


@router.get(
    "/patterns/{kind}.png", response_class=Response, responses={200: {"content": {_PNG: {}}}}
)
@heavy
def pattern_view(desk: OnDesk, kind: PatternKind, dials: Annotated[PatternIn, Query()]) -> Response:
    """How a pattern looks."""
    _ = desk
    seen = dials.model_copy(update={"pixels": min(dials.pixels, _PREVIEW_PX)})
    return Response(encode_png(pattern(kind, seen.dials)), media_type=_PNG)


@router.post("/decorations/art")
async def fresh_art(desk: OnDesk, body: ArtIn) -> Art:
    """Art for a decoration: of a kept picture or motif, or lettering, a shape or a drawing.

    A plain ground of the picture is left out.
    """
    art = await run_in_threadpool(_art_of, desk, body)
    if body.picture is None:
        return art
    recipe = Recipe(begins=ReliefBegin(art=art))
    return Art.model_validate(await desk.ask("on_its_ground", recipe=recipe))


def _art_of(desk: Desk, body: ArtIn) -> Art:
    from nebrel.core.questions.fresh_art import entry_for, of_entry, of_picture

    store = desk.store
    depth = body.depth_mm
    if body.picture is not None:
        kept = store.picture_info(body.picture.sha256)
        along: Literal["wide", "tall"] = "wide" if kept.cols >= kept.rows else "tall"
        return of_picture(body.picture, body.wide_mm, depth, along)
    entry = entry_for(body.entry, body.drawing, body.wide_mm, depth)
    blank = store.add_picture(
        encode_png(np.ones((_BLANK_PX // 2, _BLANK_PX), np.float32)), "blank.png"
    )
    file = PictureFile(sha256=blank.sha256, filename=f"{body.entry}.png")
    return of_entry(file, body.wide_mm, depth, entry)


@router.get("/decorations")
@heavy
def decorations(desk: OnDesk, besides: str = "") -> list[UsedOut]:
    """Decorations of the pieces on the shelf, to be laid on another."""
    return [
        UsedOut(piece=piece.name, decoration=one)
        for piece, laid in desk.store.decorated()
        if piece.id != besides
        for one in laid
    ][:_MOST_USED]


@router.post("/trials", status_code=201)
async def trial(desk: OnDesk, body: TrialIn) -> PieceOut:
    """A test plate with a decoration of a piece in several depths or sizes."""
    given: dict[str, Any] = {"recipe": body.recipe, "decoration_id": body.decoration_id}
    wide, tall = await desk.ask("art_size", **given)
    one = body.recipe.decoration(body.decoration_id)
    recipe = trial_recipe(one, body.over, body.values, (wide, tall), body.recipe.made_with)
    make, name = desk.store.create_from_recipe, f"Trial for {body.name or 'a piece'}"
    return PieceOut.made_of(await run_in_threadpool(make, recipe, name, "trial"))


@router.post("/decorations/variants")
async def variants_of(desk: OnDesk, body: TrialIn) -> list[VariantOut]:
    """A decoration in several depths or sizes, to be seen side by side."""
    wide, _ = await desk.ask("art_size", recipe=body.recipe, decoration_id=body.decoration_id)
    one = body.recipe.decoration(body.decoration_id)
    found = variants(one, body.over, body.values, wide)
    return [VariantOut(value=v, decoration=d) for v, d in zip(body.values, found, strict=True)]


@router.post("/decorations/spots")
async def decoration_spots(desk: OnDesk, body: SpotsIn) -> SpotsOut:
    """Which spots of a decoration's art lie at places of a piece."""
    given: dict[str, Any] = {"recipe": body.recipe, "decoration_id": body.decoration_id}
    found, size_mm = await desk.ask("decoration_spots", **given, places=body.places)
    return SpotsOut(spots=found, size_mm=size_mm)


@router.post("/decorations/caught")
async def decoration_caught(desk: OnDesk, body: CaughtIn) -> Place:
    """Where a decoration comes to lie when it is caught."""
    given: dict[str, Any] = {"recipe": body.recipe, "decoration_id": body.decoration_id}
    found: Place = await desk.ask("decoration_caught", **given, by=body.by)
    return found


@router.post("/patterns/{kind}/picture", status_code=201)
@heavy
def make_pattern(desk: OnDesk, kind: PatternKind, dials: PatternIn) -> PictureOut:
    """Make a pattern and keep it as a picture."""
    data = encode_png(pattern(kind, dials.dials))
    return PictureOut.of(desk.store.add_picture(data, f"{kind}-{dials.seed}.png"))


@router.post("/patterns/{kind}/piece", status_code=201)
@heavy
def begin_pattern(desk: OnDesk, kind: PatternKind, dials: PatternIn) -> PieceOut:
    """Make a pattern, and begin a piece with it."""
    data = encode_png(pattern(kind, dials.dials))
    info = desk.store.add_picture(data, f"{kind}-{dials.seed}.png")
    return PieceOut.made_of(desk.store.create_piece(info, label="picture made"))
