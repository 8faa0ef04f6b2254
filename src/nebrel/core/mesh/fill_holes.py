"""Holes of a mesh, filled."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Ints = NDArray[np.int64]
_MOST_TRIED = 220  # corners of a hole for which all ways to fill it are tried


def fill(vertices: NDArray[np.float64], loop: Ints) -> Ints:
    """Triangles (n - 2, 3) that fill a closed run of n vertices, in its own sense.

    Of all ways to do it the one of the least area; of a long run the one that clips off the
    corner whose cut is shortest, again and again.

    Source: Barequet and Sharir, Filling Gaps in the Boundary of a Polyhedron (1995).
    """
    if len(loop) == 3:
        return loop[None]
    places = np.ascontiguousarray(vertices[loop])
    rows: Any = _least_area(places) if len(loop) <= _MOST_TRIED else _clipped(places)
    found: Ints = loop[rows]
    return found


@njit(cache=True, nogil=True)
def _area(a, b, c):  # type: ignore[no-untyped-def]
    u, v = b - a, c - a
    x, y, z = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
    return np.sqrt(x * x + y * y + z * z)


@njit(cache=True, nogil=True)
def _price(a, b, c):  # type: ignore[no-untyped-def]
    """Its area; of what has next to none much more, so that no corner lies on an edge."""
    area = _area(a, b, c)
    longest = max(_square(a, b), _square(b, c), _square(c, a))
    return area + 1e-4 * longest if area > 1e-5 * longest else 100 * longest


@njit(cache=True, nogil=True)
def _square(a, b):  # type: ignore[no-untyped-def]
    return (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2


@njit(cache=True, nogil=True)
def _least_area(places):  # type: ignore[no-untyped-def]
    n = len(places)
    cost, cut = np.zeros((n, n)), np.zeros((n, n), np.int64)
    for gap in range(2, n):
        for i in range(n - gap):
            k = i + gap
            best = np.inf
            for m in range(i + 1, k):
                whole = cost[i, m] + cost[m, k] + _price(places[i], places[m], places[k])
                if whole < best:
                    best, cut[i, k] = whole, m
            cost[i, k] = best
    found = np.empty((n - 2, 3), np.int64)
    stack = np.empty((n, 2), np.int64)
    stack[0, 0], stack[0, 1] = 0, n - 1
    size, made = 1, 0
    while size:
        size -= 1
        i, k = stack[size, 0], stack[size, 1]
        if k - i < 2:
            continue
        m = cut[i, k]
        found[made, 0], found[made, 1], found[made, 2] = i, m, k
        made += 1
        stack[size, 0], stack[size, 1] = i, m
        stack[size + 1, 0], stack[size + 1, 1] = m, k
        size += 2
    return found


@njit(cache=True, nogil=True)
def _clipped(places):  # type: ignore[no-untyped-def]
    n = len(places)
    before, after = np.arange(n) - 1, np.arange(n) + 1
    before[0], after[n - 1] = n - 1, 0
    # The sense of the whole, by Newell's normal: what is clipped should look the same way.
    normal = np.zeros(3)
    for i in range(n):
        a, b = places[i], places[after[i]]
        normal[0] += (a[1] - b[1]) * (a[2] + b[2])
        normal[1] += (a[2] - b[2]) * (a[0] + b[0])
        normal[2] += (a[0] - b[0]) * (a[1] + b[1])
    found = np.empty((n - 2, 3), np.int64)
    left, here, made, turned = n, 0, 0, 0
    while left > 3:
        best, chosen = np.inf, here
        i = here
        for _ in range(left):
            a, b, c = places[before[i]], places[i], places[after[i]]
            u, v = b - a, c - b
            side = (
                (u[1] * v[2] - u[2] * v[1]) * normal[0]
                + (u[2] * v[0] - u[0] * v[2]) * normal[1]
                + (u[0] * v[1] - u[1] * v[0]) * normal[2]
            )
            w = c - a
            long = w[0] * w[0] + w[1] * w[1] + w[2] * w[2]
            if side <= 0:
                long = long * 1e6 + 1e6
            if long < best:
                best, chosen = long, i
            i = after[i]
        p, q = before[chosen], after[chosen]
        found[made, 0], found[made, 1], found[made, 2] = p, chosen, q
        made += 1
        after[p], before[q] = q, p
        here = q
        left -= 1
        turned += 1
    found[made, 0], found[made, 1], found[made, 2] = before[here], here, after[here]
    return found
