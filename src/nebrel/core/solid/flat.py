"""Flat regions as triangles."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Loop
from nebrel.core.outline.outline import area_of

_MANY = 64  # lines; with fewer the kernel of solids is as quick, and was there first
_NONE = 1e-9  # of the area, by which triangles may miss it


def flat_triangles(lines: Sequence[Loop]) -> NDArray[np.int64]:
    """A region by its lines as triangles of the numbers of its corners, (n, 3), looking up.

    Parameters
    ----------
    lines : closed, none crossing another, with the region to the left of them
    """
    if len(lines) >= _MANY:
        found = swept(lines)
        if found is not None:
            return found
    from manifold3d import triangulate

    return np.asarray(triangulate(list(lines)), np.int64).reshape(-1, 3)


def swept(lines: Sequence[Loop]) -> NDArray[np.int64] | None:
    """The same by a sweep, however many lines there are; None where some touch."""
    from nebrel.core.solid.sweep_kernels import triangles_of

    points = np.ascontiguousarray(np.concatenate(lines), np.float64)
    sizes = np.array([len(line) for line in lines])
    last = np.cumsum(sizes)
    before, after = np.arange(len(points)) - 1, np.arange(len(points)) + 1
    before[last - sizes], after[last - 1] = last - 1, last - sizes
    order = np.lexsort((points[:, 0], points[:, 1]))
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    found: NDArray[np.int64] = triangles_of(points, before, after, order, rank)
    if not len(found):
        return None
    a, b, c = (points[found[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    whole = sum(area_of(line) for line in lines)
    missed = abs(twice.sum() / 2 - whole) - 2 * min(0.0, float(twice.min()))
    return found if missed <= _NONE * max(1.0, whole) else None
