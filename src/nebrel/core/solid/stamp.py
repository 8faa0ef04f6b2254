"""A stamp that slides in a cutter: a block of its opening, with ridges where details are."""

from __future__ import annotations

from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Solid, grown
from nebrel.core.outline.backings import without_holes
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.solid.cutter import Cutter, opening_of

_GRIP_MM = 5.0  # that it stands out of the cutter when it is pressed down
_PRESS_MM = 1.6  # how deep ridges press
_JOINED_MM = 3.0  # how thick the plate is that holds what stands apart


def stamp_for(outline: Outline, sizes: Cutter, clearance_mm: float) -> Solid:
    """A stamp, face upwards on z = 0, for the cutter of an outline.

    Parameters
    ----------
    clearance_mm : between its sides and the cutter's, on each side

    Raises
    ------
    InvalidValue : the clearance leaves nothing of it
    """
    opening = region_of(opening_of(outline, sizes.gap))
    face = grown(opening, -clearance_mm)
    if face.is_empty():
        raise InvalidValue(
            "clearance", f"{clearance_mm:g} mm leaves nothing of the stamp", "Choose a smaller one"
        )
    high = sizes.high + _GRIP_MM
    solid = face.extrude(high)
    if len(face.decompose()) > 1:
        held = outline_of(face.hull())
        # Outside the cutter, so that it still goes all the way in.
        solid = solid + region_of(held).extrude(min(_JOINED_MM, _GRIP_MM - 1))
    holes = (region_of(without_holes(outline)) - region_of(outline)) ^ face
    ridges = holes - grown(holes, -sizes.wall)
    if not ridges.is_empty():
        solid = solid + ridges.extrude(high + _PRESS_MM)
    return solid
