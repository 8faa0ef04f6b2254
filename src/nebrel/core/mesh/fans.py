"""Who is next to whom: opposite edges, and the fans of faces around vertices.

Corner `c` is corner `c % 3` of face `c // 3`; edge `c` runs from corner `c` to the next one of
its face.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.many import many

Indices = NDArray[np.integer]


def find_twins(faces: NDArray[np.int32]) -> tuple[Indices, bool, bool]:
    """The opposite of every edge.

    Parameters
    ----------
    faces : (F, 3), no vertex twice in a face

    Returns
    -------
    (3F,) index of the edge that runs the other way in the neighbouring face, -1 where there is
    not exactly one; whether every edge is walked as often one way as the other; whether every
    edge has exactly two faces
    """
    if many(len(faces)):
        from nebrel.core.mesh import compiled

        corners = np.ascontiguousarray(faces, np.int32).ravel()
        found, closed, paired = compiled.find_twins(corners, int(corners.max(initial=-1)) + 1)
        return found, bool(closed), bool(paired)
    start = faces.astype(np.int64).ravel()
    end = faces[:, [1, 2, 0]].astype(np.int64).ravel()
    width = int(start.max(initial=0)) + 1
    forward = start < end
    key = np.where(forward, start * width + end, end * width + start)
    order = np.argsort(key)
    key = key[order]
    first = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
    uses = np.diff(np.append(first, len(key)))
    ways = np.add.reduceat(np.where(forward[order], 1, -1), first)
    pairs = first[(uses == 2) & (ways == 0)]
    twin = np.full(len(start), -1, np.int64)
    twin[order[pairs]] = order[pairs + 1]
    twin[order[pairs + 1]] = order[pairs]
    return twin, bool((ways == 0).all()), bool((uses == 2).all())


def with_neighbours(at: NDArray[np.bool_], faces: Indices) -> NDArray[np.bool_]:
    """Vertices, and those that share a face with them.

    Parameters
    ----------
    at : (V,) which vertices
    faces : (F, 3)
    """
    found = at.copy()
    found[faces[at[faces].any(axis=1)]] = True
    return found


def number_fans(twin: Indices) -> tuple[int, Indices]:
    """Number the fans: runs of corners at one vertex, joined across edges that have a twin.

    Parameters
    ----------
    twin : (3F,) as from `find_twins`; -1 where a fan ends

    Returns
    -------
    number of fans, and for each corner the number of its own, from 0

    Source: pointer doubling; each round doubles how far a corner has looked round its vertex.
    """
    if many(len(twin) // 3):
        from nebrel.core.mesh import compiled

        count, fans = compiled.number_fans(np.ascontiguousarray(twin, np.int32))
        return int(count), fans
    corners = np.arange(len(twin))
    following = corners + np.where(corners % 3 == 2, -2, 1)
    before = corners + np.where(corners % 3 == 0, 2, -1)
    left = np.where(twin[before] >= 0, twin[before], corners)
    right = np.where(twin >= 0, following[twin], corners)
    label = np.minimum(_least_ahead(left), _least_ahead(right))
    roots = label == corners
    return int(roots.sum()), (np.cumsum(roots) - 1)[label]


def _least_ahead(step: Indices) -> Indices:
    least, jump = np.arange(len(step)), step
    while True:
        nearer = np.minimum(least, least[jump])
        if np.array_equal(nearer, least):
            return least
        least, jump = nearer, jump[jump]
