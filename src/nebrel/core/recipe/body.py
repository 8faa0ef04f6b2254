"""A piece that begins as a body."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from nebrel.core.errors import InvalidRecipe
from nebrel.core.recipe.decoration import MOST_DECORATIONS, AnyDecoration
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.ready import ReadyBody
from nebrel.core.recipe.step import MeshFile, Step

BodyUnit = Literal["file", "mm", "cm", "m", "in"]
Angle = Annotated[float, Field(ge=-360, le=360)]


class ImportedBody(Step):
    """A mesh from a file.

    Attributes
    ----------
    unit : of its numbers, whatever the file says; "file" is what it says, or mm
    up : which of its axes points up
    """

    kind: Literal["mesh"] = "mesh"
    file: MeshFile
    unit: BodyUnit = "file"
    up: Literal["z", "y"] = "z"


class LinkedPiece(Step):
    """Another piece of the shelf, as it is by now.

    Attributes
    ----------
    piece_id : where it is kept
    recipe : its own, as it was when it was last looked at; None until it is
    """

    kind: Literal["piece"] = "piece"
    piece_id: str = Field(max_length=40)
    name: str = Field("", max_length=200)
    recipe: dict[str, Any] | None = None

    @field_validator("recipe")
    @classmethod
    def _names_files(cls, given: dict[str, Any] | None) -> dict[str, Any] | None:
        """What lies within is read when it is made; that it names files only is seen here."""
        try:
            files_of(given)
        except InvalidRecipe as error:
            raise ValueError(f"{error.why}") from error
        except RecursionError as error:
            raise ValueError("it lies too deep within itself") from error
        return given


class BodyBegin(Step):
    """A piece that begins as a body: a mesh, a ready shape or a piece, decorated and finished.

    Attributes
    ----------
    times : how many times as large it becomes
    turn_x, turn_y, turn_z : degrees, turned about its middle, in that order
    set_down : its middle over the origin, its lowest point on the table
    """

    kind: Literal["body"] = "body"
    body: Annotated[ImportedBody | LinkedPiece | ReadyBody, Field(discriminator="kind")]
    times: float = Field(1.0, ge=0.001, le=1000)
    turn_x: Angle = 0.0
    turn_y: Angle = 0.0
    turn_z: Angle = 0.0
    set_down: bool = False
    decorations: Annotated[
        list[AnyDecoration],
        Field(max_length=MOST_DECORATIONS, description="laid on it, one after the other"),
    ] = []

    @model_validator(mode="before")
    @classmethod
    def _said(cls, given: Any) -> Any:
        """A body that names a file is a mesh where it does not say; art on it is a decoration."""
        if isinstance(given, dict) and isinstance(given.get("decorations"), list):
            given = {**given, "decorations": [_of_a_kind(one) for one in given["decorations"]]}
        body = given.get("body") if isinstance(given, dict) else None
        if isinstance(body, dict) and "kind" not in body and "file" in body:
            return {**given, "body": {"kind": "mesh", **body}}
        return given

    @property
    def imported(self) -> ImportedBody | None:
        """The mesh from a file that it begins with, where it does."""
        return self.body if isinstance(self.body, ImportedBody) else None

    @property
    def moved(self) -> bool:
        """Whether it lies, or is as large, as it was not to begin with."""
        turned = self.turn_x, self.turn_y, self.turn_z
        return self.times != 1 or any(turned) or self.set_down


def _of_a_kind(given: Any) -> Any:
    known = not isinstance(given, dict) or "kind" in given
    return given if known else {"kind": "decoration", **given}
