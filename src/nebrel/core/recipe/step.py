"""What all steps of a recipe have in common."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Sha256 = Annotated[
    str, Field(pattern=r"^[0-9a-f]{64}$", description="the file's content, its name on disk")
]


class Step(BaseModel):
    """Common ground of all steps: unknown fields are refused, nothing changes in place."""

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        allow_inf_nan=False,
        # What is answered has every field, so that nobody writes a default a second time.
        json_schema_serialization_defaults_required=True,
    )


class Listed(Step):
    """A step of an ordered list. No two of a recipe have the same id."""

    id: str = Field("", max_length=40, description="tells equal steps apart")
    name: str = Field("", max_length=60, description="left out: what it is")
    enabled: bool = True


class PictureFile(Step):
    """A picture that is kept."""

    sha256: Sha256
    filename: str = Field("", max_length=255, description="what the file was called")


class DrawingFile(Step):
    """A drawing that is kept: SVG or DXF."""

    sha256: Sha256
    filename: str = Field("", max_length=255, description="what the file was called")


class MeshFile(Step):
    """A mesh that is kept: STL, OBJ, PLY, OFF, GLB, glTF or 3MF."""

    sha256: Sha256
    filename: str = Field("", max_length=255, description="what the file was called")


class NetworkFile(Step):
    """A network that is kept: ONNX."""

    sha256: Sha256
    filename: str = Field("", max_length=255, description="what the file was called")
