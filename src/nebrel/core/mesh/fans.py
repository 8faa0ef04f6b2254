"""Who is next to whom: opposite edges, and the fans of faces around vertices.

Corner `c` is corner `c % 3` of face `c // 3`; edge `c` runs from corner `c` to the next one of
its face.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

Indices = NDArray[np.int32]


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
    corners = np.ascontiguousarray(faces, np.int32).ravel()
    count = int(corners.max(initial=-1)) + 1
    twin, closed, paired = _find_twins(corners, count)
    return twin, bool(closed), bool(paired)


@njit(cache=True, nogil=True)
def _find_twins(corners, count):  # type: ignore[no-untyped-def]
    # The edges that leave each vertex, one after the other.
    first = np.zeros(count + 1, np.int32)
    for c in range(len(corners)):
        first[corners[c] + 1] += 1
    for v in range(count):
        first[v + 1] += first[v]
    leaving = np.empty(len(corners), np.int32)
    ends = np.empty(len(corners), np.int32)
    filled = first[:-1].copy()
    upwards = 0
    for c in range(len(corners)):
        v, end = corners[c], corners[c + 1 if c % 3 < 2 else c - 2]
        at = filled[v]
        leaving[at], ends[at] = c, end
        filled[v] = at + 1
        upwards += v < end
    twin = np.full(len(corners), -1, np.int32)
    # Every edge is looked at from its lower end; those only walked downwards are left over.
    closed = paired = 2 * upwards == len(corners)
    for a in range(count):
        for k in range(first[a], first[a + 1]):
            b = ends[k]
            if b < a:
                continue
            same = back = 0
            other = -1
            for n in range(first[a], first[a + 1]):
                same += ends[n] == b
            for n in range(first[b], first[b + 1]):
                if ends[n] == a:
                    back += 1
                    other = leaving[n]
            if same != back:
                closed = False
            if same != 1 or back != 1:
                paired = False
            else:
                twin[leaving[k]] = other
                twin[other] = leaving[k]
    return twin, closed, paired


def number_fans(twin: Indices) -> tuple[int, Indices]:
    """Number the fans: runs of corners at one vertex, joined across edges that have a twin.

    Parameters
    ----------
    twin : (3F,) as from `find_twins`; -1 where a fan ends

    Returns
    -------
    number of fans, and for each corner the number of its own, from 0
    """
    count, label = _number_fans(np.ascontiguousarray(twin, np.int32))
    return int(count), label


@njit(cache=True, nogil=True)
def _number_fans(twin):  # type: ignore[no-untyped-def]
    label = np.full(len(twin), -1, np.int32)
    count = 0
    for c in range(len(twin)):
        if label[c] >= 0:
            continue
        label[c] = count
        # Round one way, and where that ends the other way.
        at = c
        while twin[at] >= 0:
            beyond = twin[at]
            at = beyond + 1 if beyond % 3 < 2 else beyond - 2
            if label[at] >= 0:
                break
            label[at] = count
        at = c
        while True:
            beyond = twin[at - 1 if at % 3 > 0 else at + 2]
            if beyond < 0 or label[beyond] >= 0:
                break
            at = beyond
            label[at] = count
        count += 1
    return count, label
