"""Vertices taken out of a network where the pixels allow it."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.solid.network import near_pixels

_NEIGHBOURS = 8  # the most, of a vertex that is tried
# Goes on while a pass takes out more than a share of the vertices, and for the sake of speed no
# longer than for so many tried: of 9 million a third goes in 5 s, the next tenth takes as long.
_WORTH, _THOROUGH = 0.1, 0.002
_PATIENCE = 12_000_000
_LOWEST = 0.1  # of its longest side, the height of a triangle
_FAILED, _OPEN, _TOUCHED = 0, 1, 2  # of a vertex: cannot go; to be tried; not in this pass
_BANDS = 4  # whatever the machine: what is taken out depends on where they meet
_SMALL = 12  # pixels that are looked at one by one
_ALONE = 60_000  # faces that one thread does sooner than several

Ints = NDArray[np.int32]


def thin(
    mm: Floats,
    vertices: Ints,
    faces: Ints,
    tolerance_mm: float,
    thorough: bool = False,
    seam: bool = False,
    tell: Callable[[], None] | None = None,
) -> tuple[Ints, Ints]:
    """The same surface with every vertex gone that it can do without.

    Parameters
    ----------
    mm : (rows, cols) float32 that the surface follows
    vertices, faces : as `network` gives them, written over
    tolerance_mm : > 0, kept at every pixel
    thorough : go on until hardly any vertex can go
    seam : the first and the last column stay as they are
    tell : as `network`

    Returns
    -------
    Vertices and faces, fewer. The four edges stay straight and the corners where they are.

    Source: Schroeder, Zarge and Lorensen, Decimation of triangle meshes (1992): a vertex is
    taken out and its hole filled from one of its neighbours, here checked pixel by pixel.
    """
    heights = np.ascontiguousarray(mm, np.float32)
    rows = heights.shape[0]
    bands = 1 if len(faces) < _ALONE else _BANDS
    ends = [rows * n // bands for n in range(bands)] + [rows]
    with ThreadPoolExecutor(min(bands, os.cpu_count() or 1)) as threads:
        state = np.full(len(vertices), _OPEN, np.uint8)
        tried, gone = 0, len(vertices)
        worth, patience = (_THOROUGH, np.inf) if thorough else (_WORTH, _PATIENCE)
        while gone > worth * len(vertices) and tried < patience:
            tried += len(vertices)
            first = np.zeros(len(vertices) + 1, np.int32)
            around = _group(faces, first)
            work = heights, vertices, faces, first, around, state, tolerance_mm, seam
            gone = sum(threads.map(partial(_pass, *work), ends[:-1], ends[1:]))
            gone += _pass(*work, 0, rows) if bands > 1 else 0
            vertices, faces, state = _pack(vertices, faces, state)
            if tell is not None:
                tell()
    return vertices, faces


@njit(cache=True, nogil=True)
def _group(faces, first):  # type: ignore[no-untyped-def]
    """The faces around every vertex, one after another; `first` says where each begins."""
    for f in range(len(faces)):
        for corner in range(3):
            first[faces[f, corner] + 1] += 1
    for v in range(len(first) - 1):
        first[v + 1] += first[v]
    at = first[:-1].copy()
    around = np.empty(3 * len(faces), np.int32)
    for f in range(len(faces)):
        for corner in range(3):
            v = faces[f, corner]
            around[at[v]] = f
            at[v] += 1
    return around


@njit(cache=True, nogil=True)
def _near(z, places, a, b, c, tolerance):  # type: ignore[no-untyped-def]
    """As `near_pixels`, but sooner for small triangles."""
    ax, ay, bx, by = places[a, 0], places[a, 1], places[b, 0], places[b, 1]
    cx, cy = places[c, 0], places[c, 1]
    low_x, high_x = min(ax, bx, cx), max(ax, bx, cx)
    low_y, high_y = min(ay, by, cy), max(ay, by, cy)
    if (high_x - low_x) * (high_y - low_y) > _SMALL:
        return near_pixels(z, ax, ay, bx, by, cx, cy, tolerance)
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    if abs(area) == 1:
        return True
    az, bz, cz = np.float64(z[ay, ax]), np.float64(z[by, bx]), np.float64(z[cy, cx])
    for y in range(low_y, high_y + 1):
        for x in range(low_x, high_x + 1):
            s = (x - ax) * (cy - ay) - (y - ay) * (cx - ax)
            t = (bx - ax) * (y - ay) - (by - ay) * (x - ax)
            if area < 0:
                s, t = -s, -t
            if s < 0 or t < 0 or s + t > abs(area):
                continue
            over = (s * (bz - az) + t * (cz - az)) / abs(area)
            if abs(az + over - z[y, x]) > tolerance:
                return False
    return True


@njit(cache=True, nogil=True)
def _ring(shape, places, faces, mine, v, seam, ring, ahead):  # type: ignore[no-untyped-def]
    """The neighbours of a vertex in order.

    Returns how many they are, with both on the edge where the vertex lies on one; none where it
    has to stay.
    """
    count = len(mine)
    for n in range(count):  # the side of every face across from the vertex
        f = mine[n]
        if faces[f, 0] == v:
            ring[n], ahead[n] = faces[f, 1], faces[f, 2]
        elif faces[f, 1] == v:
            ring[n], ahead[n] = faces[f, 2], faces[f, 0]
        else:
            ring[n], ahead[n] = faces[f, 0], faces[f, 1]
    for n in range(count):  # on an edge, one that follows no other comes first
        follows = False
        for m in range(count):
            follows = follows or ahead[m] == ring[n]
        if not follows:
            ring[0], ring[n] = ring[n], ring[0]
            ahead[0], ahead[n] = ahead[n], ahead[0]
            break
    for n in range(count - 1):
        found = False
        for m in range(n + 1, count):
            if ring[m] == ahead[n]:
                ring[n + 1], ring[m] = ring[m], ring[n + 1]
                ahead[n + 1], ahead[m] = ahead[m], ahead[n + 1]
                found = True
                break
        if not found:
            return 0
    if ahead[count - 1] == ring[0]:
        return count
    ring[count] = ahead[count - 1]
    x, y = places[v, 0], places[v, 1]
    px, py = places[ring[0], 0], places[ring[0], 1]
    qx, qy = places[ring[count], 0], places[ring[count], 1]
    on_end = py == y and qy == y and (y == 0 or y == shape[0] - 1)
    on_side = not seam and px == x and qx == x and (x == 0 or x == shape[1] - 1)
    return count + 1 if on_end or on_side else 0


@njit(cache=True, nogil=True)
def _filled(z, places, v, ring, count, tolerance, x, y, mm):  # type: ignore[no-untyped-def]
    """The neighbour that the hole of a vertex can be filled from, or -1.

    `x`, `y` and `mm` are room for where the neighbours lie from the vertex.
    """
    at_x, at_y = places[v, 0], places[v, 1]
    own = np.float64(z[at_y, at_x])
    for n in range(count):
        x[n], y[n] = places[ring[n], 0] - at_x, places[ring[n], 1] - at_y
        mm[n] = z[places[ring[n], 1], places[ring[n], 0]] - own
    sign = 1 if x[0] * y[1] > y[0] * x[1] else -1
    for choice in range(count):
        a = choice
        good = True
        b = a
        c = a + 1 if a + 1 < count else 0
        for _ in range(1, count - 1):
            b, c = c, c + 1 if c + 1 < count else 0
            # Twice the areas that the vertex and two corners span, and the three corners.
            ab, bc = sign * (x[a] * y[b] - y[a] * x[b]), sign * (x[b] * y[c] - y[b] * x[c])
            ca = sign * (x[c] * y[a] - y[c] * x[a])
            area = ab + bc + ca
            if area <= 0:
                good = False
                break
            off = abs(bc * mm[a] + ca * mm[b] + ab * mm[c])
            if ab >= 0 and ca >= 0 and off > tolerance * area:
                good = False
                break
            longest = max(
                (x[a] - x[b]) ** 2 + (y[a] - y[b]) ** 2,
                (x[b] - x[c]) ** 2 + (y[b] - y[c]) ** 2,
                (x[c] - x[a]) ** 2 + (y[c] - y[a]) ** 2,
            )
            if area < _LOWEST * longest:
                good = False
                break
        if not good:
            continue
        for n in range(1, count - 1):
            b, c = ring[(choice + n) % count], ring[(choice + n + 1) % count]
            if not _near(z, places, ring[a], b, c, tolerance):
                good = False
                break
        if good:
            return choice
    return -1


@njit(cache=True, nogil=True)
def _pass(z, places, faces, first, around, state, tolerance, seam, low, high):  # type: ignore[no-untyped-def]
    """Take out what can go, of the vertices whose neighbours lie in the rows low to high."""
    ring = np.empty(_NEIGHBOURS + 1, np.int32)
    ahead = np.empty(_NEIGHBOURS, np.int32)
    room = (
        np.empty(_NEIGHBOURS + 1, np.int64),
        np.empty(_NEIGHBOURS + 1, np.int64),
        np.empty(_NEIGHBOURS + 1),
    )
    gone = 0
    for v in range(len(places)):
        if state[v] != _OPEN or not low <= places[v, 1] < high:
            continue
        mine = around[first[v] : first[v + 1]]
        if not 2 <= len(mine) <= _NEIGHBOURS:
            continue
        count = _ring(z.shape, places, faces, mine, v, seam, ring, ahead)
        if count == 0:
            state[v] = _FAILED
            continue
        inside = True
        for n in range(count):
            inside = inside and low <= places[ring[n], 1] < high
        if not inside:
            continue
        choice = _filled(z, places, v, ring, count, tolerance, *room)
        if choice < 0:
            state[v] = _FAILED
            continue
        state[v] = _FAILED  # it is gone: what is grouped around it is of others now
        for n in range(count):
            state[ring[n]] = _TOUCHED
        for n in range(len(mine)):
            if n < count - 2:
                faces[mine[n], 0] = ring[choice]
                faces[mine[n], 1] = ring[(choice + n + 1) % count]
                faces[mine[n], 2] = ring[(choice + n + 2) % count]
            else:
                faces[mine[n], 0] = -1
        gone += 1
    return gone


@njit(cache=True, nogil=True)
def _pack(places, faces, state):  # type: ignore[no-untyped-def]
    """Leave out the faces that are gone and the vertices that nothing uses."""
    number = np.zeros(len(places), np.int32)
    kept = 0
    for f in range(len(faces)):
        if faces[f, 0] >= 0:
            for corner in range(3):
                faces[kept, corner] = faces[f, corner]
                number[faces[f, corner]] = 1
            kept += 1
    used = 0
    for v in range(len(places)):
        if number[v]:
            places[used, 0], places[used, 1] = places[v, 0], places[v, 1]
            state[used] = _FAILED if state[v] == _FAILED else _OPEN
            number[v] = used
            used += 1
    for f in range(kept):
        for corner in range(3):
            faces[f, corner] = number[faces[f, corner]]
    return places[:used].copy(), faces[:kept].copy(), state[:used].copy()
