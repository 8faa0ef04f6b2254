"""Solids with crisp walls: cut along outlines, stacked from plateaus."""

from __future__ import annotations

from collections.abc import Sequence

from nebrel.core.data import Floats, HeightField
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.plateaus import Plateau
from nebrel.core.kernel import Region, Solid, nothing
from nebrel.core.outline.regions import region_of
from nebrel.core.outline.trace import trace_mm


def outline_section(cover: Floats, field: HeightField) -> Region:
    """What a mask covers as a flat region in mm, x to the right and y up.

    Raises
    ------
    InvalidValue : it covers nothing
    """
    pitch_x, pitch_y = field.pitch_mm
    section = region_of(trace_mm(cover, pitch_x, pitch_y))
    if section.is_empty() or section.area() < pitch_x * pitch_y:
        raise InvalidValue(
            "heights", "nothing is left after cutting through", "Cut fewer tones, or keep more"
        )
    return section


def cut(solid: Solid, cover: Floats, field: HeightField) -> Solid:
    """A solid over a rectangle, cut straight along the outline of a mask."""
    section = outline_section(cover, field)
    low, high = solid.bounding_box()[2], solid.bounding_box()[5]
    return solid ^ section.extrude(high - low + 2).translate((0, 0, low - 1))


def stack(plateaus: Sequence[Plateau], field: HeightField) -> Solid:
    """A solid of flat plateaus with straight walls between them.

    Parameters
    ----------
    plateaus : the lowest first, each covering all higher ones
    field : gives the size

    Raises
    ------
    InvalidValue : nothing is left, or a plateau has no thickness
    """
    # Laid on each other rather than into each other: shared walls then stay flush.
    solid, floor = nothing(), 0.0
    for plateau in plateaus:
        if plateau.mm <= 0:
            raise InvalidValue(
                "heights",
                f"a tone of {plateau.mm:g} mm has no thickness",
                "Give it at least 0.2 mm, a backing, or cut it through",
            )
        layer = outline_section(plateau.cover, field).extrude(plateau.mm - floor)
        solid += layer.translate((0, 0, floor))
        floor = plateau.mm
    return solid
