"""Both ends of a flat solid made one, so that what goes around has no seam."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mask

Floats64 = NDArray[np.float64]
Ints = NDArray[np.int64]

_ON_MM = 3e-5  # single precision at half a metre
_MATCH_MM = 2e-3


def weld(vertices: Floats64, faces: Ints, wide_mm: float) -> Ints | None:
    """A flat solid over (0, wide_mm) as a ring that is open nowhere at x = 0.

    Parameters
    ----------
    vertices, faces : closed, ending flush at both ends

    Returns
    -------
    The faces without those of the two ends, the vertices of one end named by those of the
    other; or None where the ends are not alike, point by point.
    """
    x = vertices[:, 0]
    at_start, at_end = np.abs(x) < _ON_MM, np.abs(x - wide_mm) < _ON_MM
    for side in (at_start, at_end):
        faces = faces[~side[faces].all(axis=1)]
    start, end = (_rim(faces, there) for there in (at_start, at_end))
    partner = _partners(vertices[start, 1:], vertices[end, 1:])
    if partner is None:
        return None
    name = np.arange(len(vertices))
    name[end] = start[partner]
    found: Ints = name[faces]
    return found


def close_pole(vertices: Floats64, faces: Ints, tall_mm: float) -> tuple[Ints, list[Ints]] | None:
    """A ring without the wall at its upper end, and the rims that are left there.

    Returns
    -------
    Its faces, and the directed edges (n, 2) of every rim, the lower one first; None when there
    are not just two
    """
    upper = np.abs(vertices[:, 1] - tall_mm) < _ON_MM
    faces = faces[~upper[faces].all(axis=1)]
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    edges = edges[upper[edges].all(axis=1)]
    count = len(vertices)
    paired = np.isin(edges[:, 0] * count + edges[:, 1], edges[:, 1] * count + edges[:, 0])
    edges = edges[~paired]
    high = vertices[edges, 2].mean(axis=1)
    if not len(edges) or np.ptp(high) < _ON_MM:
        return None
    middle = (high.min() + high.max()) / 2
    rims = [edges[high < middle], edges[high >= middle]]
    for rim in rims:
        level = vertices[rim, 2]
        closed = np.array_equal(np.sort(rim[:, 0]), np.sort(rim[:, 1]))
        if np.ptp(level) > _ON_MM or not closed or len(np.unique(rim[:, 0])) != len(rim):
            return None
    return faces, rims


def _rim(faces: Ints, there: Mask) -> Ints:
    used = np.unique(faces)
    return used[there[used]]


def _partners(start: Floats64, end: Floats64) -> Ints | None:
    """For each point of one end its own of the other."""
    from scipy.spatial import cKDTree

    if len(start) != len(end) or not len(start):
        return None
    away, partner = (np.asarray(found) for found in cKDTree(start).query(end))
    if away.max() > _MATCH_MM or len(np.unique(partner)) != len(partner):
        return None
    return partner.astype(np.int64)
