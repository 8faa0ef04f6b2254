"""Strokes of a brush over the surface of a piece, as a recipe keeps them."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Step

Coordinate = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]
Wide = Annotated[Length, between(0.2, 200, "a size")]
Strength = Annotated[Length, between(0.001, 50, "a strength")]


class BrushStroke(Step):
    """One stroke over the surface.

    Attributes
    ----------
    places : (x, y, z) in mm on the mesh before the step, in the order in which they were passed
    size : how wide the brush is
    strength : how far it moves the surface at most
    """

    places: Annotated[
        list[tuple[Coordinate, Coordinate, Coordinate]], Field(min_length=1, max_length=2000)
    ]
    size: Wide = Length(mm=8.0)
    strength: Strength = Length(mm=0.5)
