"""The recipe of a piece: typed, ordered steps, every number open to the end."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, Field, ValidationError, field_validator, model_validator

from nebrel.core.choices import MOST_TRIANGLES, Method
from nebrel.core.errors import InvalidRecipe
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.build_up import MOST_ENTRIES, Entry, PictureEntry, Profile
from nebrel.core.recipe.corrections import MOST_CORRECTIONS, Correction, Tone
from nebrel.core.recipe.explain import explain
from nebrel.core.recipe.fittings import MOST_FITTINGS, Fitting, Holder, Lantern
from nebrel.core.recipe.forms import Form, PanelForm
from nebrel.core.recipe.length import (
    BackingLength,
    DepthLength,
    Length,
    PitchLength,
    SideLength,
    ToleranceLength,
    between,
)
from nebrel.core.recipe.step import Step

if TYPE_CHECKING:
    from nebrel.core.data import HeightScale

SCHEMA_VERSION = 1
PICTURE_ENTRY = "picture"
AnyStep = TypeVar("AnyStep", bound=BaseModel)


def named(steps: list[AnyStep], taken: set[str] | None = None, kind: str = "step") -> list[AnyStep]:
    """The same steps, those without an id (or with one that is taken) given one.

    Parameters
    ----------
    taken : ids that are in use elsewhere; those of the steps are added to it
    kind : what ids that are given begin with
    """
    taken = set() if taken is None else taken
    found = []
    for number, step in enumerate(steps, 1):
        own = getattr(step, "id", "")
        name, more = own or f"{kind}-{number}", 1
        while name in taken:
            more += 1
            name = f"{kind}-{number}-{more}"
        taken.add(name)
        found.append(step if name == own else step.model_copy(update={"id": name}))
    return found


class PictureStep(Step):
    """Which picture, and how large it is in the hand."""

    sha256: str = Field(
        pattern=r"^[0-9a-f]{64}$", description="the file's content, its name on disk"
    )
    filename: str = Field("", max_length=255, description="what the file was called")
    along: Literal["wide", "tall"] = Field("wide", description="which side `side` measures")
    side: Annotated[
        SideLength,
        Field(description="of the picture as it was brought in, before corrections"),
    ] = Length(mm=100.0)
    corrections: Annotated[list[Correction], Field(max_length=MOST_CORRECTIONS)] = []


class TonePin(Step):
    """A tone and its height above the backing; no height means cut through."""

    tone: Tone
    mm: Annotated[Length, between(0, 500, "a height")] | None


class Compression(Step):
    """How far large differences of a picture's heights are squeezed against its fine detail."""

    strength: float = Field(0.0, ge=0, le=1)
    detail: float = Field(0.3, ge=0, le=1)


class HeightsStep(Step):
    """What tones become."""

    raised: Literal["light", "dark"] = "light"
    depth: DepthLength = Length(mm=3.0)
    backing: BackingLength = Length(mm=1.0)
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
    build_up: Annotated[list[Entry], Field(max_length=MOST_ENTRIES)] = [
        PictureEntry(id=PICTURE_ENTRY)
    ]
    cut_dropped: Annotated[
        bool, Field(description="what the picture drops is cut through, not left at the backing")
    ] = False
    islands: Annotated[
        Literal["keep", "drop", "hold"],
        Field(description="parts connected to nothing: left, cut away, or held by a plate"),
    ] = "keep"
    hold: Annotated[Length, between(0.05, 50, "a holding plate")] = Length(mm=0.6)
    draft: float = Field(0.0, ge=0, le=45, description="degrees that walls lean out from upright")
    mirror: bool = False
    negative: bool = Field(False, description="high for low, for a mould or a stamp")

    @field_validator("build_up")
    @classmethod
    def _told_apart(cls, entries: list[Entry]) -> list[Entry]:
        if sum(entry.kind == "picture" for entry in entries) != 1:
            raise ValueError("the build-up needs its picture once; switch it off instead")
        return named(entries)

    @model_validator(mode="after")
    def _pinned(self) -> HeightsStep:
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


class LightStep(Step):
    """What stands behind the piece, and how it was printed, for the light that comes through."""

    lamp: float = Field(1.0, ge=0.05, le=50, description="1 shows the thinnest as white")
    printed: Literal["ideal", "lying", "standing"] = "ideal"


