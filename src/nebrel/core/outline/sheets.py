"""Flat sheets of shapes that lie on each other: let into each other, or stacked."""

from __future__ import annotations

from collections.abc import Sequence

from nebrel.core.choices import SheetWay
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, grown
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of


def as_sheets(
    outlines: Sequence[tuple[Outline, bool]], way: SheetWay, clearance_mm: float
) -> list[Outline | None]:
    """What each shape becomes as a sheet; None where nothing of it is left.

    Parameters
    ----------
    outlines : from the lowest up; whether each is an opening through all that lies below it
    way : inlaid, each lies in openings of those below it; stacked, each lies on them
    clearance_mm : between a sheet and the opening that it lies in, in all

    Raises
    ------
    InvalidValue : nothing is left of any
    """
    regions = [region_of(outline) for outline, _ in outlines]
    found: list[Outline | None] = []
    for k, (region, (_, opening)) in enumerate(zip(regions, outlines, strict=True)):
        if opening:
            continue
        own: Region = region
        if way == "inlaid" and k > 0:
            own = grown(own, -clearance_mm / 2)
        for above, (_, cuts) in zip(regions[k + 1 :], outlines[k + 1 :], strict=True):
            if cuts:
                own = own - above
            elif way == "inlaid":
                own = own - grown(above, clearance_mm / 2)
        found.append(None if own.is_empty() else outline_of(own))
    if all(one is None for one in found):
        raise InvalidValue("sheets", "nothing is left of any", "Add a shape, or a backing")
    return found
