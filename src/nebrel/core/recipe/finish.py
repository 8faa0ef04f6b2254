"""Finish steps: what is done to the mesh of a piece, whatever it began as, in order."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, field_validator

from nebrel.core.choices import MOST_TRIANGLES, Fault
from nebrel.core.recipe.body import ImportedBody, LinkedPiece
from nebrel.core.recipe.brush import BrushStroke
from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Listed, Step

MOST_FINISH_STEPS = 60
AxisName = Literal["x", "y", "z"]
Edge = Annotated[Length, between(0.02, 500, "an edge")]
Voxel = Annotated[Length, between(0.02, 100, "a voxel")]
Offset = Annotated[Length, between(-50, 50, "an offset")]
Off = Annotated[Length, between(0.0001, 50, "a deviation")]
Wall = Annotated[Length, between(0.1, 100, "a wall")]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$", description="as displayed")]
Wide = Annotated[Length, between(0.2, 200, "a size")]
Gap = Annotated[Length, between(0, 5, "a clearance")]
Radius = Annotated[Length, between(0.05, 50, "a radius")]
Place = Annotated[Length, between(-100_000, 100_000, "a place")]
Long = Annotated[Length, between(0.01, 100_000, "a size")]
Factor = Annotated[float, Field(ge=0.0001, le=10_000)]
Degrees = Annotated[float, Field(ge=-360, le=360)]
Coordinate = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]
Strength = Annotated[Length, between(0.001, 50, "a strength")]
Fine = Annotated[Length, between(0.02, 20, "a fineness")]


class _OnMesh(Listed):
    """Common ground of finish steps.

    Attributes
    ----------
    moves : what is left lies elsewhere afterwards
    """

    moves: ClassVar[bool] = False


class RepairStep(_OnMesh):
    """Mends it: closed, looking outwards, each part once.

    Attributes
    ----------
    only : these faults alone, whatever else is left; none: all of them, until it is closed
    """

    kind: Literal["repair"] = "repair"
    only: Annotated[list[Fault], Field(max_length=20)] = []


class SimplifyStep(_OnMesh):
    """Fewer triangles.

    Attributes
    ----------
    to : which of the limits below counts
    share : of the triangles there were before
    mb : of the file in that format
    """

    kind: Literal["simplify"] = "simplify"
    to: Literal["triangles", "share", "deviation", "size"] = "triangles"
    triangles: int = Field(100_000, ge=4, le=MOST_TRIANGLES)
    share: float = Field(0.5, gt=0, le=1)
    deviation: Off = Length(mm=0.05)
    mb: float = Field(10, ge=0.001, le=2000)
    format: Literal["stl", "3mf", "obj", "ply", "glb", "off"] = "stl"


class EvenStep(_OnMesh):
    """Triangles of one edge length; sharp lines stay."""

    kind: Literal["even"] = "even"
    edge: Edge = Length(mm=1.0)


class RebuildStep(_OnMesh):
    """Made anew from a grid of voxels: closed, joined; grown or shrunk by an offset."""

    kind: Literal["rebuild"] = "rebuild"
    voxel: Voxel = Length(mm=0.5)
    offset: Offset = Length(mm=0.0)


class SmoothStep(_OnMesh):
    """Calmed without shrinking.

    Attributes
    ----------
    where : everywhere, under the strokes of a brush, or as much as the picture is light
    inverted : where the picture is dark instead
    """

    kind: Literal["smooth"] = "smooth"
    rounds: int = Field(10, ge=1, le=500)
    where: Literal["everywhere", "brush", "mask"] = "everywhere"
    strokes: Annotated[list[BrushStroke], Field(max_length=500)] = []
    inverted: bool = False


class PushStep(_OnMesh):
    """Pushed out, or pressed in, under the strokes of a brush."""

    kind: Literal["push"] = "push"
    way: Literal["out", "in"] = "out"
    strokes: Annotated[list[BrushStroke], Field(max_length=500)] = []


class TrimStep(_OnMesh):
    """One side of a plane across an axis, with a flat cut."""

    kind: Literal["trim"] = "trim"
    axis: AxisName = "z"
    at: Place = Length(mm=0.0)
    keep: Literal["above", "below"] = "above"


class ScaleStep(_OnMesh):
    """Another size, from the middle of its underside.

    Attributes
    ----------
    by : a factor along each axis; a size along one axis, or a volume, with its proportions kept
    """

    moves: ClassVar[bool] = True
    kind: Literal["scale"] = "scale"
    by: Literal["factor", "size", "volume"] = "factor"
    x: Factor = 1.0
    y: Factor = 1.0
    z: Factor = 1.0
    axis: AxisName = "z"
    size: Long = Length(mm=50.0)
    volume_cm3: float = Field(50.0, gt=0, le=1e9)


class TurnStep(_OnMesh):
    """Turned about x, then y, then z, mirrored, and set down.

    Attributes
    ----------
    mirror : across the plane that stands square to that axis
    centre : its middle comes over the origin
    drop : its lowest point comes on the table
    """

    moves: ClassVar[bool] = True
    kind: Literal["turn"] = "turn"
    x: Degrees = 0.0
    y: Degrees = 0.0
    z: Degrees = 0.0
    mirror: Literal["none", "x", "y", "z"] = "none"
    centre: bool = False
    drop: bool = True


class LayStep(_OnMesh):
    """Laid on a face: what looked that way looks down, and lies on the table.

    Attributes
    ----------
    towards : (x, y, z) the way the face looks before; of any length but 0
    """

    moves: ClassVar[bool] = True
    kind: Literal["lay"] = "lay"
    towards: tuple[float, float, float] = (0.0, 0.0, -1.0)

    @field_validator("towards")
    @classmethod
    def _somewhere(cls, given: tuple[float, float, float]) -> tuple[float, float, float]:
        if max(map(abs, given)) < 1e-9:
            raise ValueError("a face looks somewhere; point at one")
        return given


class HollowStep(_OnMesh):
    """Hollow, with a wall of one thickness.

    Attributes
    ----------
    drains, drain : how many holes lead down from where it is lowest, and how wide they are
    """

    kind: Literal["hollow"] = "hollow"
    wall: Wall = Length(mm=2.0)
    drains: int = Field(0, ge=0, le=12)
    drain: Wide = Length(mm=3.0)


class SoftenStep(_OnMesh):
    """Edges and corners made round, made anew from a grid."""

    kind: Literal["soften"] = "soften"
    radius: Radius = Length(mm=1.0)


class ThickenStep(_OnMesh):
    """An open surface given a back at a distance; below 0 on its other side."""

    kind: Literal["thicken"] = "thicken"
    thick: Annotated[Length, between(-50, 50, "a thickness")] = Length(mm=2.0)


class SplitStep(_OnMesh):
    """Cut in two across an axis, where the parts fit together again by pins; or taken apart.

    Attributes
    ----------
    into : the two sides of a plane; or the bodies there are, in a row on the table
    wide, long : of a pin
    clearance : on the diameter of its socket, and at its end
    gap : between the parts as they are laid
    """

    moves: ClassVar[bool] = True
    kind: Literal["split"] = "split"
    into: Literal["halves", "bodies"] = "halves"
    axis: AxisName = "z"
    at: Place = Length(mm=0.0)
    pins: int = Field(2, ge=0, le=24)
    wide: Wide = Length(mm=4.0)
    long: Wide = Length(mm=8.0)
    clearance: Gap = Length(mm=0.3)
    gap: Annotated[Length, between(0, 1000, "a gap")] = Length(mm=5.0)


class Merge(Step):
    """A colour that becomes another; or goes, and what is nearest to it takes its place."""

    colour: Colour
    into: Colour | None = None


class ColourStep(_OnMesh):
    """Other colours, which live on the mesh from here on.

    Attributes
    ----------
    by : one for all; another from each height on, or for each body; those of the picture; fewer
        of those there are; some made others; those of a palette that are most like them; or none
        any more
    colours : the one; of the heights upwards; of the bodies, the largest first; the palette
    changes : above the underside, upwards: one fewer than there are colours
    count : how many are left, where they are made fewer
    fine : how closely those of the picture are followed
    merges : one after the other
    like : how far colours may be from one that is merged to go with it; 0 is that one alone, 1
        is as far as black from white
    """

    kind: Literal["colour"] = "colour"
    by: Literal["one", "height", "part", "picture", "fewer", "merge", "match", "none"] = "height"
    colours: Annotated[list[Colour], Field(min_length=1, max_length=32)] = ["#d8ccbb", "#9a2b45"]
    changes: Annotated[list[Place], Field(max_length=31)] = [Length(mm=1.0)]
    count: int = Field(4, ge=1, le=32)
    fine: Fine = Length(mm=0.3)
    merges: Annotated[list[Merge], Field(max_length=200)] = []
    like: float = Field(0.03, ge=0, le=1)


class JoinStep(_OnMesh):
    """Joined with another body.

    Attributes
    ----------
    by : added to it, taken away from it, what both have in common, or beside it as it is
    pivot : of the other: its own origin, its middle, or the middle of its underside
    x, y, z : where that comes to lie
    turn_x, turn_y, turn_z : turned about it, in that order
    times : how many times as large the other becomes
    """

    kind: Literal["join"] = "join"
    by: Literal["add", "subtract", "common", "beside"] = "add"
    other: Annotated[ImportedBody | LinkedPiece, Field(discriminator="kind")]
    pivot: Literal["origin", "middle", "below"] = "below"
    x: Place = Length(mm=0.0)
    y: Place = Length(mm=0.0)
    z: Place = Length(mm=0.0)
    turn_x: Degrees = 0.0
    turn_y: Degrees = 0.0
    turn_z: Degrees = 0.0
    times: Factor = 1.0


FinishStep = Annotated[
    RepairStep
    | SimplifyStep
    | EvenStep
    | RebuildStep
    | SmoothStep
    | PushStep
    | TrimStep
    | ScaleStep
    | TurnStep
    | LayStep
    | HollowStep
    | SoftenStep
    | ThickenStep
    | SplitStep
    | JoinStep
    | ColourStep,
    Field(discriminator="kind"),
]
