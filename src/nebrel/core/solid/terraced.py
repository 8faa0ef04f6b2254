"""A solid by its contours: slopes between them, as a map has them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.heights.laid import Stack
from nebrel.core.kernel import Region, Solid, nothing, solid_of
from nebrel.core.outline.regions import region_of
from nebrel.core.solid.flat import flat_triangles


def standing(stacks: Sequence[Stack]) -> Solid:
    """Stacks as one solid."""
    whole = nothing()
    for stack in stacks:
        solid = terraced([(region_of(outline), mm) for outline, mm in stack.contours])
        if stack.opening:
            over = region_of(stack.opening).extrude(stack.top_mm + 2)
            solid = solid - over.translate((0, 0, -1))
        whole = whole + solid
    return whole


def terraced(contours: Sequence[tuple[Region, float]]) -> Solid:
    """A solid from z = 0 with a wall up to its lowest contour and slopes between all of them.

    Parameters
    ----------
    contours : regions, each within the one before, and their heights, rising; the last is flat

    Its surface is exact at every contour, and straight between two of them.
    """
    kept = [(region, z) for region, z in contours if not region.is_empty()]
    if not kept:
        return nothing()
    points: list[NDArray[np.float64]] = []
    faces: list[NDArray[np.int64]] = []
    levels = [_placed(region, z, points) for region, z in kept]
    floor = _placed(kept[0][0], 0.0, points)
    for outer, inner in zip(levels, [*levels[1:], None], strict=True):
        faces.append(_between(outer, inner))
    faces.append(_between(floor, None)[:, ::-1])
    faces += _walls(floor, levels[0])
    return _solid(points, faces)


def stepped(steps: Sequence[tuple[Region, float]]) -> Solid:
    """A solid from z = 0 of flat steps with straight walls.

    Parameters
    ----------
    steps : regions, each within the one before and not touching it, and their heights, rising
    """
    points: list[NDArray[np.float64]] = []
    faces: list[NDArray[np.int64]] = []
    lows, highs = [], []
    floor = 0.0
    for region, z in steps:
        lows.append(_placed(region, floor, points))
        highs.append(_placed(region, z, points))
        floor = z
    faces.append(_between(lows[0], None)[:, ::-1])
    for low, high, inner in zip(lows, highs, [*lows[1:], None], strict=True):
        faces += [*_walls(low, high), _between(high, inner)]
    return _solid(points, faces)


def _walls(below: Placed, above: Placed) -> list[NDArray[np.int64]]:
    found = []
    for (_, low), (_, high) in zip(below, above, strict=True):
        next_high, next_low = np.roll(high, -1), np.roll(low, -1)
        found.append(np.column_stack([low, next_low, next_high]))
        found.append(np.column_stack([low, next_high, high]))
    return found


def _solid(points: list[NDArray[np.float64]], faces: list[NDArray[np.int64]]) -> Solid:
    whole = np.concatenate(points).astype(np.float32), np.concatenate(faces).astype(np.int32)
    return solid_of(Mesh(*whole))


Placed = list[tuple[NDArray[np.float64], NDArray[np.int64]]]


def _placed(region: Region, z: float, points: list[NDArray[np.float64]]) -> Placed:
    """The lines of a region, and the numbers that their corners have among the points."""
    found: Placed = []
    count = sum(len(part) for part in points)
    for loop in region.to_polygons():
        line = np.asarray(loop, np.float32).astype(np.float64)
        points.append(np.column_stack([line, np.full(len(line), z)]))
        found.append((line, np.arange(count, count + len(line))))
        count += len(line)
    return found


def _between(outer: Placed, inner: Placed | None) -> NDArray[np.int64]:
    """Triangles of what lies within one contour and outside the next, looking up."""
    lines = [line for line, _ in outer]
    numbers = [own for _, own in outer]
    for line, own in inner or []:
        lines.append(line[::-1])
        numbers.append(own[::-1])
    flat: NDArray[np.int64] = np.concatenate(numbers)[flat_triangles(lines)]
    return flat
