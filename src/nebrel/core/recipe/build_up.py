"""The build-up: the ordered entries that make the heights, as a recipe keeps them.

The picture is one of them, and holds what its tones become.

Places are in mm from the middle of the piece, x to the right and y up, so that they stay
where they are meant when the piece is resized. Heights are measured from the top of the
backing, or from what lies below for an entry that is added to it.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from nebrel.core.choices import Align, Face
from nebrel.core.recipe.corrections import Tone
from nebrel.core.recipe.length import DepthLength, Length, between
from nebrel.core.recipe.placed import (
    NONE,
    Offset,
    Outlined,
    Placed,
    Profile,
    Reach,
    Rise,
    Rule,
    Size,
)
from nebrel.core.recipe.step import DrawingFile, Listed, Sha256, Step
from nebrel.core.recipe.traced import Trace

MOST_ENTRIES = 100


class Rectangle(Step):
    """A rectangle with rounded corners."""

    kind: Literal["rectangle"] = "rectangle"
    wide: Size = Length(mm=30.0)
    tall: Size = Length(mm=20.0)
    corner: Reach = NONE


class Ellipse(Step):
    """An ellipse."""

    kind: Literal["ellipse"] = "ellipse"
    wide: Size = Length(mm=30.0)
    tall: Size = Length(mm=20.0)


class Polygon(Step):
    """A regular polygon in a circle of the given diameter."""

    kind: Literal["polygon"] = "polygon"
    wide: Size = Length(mm=24.0)
    sides: int = Field(6, ge=3, le=60)


class Star(Step):
    """A star in a circle of the given diameter."""

    kind: Literal["star"] = "star"
    wide: Size = Length(mm=24.0)
    points: int = Field(5, ge=3, le=60)
    inner: float = Field(0.45, ge=0.05, le=0.98, description="inner corners, of the radius")


class Line(Step):
    """A straight line with round ends, which its length includes."""

    kind: Literal["line"] = "line"
    wide: Size = Length(mm=40.0)
    tall: Annotated[Size, Field(description="how thick the line is")] = Length(mm=1.2)


class Ring(Step):
    """A ring of the given outer diameter."""

    kind: Literal["ring"] = "ring"
    wide: Size = Length(mm=30.0)
    band: Size = Length(mm=2.0)


class MotifUnit(Step):
    """A motif of the library: its outline, or its tones as heights."""

    kind: Literal["motif"] = "motif"
    sha256: Sha256
    filename: str = Field("", max_length=255)
    wide: Size = Length(mm=20.0)
    by: Literal["outline", "tones"] = "outline"
    raised: Literal["light", "dark"] = "dark"


Outline = Annotated[
    Rectangle | Ellipse | Polygon | Star | Line | Ring,
    Field(discriminator="kind"),
]
Unit = Annotated[
    Rectangle | Ellipse | Polygon | Star | Line | Ring | MotifUnit,
    Field(discriminator="kind"),
]


class TonePin(Step):
    """A tone and its height above the backing; no height means cut through."""

    tone: Tone
    mm: Annotated[Length, between(0, 500, "a height")] | None


class Compression(Step):
    """How far large differences of a picture's heights are squeezed against its fine detail."""

    strength: float = Field(0.0, ge=0, le=1)
    detail: float = Field(0.3, ge=0, le=1)


class PictureEntry(Listed):
    """The picture, and what its tones become."""

    kind: Literal["picture"] = "picture"
    rule: Literal["replace", "add", "highest", "lowest"] = "replace"
    raised: Literal["light", "dark"] = "light"
    depth: DepthLength = Length(mm=3.0)
    mapping: Annotated[
        Literal["straight", "light", "chart", "plateaus"],
        Field(
            description="straight: from the backing to the depth; light: as thick as the light of "
            "the tone asks of the material, white the backing alone, black the full depth; chart: "
            "a smooth curve through the pins; plateaus: every tone the height of the nearest pin"
        ),
    ] = "straight"
    pins: Annotated[list[TonePin], Field(max_length=64)] = []
    smooth: Annotated[Length, between(0, 100, "a radius")] = Length(mm=0.0)
    keep_edges: bool = False
    compression: Compression = Compression()
    profile: Annotated[
        Profile, Field(description="of plateaus, and of what is kept when the dropped is cut")
    ] = Profile()
    cut_dropped: Annotated[
        bool, Field(description="what the picture drops is cut through, not left at the backing")
    ] = False

    @model_validator(mode="after")
    def _pinned(self) -> PictureEntry:
        tones = sorted(pin.tone for pin in self.pins)
        close_by = [a for a, b in pairwise(tones) if b - a < 0.002]
        if close_by:
            raise ValueError(
                f"tone {close_by[0]:g} is pinned to two heights; take one of the two pins away"
            )
        if self.mapping == "plateaus" and not any(pin.mm is not None for pin in self.pins):
            raise ValueError("no tone has a height; give at least one tone its millimetres")
        if self.mapping == "chart":
            if len(self.pins) < 2:
                raise ValueError("a chart needs two pins; pin a second tone")
            if any(pin.mm is None for pin in self.pins):
                raise ValueError("a chart cannot cut through; use plateaus for that")
        return self


