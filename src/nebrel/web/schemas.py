"""What the API sends. The front end's types are generated from these."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from nebrel.core.heights.raise_tones import size_mm
from nebrel.core.recipe.models import Recipe
from nebrel.store.store import PictureInfo, Piece
from nebrel.web.errors import ErrorDetail


class PictureOut(BaseModel):
    """A picture that was brought in."""

    sha256: str
    filename: str
    file_format: str
    cols: int
    rows: int
    bit_depth: int
    coloured: bool
    transparent: bool
    dpi: float | None
    notes: list[str]

    @classmethod
    def of(cls, info: PictureInfo) -> PictureOut:
        """From the store's own."""
        return cls(**(info.__dict__ | {"notes": list(info.notes)}))


class PieceCard(BaseModel):
    """A piece as the shelf shows it."""

    id: str
    name: str
    changed: datetime
    revision: int
    form: str
    wide_mm: float
    tall_mm: float

    @classmethod
    def of(cls, piece: Piece) -> PieceCard:
        """From the store's own."""
        return cls(**_card(piece))


class PieceOut(PieceCard):
    """A piece as the bench works on it."""

    recipe: Recipe
    picture: PictureOut
    undo: str | None = Field(description="what would be undone, or null")
    redo: str | None = Field(description="what would be redone, or null")

    @classmethod
    def of(cls, piece: Piece) -> PieceOut:
        """From the store's own."""
        return cls(
            **_card(piece),
            recipe=piece.recipe,
            picture=PictureOut.of(piece.picture),
            undo=piece.undo,
            redo=piece.redo,
        )


def _card(piece: Piece) -> dict[str, Any]:
    step = piece.recipe.picture
    wide, tall = size_mm(piece.picture.rows, piece.picture.cols, step.along, step.side.mm)
    return {
        "id": piece.id,
        "name": piece.name,
        "changed": piece.changed.replace(tzinfo=UTC),
        "revision": piece.revision,
        "form": piece.recipe.form.kind,
        "wide_mm": wide,
        "tall_mm": tall,
    }


class Rename(BaseModel):
    """A new name."""

    name: str = Field(max_length=400)


class Change(BaseModel):
    """A new state of a recipe, and the revision it was made on."""

    recipe: Recipe
    label: str = Field("", max_length=120)
    base: int | None = None


class LengthIn(BaseModel):
    """A length as typed."""

    text: str = Field(max_length=120)


class LengthOut(BaseModel):
    """A length in millimetres, with its words."""

    mm: float
    text: str


class PictureFigures(BaseModel):
    """Figures of the Picture stop."""

    cols: int
    rows: int
    bit_depth: int
    transparent: bool
    notes: list[str]


class HeightsFigures(BaseModel):
    """Figures of the Heights stop."""

    lowest_mm: float
    highest_mm: float


class FormFigures(BaseModel):
    """Figures of the Form stop."""

    kind: str
    wide_mm: float
    tall_mm: float


class MeshFigures(BaseModel):
    """Figures of the Finish stop."""

    triangles: int
    vertices: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float
    closed: bool
    manifold: bool
    bodies: int


class Figures(BaseModel):
    """What an evaluation came to; also sent in every GLB under `asset.extras`."""

    quality: Literal["draft", "full"]
    key: str
    picture: PictureFigures
    heights: HeightsFigures
    form: FormFigures
    mesh: MeshFigures


class JobOut(BaseModel):
    """Long work and how it stands."""

    id: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    done: float = Field(description="share done, 0 to 1")
    step: str
    figures: Figures | None = None
    error: ErrorDetail | None = None
