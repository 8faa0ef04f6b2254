"""Art: what is laid on a form, as a recipe keeps it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, get_args

from pydantic import Field, model_validator

from nebrel.core.choices import Around
from nebrel.core.errors import NotFound
from nebrel.core.recipe.build_up import MOST_ENTRIES, Entry, PictureEntry
from nebrel.core.recipe.corrections import MOST_CORRECTIONS, Correction
from nebrel.core.recipe.length import BackingLength, Length, SideLength, between
from nebrel.core.recipe.step import PictureFile, Step

PICTURE_ENTRY = "picture"
_AROUND: dict[str, Around] = {kind: kind for kind in get_args(Around)}


class Pictured(Step):
    """A picture, and how large it is in the hand."""

    file: PictureFile
    along: Literal["wide", "tall"] = Field("wide", description="which side `side` measures")
    side: Annotated[
        SideLength,
        Field(description="of the picture as it was brought in, before corrections"),
    ] = Length(mm=100.0)
    corrections: Annotated[list[Correction], Field(max_length=MOST_CORRECTIONS)] = []


class Extent(Step):
    """How large an art without a picture is."""

    wide: SideLength = Length(mm=100.0)
    tall: SideLength = Length(mm=100.0)


class Edge(Step):
    """Where the backing ends.

    All but the first two are about the shape that the entries make, and may reach beyond the
    picture; what lies on them keeps its own outline.
    """

    kind: Annotated[
        Literal["rectangle", "round", "plate", "circle", "polygon", "along"],
        Field(
            description="rectangle: of the picture; round: the largest circle in it; plate, circle "
            "and polygon: around the shape; along: follows the shape"
        ),
    ] = "rectangle"
    margin: Annotated[
        Length, between(-100, 500, "a margin"), Field(description="outside the shape")
    ] = Length(mm=3.0)
    corner: Annotated[
        Length, between(0, 500, "a radius"), Field(description="of corners; 0 leaves them")
    ] = Length(mm=0.0)
    gap: Annotated[
        Length, between(0, 500, "a gap"), Field(description="along: gaps as narrow are filled in")
    ] = Length(mm=2.0)
    sides: int = Field(6, ge=3, le=60, description="of a polygon")
    turn: float = Field(0.0, ge=-360, le=360, description="of a polygon, degrees to the left")

    @property
    def around(self) -> Around | None:
        """How it goes around the shape; None where it does not follow it."""
        return _AROUND.get(self.kind)


class Art(Step):
    """A picture, further entries, or both, on their way to heights."""

    picture: Pictured | None = None
    extent: Annotated[Extent | None, Field(description="when there is no picture")] = None
    backing: BackingLength = Length(mm=1.0)
    build_up: Annotated[list[Entry], Field(max_length=MOST_ENTRIES)] = [
        PictureEntry(id=PICTURE_ENTRY)
    ]
    edge: Edge = Edge()
    islands: Annotated[
        Literal["keep", "drop", "hold"],
        Field(description="parts connected to nothing: left, cut away, or held by a plate"),
    ] = "keep"
    hold: Annotated[Length, between(0.05, 50, "a holding plate")] = Length(mm=0.6)
    draft: float = Field(0.0, ge=0, le=45, description="degrees that walls lean out from upright")
    mirror: bool = False
    negative: bool = Field(False, description="high for low, for a mould or a stamp")

    @model_validator(mode="before")
    @classmethod
    def _bare(cls, given: Any) -> Any:
        """Without a picture nothing of it is in the build-up."""
        if isinstance(given, dict) and given.get("picture") is None and "build_up" not in given:
            return given | {"build_up": []}
        return given

    @model_validator(mode="after")
    def _whole(self) -> Art:
        if (self.picture is None) == (self.extent is None):
            raise ValueError("it has a picture or a size of its own; give one of the two")
        count = sum(isinstance(entry, PictureEntry) for entry in self.build_up)
        if self.picture is None and count:
            raise ValueError("the build-up holds a picture and there is none; take it away")
        if self.picture is not None and count != 1:
            raise ValueError("the build-up needs its picture once; switch it off instead")
        return self

    @property
    def pictured(self) -> Pictured:
        """Its picture. Raises NotFound where it has none."""
        if self.picture is None:
            raise NotFound("picture", "the piece was begun without one", "Bring a picture")
        return self.picture

    @property
    def tones(self) -> PictureEntry | None:
        """The entry that says what the picture's tones become; None without a picture."""
        return next((entry for entry in self.build_up if isinstance(entry, PictureEntry)), None)

    @property
    def corrected(self) -> bool:
        """Whether any correction of its picture is switched on."""
        return self.picture is not None and any(c.enabled for c in self.picture.corrections)

    @property
    def depth_mm(self) -> float:
        """How far it rises above its backing, about: of the picture, or of the highest entry."""
        own = self.tones
        if own is not None and own.enabled:
            return own.depth.mm
        entries = [entry for entry in self.build_up if not isinstance(entry, PictureEntry)]
        return max([0.01, *(abs(entry.height.mm) for entry in entries)])