class FinishStep(Step):
    """How closely the triangles follow the heights.

    Attributes
    ----------
    detail : as fine as the machine can make it, or exactly as in the picture
    tolerance : the largest distance at any pixel; when left out a twelfth of a layer for what
        is made, 0.01 mm for what is in the picture
    pitch : how far apart heights of what is made are kept; when left out an eighth of a line
        across, and half a layer up where the piece stands
    method : quickly, with few triangles, with the fewest, or by greedy insertion as it was before
    most_triangles, most_mb : a limit, of the whole piece and of its binary STL, kept by a
        coarser tolerance where it must be
    """

    detail: Literal["made", "picture"] = "made"
    tolerance: ToleranceLength | None = None
    pitch: PitchLength | None = None
    method: Method = "auto"
    most_triangles: int | None = Field(None, ge=100, le=MOST_TRIANGLES)
    most_mb: float | None = Field(None, ge=0.01, le=1000)

    @model_validator(mode="before")
    @classmethod
    def _as_it_was(cls, given: Any) -> Any:
        """A tolerance by itself, as it was written before, means what it meant."""
        if isinstance(given, dict) and "tolerance" in given and "detail" not in given:
            return {"method": "greedy", **given, "detail": "picture"}
        return given

    @property
    def most(self) -> int | None:
        """The most triangles, whichever limit is the lower."""
        by_size = None if self.most_mb is None else int((self.most_mb * 1e6 - 84) / 50)
        limits = [limit for limit in (self.most_triangles, by_size) if limit is not None]
        return min(limits, default=None)


class Recipe(Step):
    """Everything that makes a piece, from the picture to the mesh."""

    schema_version: Literal[1] = 1
    printer: Printer = Printer()
    material: Material = Material()
    picture: PictureStep
    heights: HeightsStep = HeightsStep()
    form: Form = PanelForm()
    fittings: Annotated[list[Fitting], Field(max_length=MOST_FITTINGS)] = []
    holder: Holder = Holder()
    lantern: Lantern = Lantern()
    finish: FinishStep = FinishStep()
    light: LightStep = LightStep()

    @model_validator(mode="after")
    def _told_apart(self) -> Recipe:
        """No two steps of a recipe have the same id, whatever list they are in."""
        taken = {entry.id for entry in self.heights.build_up}
        fittings = named(self.fittings, taken, "fitting")
        corrections = named(self.picture.corrections, taken, "correction")
        if fittings != self.fittings:
            object.__setattr__(self, "fittings", fittings)
        if corrections != self.picture.corrections:
            picture = self.picture.model_copy(update={"corrections": corrections})
            object.__setattr__(self, "picture", picture)
        return self


def default_recipe(
    sha256: str, rows: int, cols: int, filename: str = "", heights: HeightScale | None = None
) -> Recipe:
    """The recipe of a picture that just arrived: 100 mm on its longer side.

    Parameters
    ----------
    heights : what its tones are worth, when the file holds heights; they are kept exactly
    """
    along: Literal["wide", "tall"] = "wide" if cols >= rows else "tall"
    if heights is None:
        return Recipe(picture=PictureStep(sha256=sha256, filename=filename, along=along))
    return Recipe(
        picture=PictureStep(
            sha256=sha256, filename=filename, along="wide", side=Length(mm=heights.wide_mm)
        ),
        heights=HeightsStep(
            depth=Length(mm=heights.white_mm),
            backing=Length(mm=1.0 if heights.above == "backing" else 0.0),
            cut_dropped=True,
        ),
        finish=FinishStep(detail="picture"),
    )


def load_recipe(document: str | bytes | dict[str, Any]) -> Recipe:
    """Read a recipe of this or an older schema version.

    Raises
    ------
    InvalidRecipe : not JSON, made by a newer version, or a field is wrong
    """
    try:
        values = document if isinstance(document, dict) else json.loads(document)
    except (ValueError, RecursionError) as error:
        raise InvalidRecipe("recipe", "it is not JSON", "Export it again from the bench") from error
    version = values.get("schema_version") if isinstance(values, dict) else None
    if isinstance(version, int) and version > SCHEMA_VERSION:
        raise InvalidRecipe(
            "recipe",
            f"it was made by a newer Nebrel (schema {version}, this one reads {SCHEMA_VERSION})",
            "Update Nebrel",
        )
    try:
        return Recipe.model_validate(values)
    except ValidationError as error:
        raise explain(error.errors(), exact=True) from error


def picture_path(folder: Path, sha256: str) -> Path:
    """Where a content-addressed file lies below a folder."""
    return folder / sha256[:2] / sha256
