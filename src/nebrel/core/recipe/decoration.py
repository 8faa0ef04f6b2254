"""Decorations: art that is laid on a body, as a recipe keeps it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from nebrel.core.recipe.art import Art
from nebrel.core.recipe.step import Listed

MOST_DECORATIONS = 40
Coordinate = Annotated[float, Field(ge=-100_000, le=100_000)]
Place = tuple[Coordinate, Coordinate, Coordinate]


class Decoration(Listed):
    """Art on a body, along its surface.

    Attributes
    ----------
    at : (x, y, z) mm; the nearest place of the surface is the art's middle
    up : the way in space that the art's up is nearest to
    turn : degrees to the left
    does : it stands out of the surface, lies in it, or is cut right through the wall
    repeat, axis : so often, evenly around an upright or lying axis through the body's middle
    """

    kind: Literal["decoration"] = "decoration"
    art: Art
    at: Place = (0.0, 0.0, 0.0)
    up: Place = (0.0, 0.0, 1.0)
    turn: float = Field(0.0, ge=-360, le=360)
    does: Literal["raise", "sink", "through"] = "raise"
    repeat: int = Field(1, ge=1, le=120)
    axis: Literal["x", "y", "z"] = "z"

    @field_validator("up")
    @classmethod
    def _somewhere(cls, given: Place) -> Place:
        if max(map(abs, given)) < 1e-9:
            raise ValueError("up points somewhere; give a way in space")
        return given
