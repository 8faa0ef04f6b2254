"""Cutters for dough or clay: a wall along an outline, a blade, a rim to press on."""

from __future__ import annotations

from dataclasses import dataclass

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.laid import Stack
from nebrel.core.kernel import Region, grown
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.mesh.writable import from_manifold
from nebrel.core.outline.backings import without_holes
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.solid.terraced import standing

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

    Raises
    ------
    InvalidValue : as `check`
    NotSolid : no file could hold it
    """
    check(sizes, line_mm)
    return from_manifold(standing(cutter_stacks(outline, sizes)), _TOLERANCE_MM)


def opening_of(outline: Outline, gap_mm: float) -> Outline:
    """What a cutter cuts out: a shape without its holes, what is narrow between walls filled."""
    opening = region_of(without_holes(outline))
    closed = grown(grown(opening, gap_mm / 2), -gap_mm / 2)
    return without_holes(outline_of(closed + opening))


def cutter_stacks(outline: Outline, sizes: Cutter, base_mm: float = 0.0) -> tuple[Stack, ...]:
    """The same, wall, rim, and what is within the opening, on what is `base_mm` thick.

    What it cuts has the shape's own size: the wall stands outside the outline.
    """
    opening = opening_of(outline, sizes.gap)
    inside = region_of(opening)
    rim = grown(inside, sizes.rim)
    if len((rim - inside).decompose()) > 1:  # parts that stand apart are held together
        rim = rim.hull()
    found = [
        Stack(_wall(inside, sizes, base_mm), opening),
        Stack(((outline_of(rim), base_mm + sizes.rim_thick),), opening),
    ]
    holes = _holes(outline, sizes)
    if holes is not None:
        found += _details(inside, holes, sizes, base_mm)
    return tuple(found)


def is_open(outline: Outline, sizes: Cutter) -> bool:
    """Whether nothing stands within the opening: no ridges, or no holes to have some of."""
    return _holes(outline, sizes) is None


def _holes(outline: Outline, sizes: Cutter) -> Region | None:
    """What there are ridges of within the opening; None where there are none."""
    if sizes.details is None:
        return None
    holes = region_of(without_holes(outline)) - region_of(outline)
    return None if holes.is_empty() else holes


def _wall(opening: Region, s: Cutter, base_mm: float) -> tuple[tuple[Outline, float], ...]:
    """The contours of a wall that thins to a blade, by what lies furthest from its opening."""
    top = base_mm + s.high
    if s.blade >= s.wall - 1e-6:
        return ((outline_of(grown(opening, s.wall)), top),)
    shares = [k / _STEPS for k in range(_STEPS + 1)]
    return tuple(
        (
            outline_of(grown(opening, s.wall - (s.wall - s.blade) * share)),
            top - s.blade_high * (1 - share),
        )
        for share in shares
    )


def _details(opening: Region, holes: Region, s: Cutter, base_mm: float) -> list[Stack]:
    """Ridges along the holes of a shape, within them, and a web that carries them."""
    assert s.details is not None
    inner = outline_of(grown(holes, -s.wall))
    ridges = ((outline_of(holes), base_mm + s.high - s.details),)
    web = base_mm + max(_WEB_MM, min(s.rim_thick, 1.6))
    # A little into the wall, so that no two faces coincide.
    return [Stack(ridges, inner), Stack(((outline_of(grown(opening, s.wall / 2)), web),))]
