"""Decorations: art that is laid on a body, as a recipe keeps it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from nebrel.core.recipe.art import Art
from nebrel.core.recipe.brush import BrushStroke
from nebrel.core.recipe.length import DepthLength, Length, between
from nebrel.core.recipe.step import Listed, PictureFile, Step

MOST_DECORATIONS = 40
Coordinate = Annotated[float, Field(ge=-100_000, le=100_000)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Apart = Annotated[Length, between(0.1, 5000, "a distance")]
MOST_COPIES = 200


class TextureDecoration(Listed):
    """A tiling picture of heights all over the body, or over some of it.

    Attributes
    ----------
    tile : how wide one of it is
    raised : which of its tones stand high
    way : it stands out of the surface, goes in, or half of each
    lie : seen from six sides, blended where the surface turns; or around an axis, as often as
        fits whole
    turn : degrees to the left; around an axis it is not turned
    where : everywhere; what looks a way, up to `aside` degrees from it; what lies beyond a plane
        across an axis; or under the strokes of a brush
    fade : over which the heights go down to nothing at the border
    detail : how small its triangles may become; left out: an 80th of the tile
    """

    kind: Literal["texture"] = "texture"
    file: PictureFile
    tile: Annotated[Length, between(0.5, 5000, "a tile")] = Length(mm=20.0)
    depth: DepthLength = Length(mm=0.6)
    raised: Literal["light", "dark"] = "light"
    way: Literal["out", "in", "even"] = "out"
    lie: Literal["sides", "axis"] = "sides"
    axis: Literal["x", "y", "z"] = "z"
    turn: float = Field(0.0, ge=-360, le=360)
    where: Literal["all", "facing", "beyond", "brush"] = "all"
    facing: Place = (0.0, 0.0, 1.0)
    aside: float = Field(45.0, ge=1, le=180)
    beyond: Annotated[Length, between(-100_000, 100_000, "a place")] = Length(mm=0.5)
    beyond_axis: Literal["x", "y", "z"] = "z"
    keep: Literal["above", "below"] = "above"
    strokes: Annotated[list[BrushStroke], Field(max_length=500)] = []
    fade: Annotated[Length, between(0, 500, "a length")] = Length(mm=1.0)
    detail: Annotated[Length, between(0.02, 50, "a detail")] | None = None

    @field_validator("facing")
    @classmethod
    def _looks_somewhere(cls, given: Place) -> Place:
        return _somewhere(given)


Share = Annotated[float, Field(ge=-0.5, le=0.5)]
Spot = tuple[Share, Share]
"""Of the width and the height of art, from its middle to the right and up."""


class Part(Step):
    """What stands alone in art, outlined where it leaves the surface.

    Attributes
    ----------
    spot : in it
    depth : of its highest place; below 0 it is sunk
    """

    spot: Spot
    depth: Annotated[Length, between(-500, 500, "a depth")] = Length(mm=1.0)


class FadeStroke(Step):
    """A run of a brush over art.

    Attributes
    ----------
    spots : from one to the next
    wide : of the brush, as a share of the width of the art
    """

    spots: Annotated[list[Spot], Field(min_length=1, max_length=1000)]
    wide: float = Field(0.2, gt=0, le=2)


class Decoration(Listed):
    """Art on a body.

    Attributes
    ----------
    at : (x, y, z) mm; the nearest place of the surface is the art's middle
    up : the way in space that the art's up is nearest to
    turn : degrees to the left
    lie : along the surface, lengths kept from its middle; bent around the axis that the body is
        turned about, or one through its middle; or laid on straight
    level : around an axis, lines across stay at one place along it, on a cone too
    does : it stands out of the surface, lies in it, is cut right through the wall, or stands out
        where it is higher than the surface and lies in it where it is lower; is a part of its own
        in a pocket of the body; or is colour alone, without any height
    clearance : of a part of its own, to its pocket
    fillet : radius of the round where it meets the surface
    fade_to, fade : its height goes down to nothing towards there, over so long
    times, deep_times : how many times as large, and as high, the art becomes
    lift : how far its ground, the top of its backing, lies above the surface: a plate under it
    layout : what is repeated lies evenly around an axis, in rows along the surface, once more
        as in a mirror across the middle of the body, or along a line of the body
    line : that line keeps its distance from the nearest sharp edge, or its place along the axis
    repeat, rows : so often around or in a row, and how many rows
    gap, row_gap : from the middle of one to that of the next, along a row and from row to row
    parts : what stands alone in the art and has a sign and a depth of its own
    fade_strokes : of a brush over the art, under which it goes down to nothing
    axis : what it goes around, is bent around, or what the mirror is at right angles to
    """

    kind: Literal["decoration"] = "decoration"
    art: Art
    at: Place = (0.0, 0.0, 0.0)
    up: Place = (0.0, 0.0, 1.0)
    turn: float = Field(0.0, ge=-360, le=360)
    lie: Literal["surface", "axis", "straight"] = "surface"
    level: bool = False
    does: Literal["raise", "sink", "through", "both", "inlay", "colour"] = "raise"
    clearance: Annotated[Length, between(0, 5, "a clearance")] = Length(mm=0.1)
    fillet: Annotated[Length, between(0, 100, "a radius")] = Length(mm=0.0)
    fade_to: Literal["none", "rim", "left", "right", "top", "bottom", "brush"] = "none"
    fade_strokes: Annotated[list[FadeStroke], Field(max_length=500)] = []
    parts: Annotated[list[Part], Field(max_length=200)] = []
    fade: Annotated[Length, between(0.1, 5000, "a length")] = Length(mm=5.0)
    times: float = Field(1.0, ge=0.001, le=1000)
    deep_times: float = Field(1.0, ge=0.001, le=1000)
    lift: Annotated[Length, between(-100, 100, "a plate")] = Length(mm=0.0)
    layout: Literal["around", "rows", "mirror", "along"] = "around"
    line: Literal["edge", "level"] = "edge"
    repeat: int = Field(1, ge=1, le=120)
    rows: int = Field(1, ge=1, le=40)
    gap: Apart = Length(mm=20.0)
    row_gap: Apart = Length(mm=20.0)
    axis: Literal["x", "y", "z"] = "z"

    @property
    def count(self) -> int:
        """How often it is laid."""
        if self.layout == "mirror":
            return 2
        return self.repeat * (self.rows if self.layout == "rows" else 1)

    @model_validator(mode="after")
    def _not_too_often(self) -> Decoration:
        if self.count > MOST_COPIES:
            raise ValueError(f"it would be laid {self.count} times; {MOST_COPIES} are possible")
        return self

    @field_validator("up")
    @classmethod
    def _up_somewhere(cls, given: Place) -> Place:
        return _somewhere(given)


def _somewhere(given: Place) -> Place:
    if max(map(abs, given)) < 1e-9:
        raise ValueError("it points nowhere; give a way in space")
    return given


AnyDecoration = Annotated[Decoration | TextureDecoration, Field(discriminator="kind")]
