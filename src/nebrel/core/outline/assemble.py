"""Lines of a drawing put together: ends joined, doubles removed, what stays open found."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Loop
from nebrel.core.kernel import Region, non_zero
from nebrel.core.outline.outline import area_of

_SAME = 1e-4  # of a line's size: two that differ by less are the same line twice


@dataclass(frozen=True)
class Drawn:
    """A line of a drawing, mm.

    Attributes
    ----------
    points : (n, 2); a closed one does not repeat its first
    called : what it is in the file
    """

    points: Loop
    closed: bool
    called: str


@dataclass(frozen=True)
class Assembled:
    """What lines came to.

    Attributes
    ----------
    loops : closed
    left_open : lines that close with no other
    joined, doubles : how many ends were joined that did not meet, and lines that were there twice
    """

    loops: list[Loop]
    left_open: list[Drawn]
    joined: int
    doubles: int


def open_ends(lines: Sequence[Drawn], most: int = 100) -> tuple[tuple[float, float], ...]:
    """Where lines that stay open begin and end."""
    ends = [point for line in lines for point in (line.points[0], line.points[-1])]
    return tuple((float(x), float(y)) for x, y in ends[:most])


def assemble(lines: Sequence[Drawn], join_mm: float) -> Assembled:
    """Closed loops of lines whose ends lie within a distance."""
    single = _single(lines)
    loops = [line.points for line in single if line.closed]
    chains, joined = _chains([line for line in single if not line.closed], join_mm)
    left_open = []
    for chain in chains:
        if chain.closed:
            loops.append(chain.points)
        else:
            left_open.append(chain)
    return Assembled(loops, left_open, joined, len(lines) - len(single))


def _single(lines: Sequence[Drawn]) -> list[Drawn]:
    found: dict[tuple[float, ...], Drawn] = {}
    for number, line in enumerate(lines):
        points = line.points
        low, high = points.min(axis=0), points.max(axis=0)
        size = max(float((high - low).max()), 1e-9)
        step = np.diff(points, axis=0, append=points[:1] if line.closed else points[-1:])
        values = [*low, *high, float(np.hypot(step[:, 0], step[:, 1]).sum())]
        values.append(math.sqrt(abs(area_of(points))) if line.closed else -1.0)
        grid = 10 ** round(math.log10(size * _SAME))
        key = tuple(round(value / grid) for value in values)
        if len(points) < 2:
            key = (*key, number)
        found.setdefault(key, line)
    return list(found.values())


def _chains(lines: Sequence[Drawn], join_mm: float) -> tuple[list[Drawn], int]:
    """Open lines end to end; and how many ends were moved for that."""
    if not lines:
        return [], 0
    from scipy.spatial import cKDTree

    ends = np.array([line.points[side] for line in lines for side in (0, -1)])
    pairs = cKDTree(ends).query_pairs(max(join_mm, 1e-9), output_type="ndarray")
    apart = np.hypot(*(ends[pairs[:, 0]] - ends[pairs[:, 1]]).T)
    # Ends of one line meet each other only when it is long enough to be a loop.
    other: dict[int, int] = {}
    moved = 0
    for k in np.argsort(apart, kind="stable"):
        a, b = int(pairs[k, 0]), int(pairs[k, 1])
        if a in other or b in other or (a // 2 == b // 2 and len(lines[a // 2].points) < 4):
            continue
        other[a], other[b] = b, a
        moved += bool(apart[k] > 1e-6)
    found, seen = [], np.zeros(len(lines), bool)
    starts = [end for end in range(len(ends)) if end not in other]
    for start in [*starts, *range(0, len(ends), 2)]:
        if seen[start // 2]:
            continue
        found.append(_chain(lines, other, start, seen))
    return found, moved


def _chain(
    lines: Sequence[Drawn], other: dict[int, int], start: int, seen: NDArray[np.bool_]
) -> Drawn:
    parts, at = [], start
    while not seen[at // 2]:
        line = lines[at // 2]
        seen[at // 2] = True
        parts.append(line.points if at % 2 == 0 else line.points[::-1])
        far = at ^ 1
        if far not in other:
            return Drawn(_without_doubles(np.concatenate(parts)), False, line.called)
        at = other[far]
    points = _without_doubles(np.concatenate(parts))
    if len(points) > 1 and np.hypot(*(points[0] - points[-1])) < 1e-6:
        points = points[:-1]
    return Drawn(points, len(points) > 2, lines[start // 2].called)


def _without_doubles(points: Loop) -> Loop:
    if len(points) < 2:
        return points
    kept = np.hypot(*np.diff(points, axis=0).T) > 1e-7
    return points if kept.all() else points[np.concatenate([[True], kept])]


def stroked(
    points: Loop,
    closed: bool,
    wide_mm: float,
    cap: str = "butt",
    join: str = "miter",
    limit: float = 4.0,
) -> Region:
    """The area of a line that is drawn with a width.

    Parameters
    ----------
    cap, join, limit : as SVG calls them, the last of mitres
    """
    half = wide_mm / 2
    points = _without_doubles(points)
    if closed:
        points = np.concatenate([points, points[:1]])
    if len(points) < 2:
        return non_zero([_round(points[0], half)] if cap == "round" else [])
    if len(points) == 2 and not closed:
        return non_zero([_bar(points[0], points[1], half, cap)])
    step = np.diff(points, axis=0)
    along = step / np.hypot(*step.T)[:, None]
    aside = np.column_stack([-along[:, 1], along[:, 0]]) * half
    start, end = points[:-1].copy(), points[1:].copy()
    if cap == "square" and not closed:
        start[0] -= along[0] * half
        end[-1] += along[-1] * half
    loops = _positive(np.stack([start - aside, end - aside, end + aside, start + aside], axis=1))
    count = len(step)
    which = np.arange(count if closed else count - 1)
    loops += _joints(points[which + 1], aside[which], aside[(which + 1) % count], half, join, limit)
    if cap == "round" and not closed:
        loops += [_round(points[0], half), _round(points[-1], half)]
    return non_zero(loops)


def _bar(start: Loop, end: Loop, half: float, cap: str) -> Loop:
    """One straight line with a width."""
    along = (end - start) / np.hypot(*(end - start)) * half
    aside = np.array([-along[1], along[0]])
    if cap == "round":
        around = _round(np.zeros(2), half)
        ahead = around @ along > 0
        found = np.concatenate([around[ahead] + end, around[~ahead] + start])
        middle = (start + end) / 2
        order = np.argsort(np.arctan2(*(found - middle).T[::-1]))
        sides = np.stack([end - aside, end + aside, start + aside, start - aside])
        loop: Loop = np.concatenate([found[order], sides])
        turned = np.argsort(np.arctan2(*(loop - middle).T[::-1]), kind="stable")
        return loop[turned]
    if cap == "square":
        start, end = start - along, end + along
    return np.stack([start - aside, end - aside, end + aside, start + aside])


def _positive(loops: NDArray[np.float64]) -> list[Loop]:
    """Loops (n, k, 2), each counter-clockwise."""
    x, y = np.moveaxis(loops - loops[:, :1], -1, 0)
    area = (x * np.roll(y, -1, axis=1) - np.roll(x, -1, axis=1) * y).sum(axis=1)
    return list(np.where((area > 0)[:, None, None], loops, loops[:, ::-1]))


def _joints(place: Loop, one: Loop, two: Loop, half: float, join: str, limit: float) -> list[Loop]:
    """What fills the corners at places (n, 2) between the sides of two pieces (n, 2)."""
    cross = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    straight = (np.abs(cross) < 1e-9 * half * half) & ((one * two).sum(axis=1) > 0)
    place, one, two, cross = (each[~straight] for each in (place, one, two, cross))
    if not len(place):
        return []
    if join == "round":
        around = _round(np.zeros(2), half)
        return [around + at for at in place]
    outer = np.where(cross > 0, -1.0, 1.0)[:, None]
    a, b = place + outer * one, place + outer * two
    middle = one + two
    reach = (middle**2).sum(axis=1) / 2 / half**2  # of a mitre: half * 2 / |middle|
    mitred = (reach > 2 / max(limit, 1.0) ** 2) & (join == "miter")
    tip = place + outer * middle / np.where(mitred, reach, 1.0)[:, None]
    tips = _positive(np.stack([place, a, tip, b], axis=1))
    flat = _positive(np.stack([place, a, b], axis=1))
    return [tips[k] if mitred[k] else flat[k] for k in range(len(place))]


def _round(place: Loop, radius: float) -> Loop:
    return place + _round_about_origin(radius)


@lru_cache(100)
def _round_about_origin(radius: float) -> Loop:
    from nebrel.core.kernel import round_sides

    sides = round_sides(radius)
    angle = np.arange(sides) * (2 * math.pi / sides)
    found: Loop = radius * np.column_stack([np.cos(angle), np.sin(angle)])
    found.flags.writeable = False
    return found
