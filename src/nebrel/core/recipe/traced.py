"""A shape traced in the picture, as a recipe keeps it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nebrel.core.choices import Does
from nebrel.core.outline.node_edit import NodeEdit
from nebrel.core.outline.tidy import Choice, Tidy
from nebrel.core.recipe.corrections import Colour, Tone
from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Step

MOST_CHOICES = 500

Place = Annotated[Length, between(-5000, 5000, "a place")]


class PartChoice(Step):
    """A part that was dropped, or kept alone, by hand: whichever lies at that place."""

    x: Place
    y: Place
    keep: Literal["drop", "alone"] = "drop"


class NodeChange(Step):
    """What was done to a node of the curves by hand, by its place."""

    does: Does = "move"
    x: Place
    y: Place
    to_x: Place | None = None
    to_y: Place | None = None

    @model_validator(mode="after")
    def _put(self) -> NodeChange:
        if (self.to_x is None) != (self.to_y is None):
            raise ValueError("a node is put to a place across and up; give both")
        if self.does == "move" and self.to_x is None:
            raise ValueError("a node that is moved has a place that it is moved to; give it")
        return self


class Trace(Step):
    """What of the corrected picture is traced, and how.

    Places of parts are in mm from the middle of the picture, so that they find their part
    whatever else of the trace changes.
    """

    of: Annotated[
        Literal["dark", "light", "band", "kept", "colour"],
        Field(description="darker or lighter than a tone, between two, what is kept, or a colour"),
    ] = "dark"
    level: Annotated[
        Tone | None, Field(description="where a band begins; when left out, what parts best")
    ] = None
    upto: Annotated[Tone, Field(description="where a band ends")] = 1.0
    colour: Colour = Field((0.0, 0.0, 0.0), description="red, green and blue, as displayed")
    near: float = Field(20.0, ge=0.5, le=200, description="how different it may look, in L*a*b*")
    within: Annotated[
        Annotated[Length, between(0.0005, 50, "a distance")] | None,
        Field(description="how far curves may be from the line; when left out, by the pixels"),
    ] = None
    corner: float = Field(35.0, ge=1, le=180, description="the smallest turn that stays sharp")
    below_mm2: float = Field(
        0.2, ge=0, le=1e6, description="parts and holes that are smaller are left out"
    )
    border: bool = Field(False, description="parts that touch the picture's border are left out")
    gap: Annotated[
        Length, between(0, 100, "a gap"), Field(description="gaps up to this are closed")
    ] = Length(mm=0.0)
    choices: Annotated[list[PartChoice], Field(max_length=MOST_CHOICES)] = []
    nodes: Annotated[
        list[NodeChange],
        Field(max_length=MOST_CHOICES, description="by hand, in order; they stay where they are"),
    ] = []
    stroke: Annotated[
        Annotated[Length, between(0.05, 100, "a width")] | None,
        Field(description="line art by the middle of its strokes, drawn so wide; else both edges"),
    ] = None

    def edits(self, size_mm: tuple[float, float]) -> list[NodeEdit]:
        """What was done to nodes, from the lower left of a picture of that size."""
        across, up = size_mm[0] / 2, size_mm[1] / 2
        return [
            NodeEdit(
                one.does,
                (one.x.mm + across, one.y.mm + up),
                None if one.to_x is None or one.to_y is None
                else (one.to_x.mm + across, one.to_y.mm + up),
            )
            for one in self.nodes
        ]  # fmt: skip

    def tidy(self, size_mm: tuple[float, float]) -> Tidy:
        """What is left out, on a picture of that width and height."""
        middle = size_mm[0] / 2, size_mm[1] / 2
        choices = tuple(
            Choice(one.x.mm + middle[0], one.y.mm + middle[1], one.keep == "alone")
            for one in self.choices
        )
        return Tidy(self.below_mm2, self.border, self.gap.mm, choices)