class OutlineEntry(Outlined):
    """What lies inside an outline."""

    kind: Literal["outline"] = "outline"
    outline: Outline = Rectangle()


class TracedEntry(Outlined):
    """A shape traced in the picture; where the picture has it, unless it is moved."""

    kind: Literal["traced"] = "traced"
    trace: Trace = Trace()


class DrawingEntry(Outlined):
    """A drawing that was brought in, about the middle of the piece, in its own size or another."""

    kind: Literal["drawing"] = "drawing"
    file: DrawingFile
    unit: Annotated[
        Literal["file", "mm", "cm", "m", "in"],
        Field(description="what one unit of the file is; as it says, or mm where it does not"),
    ] = "file"
    along: Literal["wide", "tall"] = Field("wide", description="which side `side` measures")
    side: Annotated[
        Size | None, Field(description="of the drawing's own box; left out: as the file says")
    ] = None
    layers: Annotated[
        list[Annotated[str, Field(max_length=255)]] | None,
        Field(max_length=1000, description="groups or layers that are taken; left out: all"),
    ] = None
    join: Annotated[
        Length, between(0, 50, "a distance"), Field(description="ends that are closer are joined")
    ] = Length(mm=0.1)


class TextEntry(Outlined):
    """Lettering."""

    kind: Literal["text"] = "text"
    text: str = Field("Corvane Hill", max_length=500)
    face: Face = "plain"
    capital: Annotated[Size, Field(description="height of a capital letter")] = Length(mm=8.0)
    align: Align = "centre"
    spacing: Annotated[Length, between(-50, 100, "a letter spacing")] = NONE
    leading: float = Field(1.5, ge=0.5, le=5, description="line to line, in capital heights")
    arc: Annotated[
        Offset, Field(description="radius that the line follows; 0 straight, below 0 hanging")
    ] = NONE


class MotifEntry(Placed):
    """A motif of the library."""

    kind: Literal["motif"] = "motif"
    motif: MotifUnit


class GridLayout(Step):
    """Rows and columns."""

    kind: Literal["grid"] = "grid"
    columns: int = Field(4, ge=1, le=200)
    rows: int = Field(3, ge=1, le=200)
    across: Size = Length(mm=20.0)
    up: Size = Length(mm=20.0)
    staggered: bool = False


class RingLayout(Step):
    """Around a circle."""

    kind: Literal["ring"] = "ring"
    count: int = Field(12, ge=1, le=400)
    radius: Size = Length(mm=30.0)
    turned: bool = True


class PatternEntry(Placed):
    """One shape or motif, repeated."""

    kind: Literal["pattern"] = "pattern"
    unit: Unit = Star(wide=Length(mm=10.0))
    layout: Annotated[GridLayout | RingLayout, Field(discriminator="kind")] = GridLayout()


class FrameEntry(Listed):
    """A frame along the edge of the piece, or along the outline of what is there."""

    kind: Literal["frame"] = "frame"
    rule: Rule = "replace"
    height: Rise = Length(mm=3.0)
    wide: Size = Length(mm=4.0)
    inset: Annotated[Reach, Field(description="how far in from the edge")] = NONE
    along: Literal["edge", "outline"] = "edge"
    section: Literal["square", "chamfered", "rounded", "stepped"] = "square"


Entry = Annotated[
    PictureEntry
    | OutlineEntry
    | TracedEntry
    | DrawingEntry
    | TextEntry
    | MotifEntry
    | PatternEntry
    | FrameEntry,
    Field(discriminator="kind"),
]
