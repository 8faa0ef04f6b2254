"""Outlines of plain shapes, patterns and frames, in mm, x to the right and y up."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.kernel import round_sides
from nebrel.core.outline.outline import Outline


def ellipse(wide_mm: float, tall_mm: float) -> Outline:
    """An ellipse about the origin."""
    angle = _angles(round_sides(max(wide_mm, tall_mm) / 2))
    return Outline((np.column_stack([wide_mm / 2 * np.cos(angle), tall_mm / 2 * np.sin(angle)]),))


def rectangle(wide_mm: float, tall_mm: float, corner_mm: float = 0.0) -> Outline:
    """A rectangle about the origin, its corners rounded with a radius."""
    radius = min(corner_mm, wide_mm / 2, tall_mm / 2)
    x, y = wide_mm / 2 - radius, tall_mm / 2 - radius
    if radius <= 0:
        return Outline((np.array([[-x, -y], [x, -y], [x, y], [-x, y]]),))
    quarter = np.linspace(0, math.pi / 2, round_sides(radius) // 4 + 1)
    centres = [(x, y), (-x, y), (-x, -y), (x, -y)]
    parts = [
        np.column_stack(
            [
                centre[0] + radius * np.cos(quarter + turn * math.pi / 2),
                centre[1] + radius * np.sin(quarter + turn * math.pi / 2),
            ]
        )
        for turn, centre in enumerate(centres)
    ]
    loop = np.concatenate(parts)
    apart = np.hypot(*(loop - np.roll(loop, 1, axis=0)).T) > 1e-9
    return Outline((loop[apart],))


def polygon(wide_mm: float, sides: int) -> Outline:
    """A regular polygon in a circle of the given diameter, a corner on top."""
    angle = _angles(sides) + math.pi / 2
    return Outline((wide_mm / 2 * np.column_stack([np.cos(angle), np.sin(angle)]),))


def star(wide_mm: float, points: int, inner: float) -> Outline:
    """A star in a circle of the given diameter, a point on top.

    Parameters
    ----------
    inner : the inner corners' share of the radius
    """
    angle = _angles(2 * points) + math.pi / 2
    reach = np.where(np.arange(2 * points) % 2 == 0, 1.0, inner) * wide_mm / 2
    return Outline((np.column_stack([reach * np.cos(angle), reach * np.sin(angle)]),))


def ring(wide_mm: float, band_mm: float) -> Outline:
    """A ring of the given outer diameter and band."""
    inner = wide_mm - 2 * band_mm
    whole = ellipse(wide_mm, wide_mm)
    if inner <= 0:
        return whole
    return Outline((*whole.loops, *(loop[::-1] for loop in ellipse(inner, inner).loops)))


def grid_places(
    columns: int, rows: int, across_mm: float, up_mm: float, staggered: bool
) -> list[tuple[float, float, float]]:
    """Places (x, y, turn) of a grid about the origin; every second row may stand half-way."""
    places = []
    for row in range(rows):
        shift = across_mm / 2 if staggered and row % 2 else 0.0
        for column in range(columns):
            x = (column - (columns - 1) / 2) * across_mm + shift
            places.append((x, ((rows - 1) / 2 - row) * up_mm, 0.0))
    return places


def ring_places(count: int, radius_mm: float, turned: bool) -> list[tuple[float, float, float]]:
    """Places on a ring about the origin, the first on top; each may be turned outwards."""
    places = []
    for number in range(count):
        angle = math.pi / 2 - 2 * math.pi * number / count
        turn = math.degrees(angle) - 90 if turned else 0.0
        places.append((radius_mm * math.cos(angle), radius_mm * math.sin(angle), turn))
    return places


def _angles(count: int) -> NDArray[np.float64]:
    return np.arange(count, dtype=np.float64) * (2 * math.pi / count)
