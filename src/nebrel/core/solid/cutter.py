"""Cutters for dough or clay: a wall along an outline, a blade, a rim to press on."""

from __future__ import annotations

from dataclasses import dataclass

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, Solid, grown, outline_of, region_of
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.outline.outline import Outline
from nebrel.core.solid.cut import from_manifold
from nebrel.core.solid.cutout import without_holes
from nebrel.core.solid.terraced import terraced

_TOLERANCE_MM = 0.01
_WEB_MM = 0.8  # at least, of what carries the details
_STEPS = 3  # contours of what thins


@dataclass(frozen=True)
class Cutter:
    """Sizes of a cutter, mm.

    Attributes
    ----------
    wall, high : how thick the wall is below the blade, and how high all of it
    blade, blade_high : how thick the wall ends, and over which height it thins
    rim, rim_thick : how far the rim reaches outside the outline, and how thick it is
    details : how far below the blade ridges along the holes end; None for none
    gap : walls keep that much between them, what is narrower is filled
    """

    wall: float = 0.84
    high: float = 14.0
    blade: float = 0.42
    blade_high: float = 3.0
    rim: float = 4.0
    rim_thick: float = 2.4
    details: float | None = None
    gap: float = 0.6


def check(sizes: Cutter, line_mm: float = 0.4) -> None:
    """Refuse what cannot be a cutter. Raises InvalidValue."""
    s = sizes
    if s.wall < line_mm - 1e-9:
        raise InvalidValue(
            "wall",
            f"{s.wall:g} mm is thinner than one line of {line_mm:g} mm",
            f"The nearest that prints is {line_mm:g} mm",
        )
    if s.blade > s.wall + 1e-9 or s.blade <= 0:
        raise InvalidValue(
            "blade",
            f"{s.blade:g} mm does not fit a wall of {s.wall:g} mm",
            f"The nearest that works is {s.wall:g} mm",
        )
    if s.rim_thick <= 0 or s.rim < s.wall:
        raise InvalidValue(
            "rim",
            f"{s.rim:g} mm wide and {s.rim_thick:g} mm thick, it is none"
            if s.rim_thick <= 0
            else f"{s.rim:g} mm does not reach beyond the wall of {s.wall:g} mm",
            f"The nearest that works is {max(s.wall, s.rim):g} mm, 0.4 mm thick",
        )
    if not 0 < s.blade_high < s.high - s.rim_thick:
        raise InvalidValue(
            "height",
            f"{s.high:g} mm leaves no wall between a rim of {s.rim_thick:g} mm and a blade of "
            f"{s.blade_high:g} mm",
            f"The nearest that works is {s.rim_thick + max(s.blade_high, 0.5) + 1:g} mm",
        )
    if s.details is not None and not 0 <= s.details < s.high - s.rim_thick - 0.2:
        raise InvalidValue(
            "details",
            f"{s.details:g} mm below the blade nothing of them is left",
            f"The nearest that works is {max(0.0, s.high - s.rim_thick - 1):g} mm",
        )


def cutter(outline: Outline, sizes: Cutter, line_mm: float = 0.4) -> tuple[Mesh, MeshReport]:
    """A cutter standing on its rim at z = 0, blade upwards.

    What it cuts has the shape's own size: the wall stands outside the outline.

    Raises
    ------
    InvalidValue : as `check`
    NotSolid : no file could hold it
    """
    check(sizes, line_mm)
    opening = region_of(without_holes(outline))
    # Narrow gaps between walls would be neither open nor closed: they are filled.
    closed = grown(grown(opening, sizes.gap / 2), -sizes.gap / 2)
    opening = region_of(without_holes(outline_of(closed + opening)))
    solid = _walls(opening, sizes.wall, sizes.high, sizes.blade, sizes.blade_high)
    base = grown(opening, sizes.rim) - opening
    if len(base.decompose()) > 1:  # parts that stand apart are held together
        base = grown(opening, sizes.rim).hull() - opening
    solid = solid + base.extrude(sizes.rim_thick)
    if sizes.details is not None:
        holes = region_of(without_holes(outline)) - region_of(outline)
        if not holes.is_empty():
            solid = solid + _details(opening, holes, sizes)
    return from_manifold(solid, _TOLERANCE_MM)


def _walls(opening: Region, wall: float, high: float, blade: float, blade_high: float) -> Solid:
    """A wall outside a region that thins to a blade, by what lies furthest from the region."""
    steps = 1 if blade >= wall - 1e-6 else _STEPS
    contours = [
        (grown(opening, wall - (wall - blade) * k / steps), high - blade_high * (1 - k / steps))
        for k in range(steps + 1)
    ]
    if steps == 1:
        contours = [(contours[0][0], high)]
    return terraced(contours) - opening.extrude(high + 1).translate((0, 0, -0.5))


def _details(opening: Region, holes: Region, sizes: Cutter) -> Solid:
    """Ridges along the holes of a shape, within them, and a web that carries them."""
    assert sizes.details is not None
    ridges = holes - grown(holes, -sizes.wall)
    high = sizes.high - sizes.details
    web = max(_WEB_MM, min(sizes.rim_thick, 1.6))
    return ridges.extrude(high) + grown(opening, sizes.wall / 2).extrude(web)
