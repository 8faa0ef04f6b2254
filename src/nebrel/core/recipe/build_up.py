"""The build-up: the ordered entries that make the heights, as a recipe keeps them.

Places are in mm from the middle of the piece, x to the right and y up, so that they stay
where they are meant when the piece is resized. Heights are measured from the top of the
backing, or from what lies below for an entry that is added to it.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from nebrel.core.choices import Align, Face, ProfileKind
from nebrel.core.recipe.length import Length, between

MOST_ENTRIES = 100
Rule = Literal["replace", "add", "highest", "lowest", "cut"]

Size = Annotated[Length, between(0.05, 5000, "a size")]
Offset = Annotated[Length, between(-5000, 5000, "a place")]
Rise = Annotated[Length, between(-500, 500, "a height")]
Reach = Annotated[Length, between(0, 500, "a reach")]
_NONE = Length(mm=0.0)


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Profile(_Part):
    """How an entry ends at its outline."""

    kind: ProfileKind = "sharp"
    reach: Annotated[
        Reach, Field(description="how far in from the edge; 0 for a pillow: to the middle")
    ] = Length(mm=1.0)
    softness: float = Field(0.5, ge=0, le=1, description="of a pillow: a roof, or a dome")


class Rectangle(_Part):
    """A rectangle with rounded corners."""

    kind: Literal["rectangle"] = "rectangle"
    wide: Size = Length(mm=30.0)
    tall: Size = Length(mm=20.0)
    corner: Reach = _NONE


class Ellipse(_Part):
    """An ellipse."""

    kind: Literal["ellipse"] = "ellipse"
    wide: Size = Length(mm=30.0)
    tall: Size = Length(mm=20.0)


class Polygon(_Part):
    """A regular polygon in a circle of the given diameter."""

    kind: Literal["polygon"] = "polygon"
    wide: Size = Length(mm=24.0)
    sides: int = Field(6, ge=3, le=60)


class Star(_Part):
    """A star in a circle of the given diameter."""

    kind: Literal["star"] = "star"
    wide: Size = Length(mm=24.0)
    points: int = Field(5, ge=3, le=60)
    inner: float = Field(0.45, ge=0.05, le=0.98, description="inner corners, of the radius")


class Line(_Part):
    """A straight line with round ends, which its length includes."""

    kind: Literal["line"] = "line"
    wide: Size = Length(mm=40.0)
    tall: Annotated[Size, Field(description="how thick the line is")] = Length(mm=1.2)


class Ring(_Part):
    """A ring of the given outer diameter."""

    kind: Literal["ring"] = "ring"
    wide: Size = Length(mm=30.0)
    band: Size = Length(mm=2.0)


class MotifUnit(_Part):
    """A motif of the library: its outline, or its tones as heights."""

    kind: Literal["motif"] = "motif"
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    filename: str = Field("", max_length=255)
    wide: Size = Length(mm=20.0)
    by: Literal["outline", "tones"] = "outline"
    raised: Literal["light", "dark"] = "dark"


Shape = Annotated[
    Rectangle | Ellipse | Polygon | Star | Line | Ring,
    Field(discriminator="kind"),
]
Unit = Annotated[
    Rectangle | Ellipse | Polygon | Star | Line | Ring | MotifUnit,
    Field(discriminator="kind"),
]


class _Entry(_Part):
    id: str = Field("", max_length=40, description="tells equal entries apart")
    name: str = Field("", max_length=60, description="left out: what it is")
    enabled: bool = True


class PictureEntry(_Entry):
    """The picture; its tone chart is in the heights step."""

    kind: Literal["picture"] = "picture"
    rule: Literal["replace", "add", "highest", "lowest"] = "replace"


class _Raised(_Entry):
    rule: Rule = "replace"
    height: Rise = Length(mm=2.0)
    profile: Profile = Profile()


class _Placed(_Raised):
    x: Offset = _NONE
    y: Offset = _NONE
    turn: float = Field(0.0, ge=-360, le=360, description="degrees to the left")


class ShapeEntry(_Placed):
    """A plain shape."""

    kind: Literal["shape"] = "shape"
    shape: Shape = Rectangle()


class TextEntry(_Placed):
    """Lettering."""

    kind: Literal["text"] = "text"
    text: str = Field("Corvane Hill", max_length=500)
    face: Face = "plain"
    capital: Annotated[Size, Field(description="height of a capital letter")] = Length(mm=8.0)
    align: Align = "centre"
    spacing: Annotated[Length, between(-50, 100, "a letter spacing")] = _NONE
    leading: float = Field(1.5, ge=0.5, le=5, description="line to line, in capital heights")
    arc: Annotated[
        Offset, Field(description="radius that the line follows; 0 straight, below 0 hanging")
    ] = _NONE


class MotifEntry(_Placed):
    """A motif of the library."""

    kind: Literal["motif"] = "motif"
    motif: MotifUnit


class GridLayout(_Part):
    """Rows and columns."""

    kind: Literal["grid"] = "grid"
    columns: int = Field(4, ge=1, le=200)
    rows: int = Field(3, ge=1, le=200)
    across: Size = Length(mm=20.0)
    up: Size = Length(mm=20.0)
    staggered: bool = False


class RingLayout(_Part):
    """Around a circle."""

    kind: Literal["ring"] = "ring"
    count: int = Field(12, ge=1, le=400)
    radius: Size = Length(mm=30.0)
    turned: bool = True


class PatternEntry(_Placed):
    """One shape or motif, repeated."""

    kind: Literal["pattern"] = "pattern"
    unit: Unit = Star(wide=Length(mm=10.0))
    layout: Annotated[GridLayout | RingLayout, Field(discriminator="kind")] = GridLayout()


class FrameEntry(_Entry):
    """A frame along the edge of the piece, or along the outline of what is there."""

    kind: Literal["frame"] = "frame"
    rule: Rule = "replace"
    height: Rise = Length(mm=3.0)
    wide: Size = Length(mm=4.0)
    inset: Annotated[Reach, Field(description="how far in from the edge")] = _NONE
    along: Literal["edge", "outline"] = "edge"
    section: Literal["square", "chamfered", "rounded", "stepped"] = "square"


Entry = Annotated[
    PictureEntry | ShapeEntry | TextEntry | MotifEntry | PatternEntry | FrameEntry,
    Field(discriminator="kind"),
]
