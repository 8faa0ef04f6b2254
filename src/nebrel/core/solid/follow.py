"""A mesh cut so finely that raising its vertices raises it all."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mask
from nebrel.core.mesh.bendable import Floats64, Ints, parts

_MOST_PASSES = 16
_PLACES = 7  # that are looked at along an edge
_CLOSER = 2  # times the place of the largest miss is looked for again
_LEAST_SHARE = 0.1  # of an edge that a part of it keeps

Points = NDArray[np.floating[Any]]
Over = Callable[[Points, Points], Points]


def follow(
    vertices: Floats64,
    faces: Ints,
    over: Over,
    movable: Mask,
    tolerance_mm: float,
    shortest_mm: float,
) -> tuple[Floats64, Ints]:
    """The same surface with more vertices, where straight lines miss what will be added to it.

    Parameters
    ----------
    vertices, faces : (V, 3) mm and (F, 3)
    over : what will be added to z at places x, y
    movable : (V,) vertices it will be added to
    tolerance_mm : by how much an edge may miss
    shortest_mm : edges up to this are left as they are

    An edge that misses is cut where it misses most: on the line where a chamfer ends, not beside
    it. Faces that share an edge are cut alike there.
    """
    scale = np.ones(2)
    done, open_faces = [], faces
    for _ in range(_MOST_PASSES):
        ends = np.stack([open_faces, np.roll(open_faces, -1, axis=1)], axis=2)
        pairs = np.sort(ends.reshape(-1, 2), axis=1)
        _, at, which = np.unique(
            pairs[:, 0] * len(vertices) + pairs[:, 1], return_index=True, return_inverse=True
        )
        places, misses = _worst(vertices, pairs[at], over, movable, tolerance_mm, shortest_mm)
        number = np.full(len(at), -1, np.int64)
        number[misses] = len(vertices) + np.arange(misses.sum())
        middle = number[which.reshape(-1)].reshape(-1, 3)
        # Next time only the edges of what is cut now have anything new.
        cut = (middle >= 0).any(axis=1)
        done.append(open_faces[~cut])
        if not cut.any():
            return vertices, np.concatenate(done)
        vertices = np.concatenate([vertices, places[misses]])
        movable = np.concatenate([movable, np.ones(int(misses.sum()), bool)])
        open_faces = parts(open_faces[cut], middle[cut], middle[cut] >= 0, vertices, scale)
    return vertices, np.concatenate([*done, open_faces])


def _worst(
    vertices: Floats64,
    edges: Ints,
    over: Over,
    movable: Mask,
    tolerance_mm: float,
    shortest_mm: float,
) -> tuple[Floats64, Mask]:
    """Where each edge misses most, (n, 3), and which miss by more than they may."""
    start, end = vertices[edges[:, 0]], vertices[edges[:, 1]]
    way = end - start
    long = np.hypot(way[:, 0], way[:, 1]) > shortest_mm
    misses = movable[edges].all(axis=1) & long
    share = np.full(len(edges), 0.5)
    near = np.flatnonzero(misses)
    a, step = start[near, :2], way[near, :2]
    first, last = over(a[:, 0], a[:, 1]), over(a[:, 0] + step[:, 0], a[:, 1] + step[:, 1])
    centre, half = np.full(len(near), 0.5), 0.5
    for _ in range(1 + _CLOSER):
        t = centre[:, None] + np.linspace(-half, half, _PLACES + 2)[1:-1]
        x, y = (a[:, None, k] + t * step[:, None, k] for k in (0, 1))
        straight = first[:, None] + t * (last - first)[:, None]
        miss = np.abs(over(x.ravel(), y.ravel()).reshape(x.shape) - straight)
        worst = miss.argmax(axis=1)
        rows = np.arange(len(near))
        much = miss[rows, worst] > tolerance_mm
        misses[near[~much]] = False
        near, a, step, first, last = (v[much] for v in (near, a, step, first, last))
        centre = np.clip(t[rows, worst][much], _LEAST_SHARE, 1 - _LEAST_SHARE)
        half /= (_PLACES + 1) / 2
    share[near] = centre
    return start + way * share[:, None], misses
