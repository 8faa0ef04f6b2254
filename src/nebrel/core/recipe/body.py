"""A piece that begins as a mesh."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.recipe.decoration import MOST_DECORATIONS, Decoration
from nebrel.core.recipe.step import MeshFile, Step

BodyUnit = Literal["file", "mm", "cm", "m", "in"]


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


class BodyBegin(Step):
    """A piece that begins as a body: a mesh that is decorated and finished."""

    kind: Literal["body"] = "body"
    body: ImportedBody
    decorations: Annotated[
        list[Decoration],
        Field(max_length=MOST_DECORATIONS, description="laid on it, one after the other"),
    ] = []
