"""Ready shapes that a piece may begin with, each by its sizes in mm."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Any, Literal, get_args

from pydantic import Field, model_validator

from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Step

Side = Annotated[Length, between(0.5, 2000, "a size")]
Wall = Annotated[Length, between(0.2, 500, "a wall")]
Bevel = Annotated[Length, between(0, 500, "a radius")]
MOST_PROFILE = 60


def _mm(value: float) -> Length:
    return Length(mm=value)


class PlateBody(Step):
    """Flat, with upright sides."""

    kind: Literal["plate"] = "plate"
    wide: Side = _mm(80)
    deep: Side = _mm(60)
    tall: Side = _mm(4)
    corner: Annotated[Bevel, Field(description="radius of its upright corners")] = _mm(4)


class BoxBody(Step):
    """A block with rounded edges and corners."""

    kind: Literal["box"] = "box"
    wide: Side = _mm(60)
    deep: Side = _mm(40)
    tall: Side = _mm(30)
    round: Annotated[Bevel, Field(description="radius of every edge")] = _mm(3)


class CylinderBody(Step):
    """A round column."""

    kind: Literal["cylinder"] = "cylinder"
    diameter: Side = _mm(40)
    tall: Side = _mm(50)
    round: Annotated[Bevel, Field(description="radius of its rims")] = _mm(0)


class TubeBody(Step):
    """A band, open at both ends."""

    kind: Literal["tube"] = "tube"
    diameter: Annotated[Side, Field(description="outside")] = _mm(60)
    tall: Side = _mm(20)
    wall: Wall = _mm(2.4)


class ConeBody(Step):
    """A column that becomes narrower, or comes to a point."""

    kind: Literal["cone"] = "cone"
    diameter: Annotated[Side, Field(description="below")] = _mm(50)
    top: Annotated[Length, between(0, 2000, "a size"), Field(description="diameter above")] = _mm(
        24
    )
    tall: Side = _mm(60)


class BeakerBody(Step):
    """Hollow, with a floor, open above."""

    kind: Literal["beaker"] = "beaker"
    diameter: Annotated[Side, Field(description="outside, below")] = _mm(64)
    top: Annotated[Side, Field(description="outside, above")] = _mm(76)
    tall: Side = _mm(90)
    wall: Wall = _mm(2.4)
    floor: Wall = _mm(3)


class MugBody(Step):
    """Hollow and upright, with a floor and a handle."""

    kind: Literal["mug"] = "mug"
    diameter: Annotated[Side, Field(description="outside")] = _mm(80)
    tall: Side = _mm(92)
    wall: Wall = _mm(3)
    floor: Wall = _mm(4)
    handle: Annotated[Wall, Field(description="how thick the handle is")] = _mm(10)
    reach: Annotated[Side, Field(description="how far the handle stands out")] = _mm(32)


class SphereBody(Step):
    """A ball."""

    kind: Literal["sphere"] = "sphere"
    diameter: Side = _mm(50)


class DomeBody(Step):
    """A cap of a ball on a flat underside."""

    kind: Literal["dome"] = "dome"
    diameter: Annotated[Side, Field(description="of its underside")] = _mm(70)
    tall: Side = _mm(30)


class RingBody(Step):
    """A finger ring with a flat face above."""

    kind: Literal["ring"] = "ring"
    inside: Annotated[Side, Field(description="diameter of the finger")] = _mm(18)
    wide: Annotated[Side, Field(description="of the band, along the finger")] = _mm(6)
    thick: Wall = _mm(2)
    face: Annotated[Side, Field(description="how wide and deep the flat face is")] = _mm(11)


class TorusBody(Step):
    """A doughnut."""

    kind: Literal["torus"] = "torus"
    diameter: Annotated[Side, Field(description="outside")] = _mm(70)
    thick: Side = _mm(18)


class MedalBody(Step):
    """A disc with a raised rim."""

    kind: Literal["medal"] = "medal"
    diameter: Side = _mm(50)
    tall: Annotated[Side, Field(description="within the rim")] = _mm(2.6)
    rim: Annotated[Wall, Field(description="how wide the rim is")] = _mm(2.4)
    rim_tall: Annotated[Bevel, Field(description="how far it stands above the middle")] = _mm(1)


Drawn = tuple[
    Annotated[float, Field(ge=0, le=1000)],
    Annotated[float, Field(ge=-2000, le=2000)],
]


class BottleBody(Step):
    """A drawn profile turned about its axis.

    Attributes
    ----------
    profile : (radius, height) mm from its foot to its mouth
    wall : how thick it is, with a floor as thick; 0: solid
    smooth : the profile runs softly through its places, not from one straight to the next
    """

    kind: Literal["bottle"] = "bottle"
    profile: Annotated[list[Drawn], Field(min_length=2, max_length=MOST_PROFILE)] = [
        (26.0, 0.0),
        (28.0, 12.0),
        (28.0, 48.0),
        (20.0, 66.0),
        (11.0, 78.0),
        (10.0, 96.0),
        (12.0, 100.0),
    ]
    wall: Annotated[Length, between(0, 500, "a wall")] = _mm(2.4)
    smooth: bool = True

    @model_validator(mode="after")
    def _upwards(self) -> BottleBody:
        heights = [z for _, z in self.profile]
        if any(b - a < 0.01 for a, b in pairwise(heights)):
            raise ValueError("every place of a profile is above the one before; move it up")
        if max(r for r, _ in self.profile) < 0.5:
            raise ValueError("a profile needs some width; draw it away from its axis")
        return self


ReadyBody = (
    PlateBody
    | BoxBody
    | CylinderBody
    | TubeBody
    | ConeBody
    | BeakerBody
    | MugBody
    | SphereBody
    | DomeBody
    | RingBody
    | TorusBody
    | MedalBody
    | BottleBody
)

READY: dict[str, type[Step]] = {
    str(model.model_fields["kind"].default): model for model in get_args(ReadyBody)
}
"""The ready shapes by what they are called."""


def sizes_of(body: Step) -> dict[str, Any]:
    """The sizes of a ready shape, lengths in mm."""
    values = {name: getattr(body, name) for name in type(body).model_fields if name != "kind"}
    return {n: value.mm if isinstance(value, Length) else value for n, value in values.items()}


def footprint_mm(body: Step) -> tuple[float, float]:
    """How wide and deep a ready shape is, mm; 0 of what is none."""
    if isinstance(body, RingBody):
        across = body.inside.mm + 2 * body.thick.mm
        return max(across, body.face.mm), max(body.wide.mm, body.face.mm)
    if isinstance(body, PlateBody | BoxBody):
        return body.wide.mm, body.deep.mm
    if isinstance(body, BottleBody):
        return (2 * max(r for r, _ in body.profile),) * 2
    across = getattr(body, "diameter", Length(mm=0.0)).mm
    if isinstance(body, MugBody):
        return across + body.reach.mm, across
    if isinstance(body, ConeBody | BeakerBody):
        across = max(across, body.top.mm)
    return across, across
