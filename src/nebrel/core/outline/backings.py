"""Where a backing ends that is made for a shape: a plate, a round, a polygon, or along it."""

from __future__ import annotations

import math

import numpy as np

from nebrel.core.choices import Around
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import grown
from nebrel.core.outline import shapes
from nebrel.core.outline.outline import Outline, runs_left
from nebrel.core.outline.regions import outline_of, region_of, united


def backing_around(
    outline: Outline,
    kind: Around,
    margin_mm: float,
    corner_mm: float = 0.0,
    gap_mm: float = 0.0,
    sides: int = 6,
    turn_deg: float = 0.0,
) -> Outline:
    """The outline of a backing, a margin outside a shape, or inside it below 0.

    Parameters
    ----------
    kind : a plate is the shape's own box; a circle is about that box's middle and holds the
        shape; a regular polygon, too; what runs along follows the shape without its holes
    corner_mm : the radius of its corners
    gap_mm : along: gaps as narrow are filled
    sides, turn_deg : of the polygon

    Raises
    ------
    InvalidValue : the margin or the corners leave nothing
    """
    found = _around(outline, kind, margin_mm, corner_mm, gap_mm, sides, turn_deg)
    if not found or found.area_mm2 < 1e-6:
        raise InvalidValue(
            "backing", f"a margin of {margin_mm:g} mm leaves nothing of it", "Choose a wider one"
        )
    return found


def _around(
    outline: Outline,
    kind: Around,
    margin_mm: float,
    corner_mm: float,
    gap_mm: float,
    sides: int,
    turn_deg: float,
) -> Outline:
    low, high = outline.bounds
    middle = (low + high) / 2
    if kind == "plate":
        wide, tall = high - low + 2 * margin_mm
        if min(wide, tall) <= 0:
            return Outline()
        return shapes.rectangle(wide, tall, corner_mm).moved(*middle)
    points = np.concatenate(outline.loops) - middle
    if kind == "circle":
        across = 2 * (float(np.hypot(*points.T).max()) + margin_mm)
        return shapes.ellipse(across, across).moved(*middle) if across > 0 else Outline()
    if kind == "polygon":
        # A corner on top before it is turned: the middles of its sides lie between.
        turn = math.pi / 2 + math.pi / sides + math.radians(turn_deg)
        angle = turn + 2 * math.pi / sides * np.arange(sides)
        ways = np.column_stack([np.cos(angle), np.sin(angle)])
        inner = float((points @ ways.T).max()) + margin_mm
        if inner <= 0:
            return Outline()
        whole = shapes.polygon(2 * inner / math.cos(math.pi / sides), sides)
        return _rounded(whole.moved(0, 0, turn_deg), corner_mm).moved(*middle)
    whole = without_holes(outline)
    region = region_of(whole)
    if margin_mm or gap_mm:
        # Grown further and back again, which closes what is narrow.
        region = grown(grown(region, margin_mm + gap_mm / 2), -gap_mm / 2) + (
            grown(region, margin_mm) if margin_mm else region
        )
        whole = without_holes(outline_of(region))
    return _rounded(whole, corner_mm)


def _rounded(outline: Outline, radius_mm: float) -> Outline:
    """The same with no corner sharper than a radius, where that leaves anything."""
    if radius_mm <= 0:
        return outline
    found = grown(grown(region_of(outline), -radius_mm), radius_mm)
    return outline if found.is_empty() else outline_of(found)


def without_holes(outline: Outline) -> Outline:
    """What its outer lines go around."""
    return united([loop for loop in outline.loops if runs_left(loop)])
