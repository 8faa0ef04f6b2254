"""A flat region by the lines around it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Loop, Mask

Points = NDArray[np.floating[Any]]
Corner = NDArray[np.float64]
_MANY = 20_000_000  # points times edges
Cubics = NDArray[np.float64]
"""A closed line as cubic Bézier curves, (n, 4, 2): each begins where the one before ends."""


@dataclass(frozen=True, eq=False)
class Outline:
    """A region in mm, x to the right and y up.

    Attributes
    ----------
    loops : closed lines, each (n, 2), none crossing another; those around what is filled run to
        the left, those around holes to the right, so that every fill rule fills the same
    curves : what each loop is within a few micrometres of, where that is known; else empty
    """

    loops: tuple[Loop, ...] = ()
    curves: tuple[Cubics, ...] = ()

    def __bool__(self) -> bool:
        """Whether there is anything."""
        return bool(self.loops)

    @property
    def area_mm2(self) -> float:
        """Of all that it fills; of its curves, where those are known."""
        if self.curves:
            return float(sum(area_of_curves(curves) for curves in self.curves))
        return float(sum(area_of(loop) for loop in self.loops))

    @property
    def length_mm(self) -> float:
        """Of all its lines; of its curves, where those are known."""
        if self.curves:
            return float(sum(length_of_curves(curves) for curves in self.curves))
        steps = (loop - np.roll(loop, 1, axis=0) for loop in self.loops)
        return float(sum(np.hypot(step[:, 0], step[:, 1]).sum() for step in steps))

    @property
    def bounds(self) -> tuple[Corner, Corner]:
        """Lowest and highest x, y; of something."""
        points = np.concatenate(self.loops).astype(np.float64)
        return points.min(axis=0), points.max(axis=0)

    @property
    def exact_bounds(self) -> tuple[Corner, Corner]:
        """The same of its curves, where those are known."""
        if not self.curves:
            return self.bounds
        boxes = [box_of_curves(curves) for curves in self.curves]
        lows, highs = zip(*boxes, strict=True)
        return np.min(lows, axis=0), np.max(highs, axis=0)

    def moved(self, x_mm: float, y_mm: float, turn_deg: float = 0.0) -> Outline:
        """The same, turned to the left about the origin and then moved."""
        return Outline(
            _all_moved(self.loops, x_mm, y_mm, turn_deg),
            _all_moved(self.curves, x_mm, y_mm, turn_deg),
        )

    def mirrored(self, wide_mm: float) -> Outline:
        """The same, left for right, on a piece of that width."""
        turned = [loop * (-1, 1) + (wide_mm, 0) for loop in self.loops]
        curves = [one * (-1, 1) + (wide_mm, 0) for one in self.curves]
        return Outline(
            tuple(loop[::-1] for loop in turned), tuple(one[::-1, ::-1] for one in curves)
        )

    def inside(self, x: Points, y: Points) -> Mask:
        """Whether points lie in it.

        Source: ray crossing, counted on all edges at once.
        """
        found = np.zeros(x.shape, bool)
        if not self.loops:
            return found
        low, high = self.bounds
        near = np.flatnonzero((x >= low[0]) & (x <= high[0]) & (y >= low[1]) & (y <= high[1]))
        start, end = edges_of(self.loops)
        if len(near) * len(start) > _MANY:
            found[near] = _inside_by_rows(x[near], y[near], start, end)
            return found
        for part in np.array_split(near, max(1, len(near) * len(start) // 4_000_000 + 1)):
            px, py = x[part, None], y[part, None]
            crosses = (start[:, 1] > py) != (end[:, 1] > py)
            rise = np.where(end[:, 1] == start[:, 1], 1.0, end[:, 1] - start[:, 1])
            at = start[:, 0] + (py - start[:, 1]) / rise * (end[:, 0] - start[:, 0])
            found[part] = (crosses & (px < at)).sum(axis=1) % 2 == 1
        return found

    def in_pixels(
        self, left_mm: float, low_mm: float, pitch_mm: tuple[float, float], rows: int
    ) -> list[Loop]:
        """Its loops on a grid of so many rows, y down, by where the lower left pixel lies."""
        pitch_x, pitch_y = pitch_mm
        return [
            np.column_stack(
                [(loop[:, 0] - left_mm) / pitch_x, rows - 1 - (loop[:, 1] - low_mm) / pitch_y]
            )
            for loop in self.loops
        ]


def _inside_by_rows(x: Points, y: Points, start: Loop, end: Loop) -> Mask:
    """The same, each edge counted for the points at its height alone."""
    order = np.argsort(y, kind="stable")
    across, up = x[order], y[order]
    low, high = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
    first, last = np.searchsorted(up, low), np.searchsorted(up, high)
    odd = np.zeros(len(x), bool)
    for k in np.flatnonzero(last > first):
        near = slice(first[k], last[k])
        rise = end[k, 1] - start[k, 1]
        at = start[k, 0] + (up[near] - start[k, 1]) / rise * (end[k, 0] - start[k, 0])
        odd[near] ^= across[near] < at
    found = np.zeros(len(x), bool)
    found[order] = odd
    return found


def edges_of(loops: Sequence[Loop]) -> tuple[Loop, Loop]:
    """Where the edges of closed lines begin and end, (n, 2) each."""
    start = np.concatenate(loops)
    sizes = np.array([len(loop) for loop in loops])
    after = np.arange(1, len(start) + 1)
    last = np.cumsum(sizes)
    after[last - 1] = last - sizes
    return start, start[after]


def _all_moved(
    lines: tuple[Loop, ...], x_mm: float, y_mm: float, turn_deg: float
) -> tuple[Loop, ...]:
    if not lines:
        return ()
    whole = moved(np.concatenate(lines), x_mm, y_mm, turn_deg)
    return tuple(np.split(whole, np.cumsum([len(line) for line in lines])[:-1]))


def moved(points: Loop, x_mm: float, y_mm: float, turn_deg: float = 0.0) -> Loop:
    """Points (..., 2), turned to the left about the origin and then moved."""
    turn = math.radians(turn_deg)
    spin = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
    found: Loop = points @ spin + (x_mm, y_mm)
    return found


def area_of(loop: Loop) -> float:
    """What a loop goes around; negative where it runs to the right."""
    x, y = (np.asarray(loop, np.float64) - loop[0]).T
    # The first place is the origin, so what closes the loop adds nothing.
    return float(x[:-1] @ y[1:] - x[1:] @ y[:-1]) / 2


def area_of_curves(curves: Cubics) -> float:
    """As `area_of`, for a closed line of curves.

    Source: Gauss's quadrature, whose three places are exact for polynomials of degree five.
    """
    places, ways, weights = _sampled(curves - curves[0, 0], 3)
    return float(((places[..., 0] * ways[..., 1]) @ weights).sum())


def length_of_curves(curves: Cubics) -> float:
    """How long a line of curves is, about."""
    _, ways, weights = _sampled(curves, 12)
    return float((np.hypot(ways[..., 0], ways[..., 1]) @ weights).sum())


def box_of_curves(curves: Cubics) -> tuple[Corner, Corner]:
    """Lowest and highest x, y of a line of curves: at their ends, or where one turns around."""
    a, b, c, d = (curves[:, k] for k in range(4))
    square, linear, rest = d - 3 * c + 3 * b - a, 2 * (c - 2 * b + a), b - a
    root = np.sqrt(np.maximum(linear**2 - 4 * square * rest, 0))
    # Of both forms of the solution the one that stays exact where the square vanishes.
    half = -0.5 * (linear + np.where(linear < 0, -root, root))
    with np.errstate(divide="ignore", invalid="ignore"):
        turns = np.stack([np.zeros_like(a), np.ones_like(a), half / square, rest / half])
    u = np.clip(np.nan_to_num(turns, nan=0.0), 0, 1)
    v = 1 - u
    places = v**3 * a + 3 * u * v * v * b + 3 * u * u * v * c + u**3 * d
    return places.min(axis=(0, 1)), places.max(axis=(0, 1))


def _sampled(curves: Cubics, count: int) -> tuple[Points, Points, Points]:
    """Places along each curve and its derivatives there, (n, count, 2), and their weights."""
    at, weights = np.polynomial.legendre.leggauss(count)
    u = (at[:, None] + 1) / 2
    v = 1 - u
    a, b, c, d = (curves[:, None, k] for k in range(4))
    places = v**3 * a + 3 * u * v * v * b + 3 * u * u * v * c + u**3 * d
    ways = 3 * (v * v * (b - a) + 2 * u * v * (c - b) + u * u * (d - c))
    return places, ways, weights / 2


def runs_left(loop: Loop) -> bool:
    """Whether a loop goes around its inside to the left."""
    return area_of(loop) > 0


def all_of(outlines: Sequence[Outline]) -> list[Loop]:
    """The loops of several, which may overlap."""
    return [loop for outline in outlines for loop in outline.loops]
