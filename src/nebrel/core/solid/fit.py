"""Fittings joined to a solid, in its flat extent or in space."""

from __future__ import annotations

import math
from dataclasses import dataclass

from nebrel.core.data import HeightField
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import Region, Solid, block, circle, square
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import region_of

_SUNK_MM = 0.4  # how far a fitting reaches into the piece, so that no two faces coincide
_SIDES = 96


@dataclass(frozen=True)
class FlatFit:
    """A box, or a lug with a hole, over the flat extent of a piece.

    Attributes
    ----------
    low, high : corners in (u, v, h) mm; h may lie below 0
    hole : middle and radius of a hole through it, or None
    lug : the upper corners are rounded about the hole by this radius
    """

    low: tuple[float, float, float]
    high: tuple[float, float, float]
    hole: tuple[float, float, float] | None = None
    lug: float = 0.0


@dataclass(frozen=True)
class ColumnFit:
    """An outline over the flat extent of a piece, upright between two heights.

    Attributes
    ----------
    low_mm, high_mm : above the underside; may lie below 0
    cuts : it is taken away, not added
    """

    outline: Outline
    low_mm: float
    high_mm: float
    cuts: bool = False


@dataclass(frozen=True)
class RingFit:
    """A floor with a round hole, about the upright axis of what stands."""

    hole_mm: float
    thick_mm: float


Fit = FlatFit | ColumnFit


def join_flat(solid: Solid, fits: tuple[Fit, ...]) -> Solid:
    """A flat solid with the fittings that lie on its extent; they are bent with it.

    What is taken away is taken from all of it.
    """
    cuts = [fit for fit in fits if isinstance(fit, ColumnFit) and fit.cuts]
    for fit in fits:
        if fit not in cuts:
            solid = solid + flat_solid(fit)
    for fit in cuts:
        solid = solid - flat_solid(fit)
    return solid


def flat_solid(fit: Fit) -> Solid:
    """One fitting before it is joined."""
    if isinstance(fit, ColumnFit):
        column = region_of(fit.outline).extrude(fit.high_mm - fit.low_mm)
        return column.translate((0, 0, fit.low_mm))
    (x0, y0, z0), (x1, y1, z1) = fit.low, fit.high
    if fit.hole is None:
        return block((x1 - x0, y1 - y0, z1 - z0)).translate((x0, y0, z0))
    cx, cy, radius = fit.hole
    around = circle(fit.lug, _SIDES).translate((cx, cy))
    stem = square((2 * fit.lug, cy - y0)).translate((cx - fit.lug, y0))
    flat = (around + stem) - circle(radius, _SIDES).translate((cx, cy))
    return flat.extrude(z1 - z0).translate((0, 0, z0))


def join_ring(solid: Solid, fit: RingFit) -> Solid:
    """A standing solid about the z axis, with a floor around a round hole.

    Raises
    ------
    InvalidValue : the hole is as wide as the piece is inside
    """
    low = float(solid.bounding_box()[2])
    across = solid.slice(low + fit.thick_mm / 2)
    inner = _opening(across)
    if fit.hole_mm / 2 > inner - 0.8:
        raise InvalidValue(
            "socket",
            f"a hole of {fit.hole_mm:g} mm for the lamp does not fit inside {2 * inner:.1f} mm",
            f"The nearest that works is {2 * (inner - 0.8):.1f} mm",
        )
    filled = circle(inner + _SUNK_MM, _SIDES * 2)
    ring = filled - circle(fit.hole_mm / 2, _SIDES * 2)
    return solid + ring.extrude(fit.thick_mm).translate((0, 0, low))


def _opening(across: Region) -> float:
    """Radius of the free space about the axis in a horizontal cut."""
    nearest = math.inf
    for loop in across.to_polygons():
        for x, y in loop:
            nearest = min(nearest, math.hypot(x, y))
    return nearest


def sunk(field: HeightField) -> float:
    """How far a fitting reaches into a piece of this extent."""
    return min(_SUNK_MM, field.wide_mm / 10, field.tall_mm / 10)
