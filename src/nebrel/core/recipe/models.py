"""The recipe of a piece: typed, ordered steps, every number open to the end."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import Field, ValidationError, model_validator

from nebrel.core.choices import MOST_TRIANGLES, FormKind, Method
from nebrel.core.errors import InvalidRecipe, NotFound
from nebrel.core.recipe.art import PICTURE_ENTRY, Art, Edge, Pictured
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.body import BodyBegin, BodyUnit, ImportedBody
from nebrel.core.recipe.build_up import DrawingEntry, PictureEntry
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.explain import explain
from nebrel.core.recipe.figure import FigureBegin
from nebrel.core.recipe.finish import MOST_FINISH_STEPS, FinishStep
from nebrel.core.recipe.fittings import MOST_FITTINGS, Fitting, Holder, Lantern, Sheets
from nebrel.core.recipe.forms import Form, PanelForm, called_so
from nebrel.core.recipe.length import Length, PitchLength, ToleranceLength
from nebrel.core.recipe.older import upgrade
from nebrel.core.recipe.step import Listed, MeshFile, PictureFile, Step

if TYPE_CHECKING:
    from nebrel.core.data import HeightScale

SCHEMA_VERSION = 2


class ReliefBegin(Step):
    """A piece that begins as heights on a form."""

    kind: Literal["relief"] = "relief"
    art: Art
    form: Form = PanelForm()
    fittings: Annotated[list[Fitting], Field(max_length=MOST_FITTINGS)] = []
    holder: Holder = Holder()
    lantern: Lantern = Lantern()
    sheets: Sheets = Sheets()

    @model_validator(mode="after")
    def _goes_together(self) -> ReliefBegin:
        if self.round and not self.form.flat:
            raise ValueError(f"a round edge does not go with a {self.form.kind}; choose a panel")
        return self

    @property
    def round(self) -> bool:
        """Whether it ends at the largest circle, not at a rectangle."""
        return self.art.edge.kind == "round"

    @property
    def form_kind(self) -> FormKind:
        """What its form is called: a panel with a round edge is a disc."""
        return called_so(self.form, self.round)


# How a piece begins.
Begins = Annotated[ReliefBegin | BodyBegin | FigureBegin, Field(discriminator="kind")]


class Triangles(Step):
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

    @property
    def most(self) -> int | None:
        """The most triangles, whichever limit is the lower."""
        by_size = None if self.most_mb is None else int((self.most_mb * 1e6 - 84) / 50)
        limits = [limit for limit in (self.most_triangles, by_size) if limit is not None]
        return min(limits, default=None)


class Light(Step):
    """What stands behind the piece, and how it was printed, for the light that comes through."""

    lamp: float = Field(1.0, ge=0.05, le=50, description="1 shows the thinnest as white")
    printed: Literal["ideal", "lying", "standing"] = "ideal"


class Proof(Step):
    """How the piece is tried before it is made."""

    light: Light = Light()


class MadeWith(Step):
    """What of the workshop the piece is made with."""

    printer: Printer = Printer()
    material: Material = Material()


class Recipe(Step):
    """Everything that makes a piece, from the picture to the mesh."""

    schema_version: Literal[2] = 2
    begins: Begins
    triangles: Triangles = Triangles()
    finish: Annotated[
        list[FinishStep],
        Field(
            max_length=MOST_FINISH_STEPS,
            description="what is done to the finished mesh, in order",
        ),
    ] = []
    proof: Proof = Proof()
    made_with: MadeWith = MadeWith()

    @model_validator(mode="before")
    @classmethod
    def _of_today(cls, given: Any) -> Any:
        """Older ones are upgraded where they are read; one that is sent is of another page."""
        version = given.get("schema_version") if isinstance(given, dict) else None
        if version not in (None, SCHEMA_VERSION):
            raise ValueError("it was sent by a page that is older than this Nebrel; load it again")
        begins = given.get("begins") if isinstance(given, dict) else None
        if isinstance(begins, dict) and "kind" not in begins:  # there was one kind once
            kind = "body" if "body" in begins else "relief"
            return {**given, "begins": {"kind": kind, **begins}}
        return given

    @model_validator(mode="after")
    def _told_apart(self) -> Recipe:
        """No two steps of a recipe have the same id, whatever list they are in."""
        begins = _named(self.begins, set())
        if begins is not self.begins:
            object.__setattr__(self, "begins", begins)
        return self

    @property
    def relief(self) -> ReliefBegin:
        """How it begins as heights on a form. Raises NotFound where it does not."""
        if isinstance(self.begins, ReliefBegin):
            return self.begins
        raise NotFound("heights", "the piece has none", "Take one that began as a relief")

    @property
    def figure(self) -> FigureBegin | None:
        """How it begins as a figure, where it does."""
        return self.begins if isinstance(self.begins, FigureBegin) else None

    @property
    def pictured(self) -> Pictured:
        """The picture that it begins with. Raises NotFound where there is none."""
        return self.relief.art.pictured if self.figure is None else self.figure.picture

    @property
    def body(self) -> BodyBegin | None:
        """How it begins as a body, where it does."""
        return self.begins if isinstance(self.begins, BodyBegin) else None

    def decoration(self, decoration_id: str) -> Decoration:
        """One of those on its body, that is no texture. Raises NotFound."""
        laid = [] if self.body is None else self.body.decorations
        one = next((d for d in laid if d.id == decoration_id), None)
        if not isinstance(one, Decoration):
            raise NotFound("decoration", "the piece has none that is called so", "Choose another")
        return one

    @property
    def form_kind(self) -> FormKind | Literal["body", "figure"]:
        """What its form is called on the shelf."""
        begins = self.begins
        return begins.form_kind if isinstance(begins, ReliefBegin) else begins.kind


_CALLED = {
    "corrections": "correction",
    "build_up": "entry",
    "fittings": "fitting",
    "decorations": "decoration",
    "parts": "part",
    "finish": "finish",
}


def _named(value: Any, taken: set[str], kind: str = "step") -> Any:
    """The same steps, those without an id (or with one that is taken) given one.

    Parameters
    ----------
    taken : ids that are in use elsewhere; those of the steps are added to it
    kind : what ids that are given begin with
    """
    if isinstance(value, list):
        if not value or not isinstance(value[0], Step):
            return value
        found = [_with_id(_named(step, taken), n, taken, kind) for n, step in enumerate(value, 1)]
        same = all(new is old for new, old in zip(found, value, strict=True))
        return value if same else found
    if not isinstance(value, Step):
        return value
    changed = {}
    for name in type(value).model_fields:
        old = getattr(value, name)
        new = _named(old, taken, _CALLED.get(name, "step"))
        if new is not old:
            changed[name] = new
    return value.model_copy(update=changed) if changed else value


def _with_id(step: Any, number: int, taken: set[str], kind: str) -> Any:
    if not isinstance(step, Listed):
        return step
    name, more = step.id or f"{kind}-{number}", 1
    while name in taken:
        more += 1
        name = f"{kind}-{number}-{more}"
    taken.add(name)
    return step if name == step.id else step.model_copy(update={"id": name})


def default_recipe(
    sha256: str, rows: int, cols: int, filename: str = "", heights: HeightScale | None = None
) -> Recipe:
    """The recipe of a picture that just arrived: 100 mm on its longer side.

    Parameters
    ----------
    heights : what its tones are worth, when the file holds heights; they are kept exactly
    """
    file = PictureFile(sha256=sha256, filename=filename)
    along: Literal["wide", "tall"] = "wide" if cols >= rows else "tall"
    if heights is None:
        return Recipe(begins=ReliefBegin(art=Art(picture=Pictured(file=file, along=along))))
    art = Art(
        picture=Pictured(file=file, along="wide", side=Length(mm=heights.wide_mm)),
        backing=Length(mm=1.0 if heights.above == "backing" else 0.0),
        build_up=[
            PictureEntry(id=PICTURE_ENTRY, depth=Length(mm=heights.white_mm), cut_dropped=True)
        ],
    )
    return Recipe(begins=ReliefBegin(art=art), triangles=Triangles(detail="picture"))


def drawn_recipe(picture: PictureFile, wide_mm: float, entry: DrawingEntry) -> Recipe:
    """The recipe of a drawing that just arrived: its shape, 3 mm thick, in its own size.

    Parameters
    ----------
    picture, wide_mm : of the drawing, about the middle of which it lies
    """
    side = Length(mm=wide_mm)
    own = PictureEntry(id=PICTURE_ENTRY, enabled=False)
    shape = entry.model_copy(update={"rule": "highest", "height": Length(mm=3.0)})
    edge = Edge(kind="along", margin=Length(mm=0.0))
    art = Art(
        picture=Pictured(file=picture, along="wide", side=side),
        backing=Length(mm=0.0),
        build_up=[own, shape],
        edge=edge,
    )
    return Recipe(begins=ReliefBegin(art=art))


def brought_recipe(file: MeshFile, unit: BodyUnit) -> Recipe:
    """The recipe of a mesh that just arrived, as it is.

    Parameters
    ----------
    unit : what its numbers are taken for
    """
    return Recipe(begins=BodyBegin(body=ImportedBody(file=file, unit=unit)))


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
    if isinstance(values, dict):
        values = upgrade(values, SCHEMA_VERSION)
    try:
        return Recipe.model_validate(values)
    except ValidationError as error:
        raise explain(error.errors(), exact=True) from error
