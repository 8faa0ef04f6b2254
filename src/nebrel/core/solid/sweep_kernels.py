"""Compiled kernels that cut a flat region with many holes into triangles.

Source: de Berg et al., Computational Geometry, 3rd edition (2008), chapter 3: monotone pieces by a
sweep, then triangles.
"""

from __future__ import annotations

import numpy as np
from numba import njit

_START, _END, _SPLIT, _MERGE, _DOWN, _UP = 0, 1, 2, 3, 4, 5


@njit(cache=True)
def _left_of(points, a, b, c):  # type: ignore[no-untyped-def]
    """Twice the area of a, b, c: above 0 where c lies to the left of the way from a to b."""
    x, y = points[a, 0], points[a, 1]
    return (points[b, 0] - x) * (points[c, 1] - y) - (points[b, 1] - y) * (points[c, 0] - x)


@njit(cache=True)
def _kind(points, rank, before, v, after):  # type: ignore[no-untyped-def]
    above_before, above_after = rank[before] > rank[v], rank[after] > rank[v]
    if above_before and above_after:
        return _START if _left_of(points, before, v, after) > 0 else _SPLIT
    if not above_before and not above_after:
        return _END if _left_of(points, before, v, after) > 0 else _MERGE
    return _DOWN if above_before else _UP


@njit(cache=True)
def _beside(points, active, count, after, v):  # type: ignore[no-untyped-def]
    """How many of the active edges, from the left, lie to the left of a place."""
    low, high = 0, count
    while low < high:
        middle = (low + high) // 2
        edge = active[middle]  # from its upper end to its lower one
        if _left_of(points, after[edge], edge, v) < 0:
            low = middle + 1
        else:
            high = middle
    return low


@njit(cache=True)
def _diagonals(points, before, after, order, rank):  # type: ignore[no-untyped-def]
    """What parts a region into pieces that every level line crosses once, (m, 2); m below 0: no."""
    n = len(points)
    kinds = np.empty(n, np.int8)
    for v in range(n):
        kinds[v] = _kind(points, rank, before[v], v, after[v])
    found = np.empty((2 * n, 2), np.int64)
    m = 0
    active, helper = np.empty(n, np.int64), np.full(n, -1, np.int64)
    count = 0
    for v in order:
        kind = kinds[v]
        if kind in (_END, _MERGE, _DOWN):
            if kinds[helper[v]] == _MERGE:
                found[m, 0], found[m, 1] = v, helper[v]
                m += 1
            # Where it is: by its lower end, or one by one where that is not told exactly.
            at = min(_beside(points, active, count, after, after[v]), count - 1)
            if at < 0 or active[at] != v:
                at = 0
                while at < count and active[at] != v:
                    at += 1
                if at == count:
                    return found, -1
            for k in range(at, count - 1):
                active[k] = active[k + 1]
            count -= 1
        if kind in (_SPLIT, _MERGE, _UP):
            at = _beside(points, active, count, after, v) - 1
            if at < 0:
                return found, -1
            edge = active[at]
            if kind == _SPLIT or kinds[helper[edge]] == _MERGE:
                found[m, 0], found[m, 1] = v, helper[edge]
                m += 1
            helper[edge] = v
        if kind in (_START, _SPLIT, _DOWN):
            edge = before[v]
            at = _beside(points, active, count, after, v)
            for k in range(count, at, -1):
                active[k] = active[k - 1]
            active[at] = edge
            count += 1
            helper[edge] = v
    return found, m if count == 0 else -1


@njit(cache=True)
def _pieces(points, after, diagonals, count):  # type: ignore[no-untyped-def]
    """The half-edge that follows each around its piece; those of loops first, then of diagonals."""
    n = len(points)
    whole = n + 2 * count
    origin, end = np.empty(whole, np.int64), np.empty(whole, np.int64)
    first, other = np.full(n, -1, np.int64), np.full(whole, -1, np.int64)
    for v in range(n):
        origin[v], end[v] = v, after[v]
    for k in range(count):
        a, b = diagonals[k, 0], diagonals[k, 1]
        for one in range(2):
            at = n + 2 * k + one
            origin[at], end[at] = (a, b) if one == 0 else (b, a)
            other[at] = first[origin[at]]
            first[origin[at]] = at
    follow = np.empty(whole, np.int64)
    for at in range(whole):
        v = end[at]
        best = v  # along the loop
        if first[v] >= 0:
            # The first to the right of the way back.
            back = np.arctan2(
                points[origin[at], 1] - points[v, 1], points[origin[at], 0] - points[v, 0]
            )
            least = np.inf
            k = v
            while k >= 0:
                if end[k] != origin[at]:
                    turn = back - np.arctan2(
                        points[end[k], 1] - points[v, 1], points[end[k], 0] - points[v, 0]
                    )
                    turn = turn % (2 * np.pi)
                    if turn < least:
                        least, best = turn, k
                k = first[v] if k == v else other[k]
        follow[at] = best
    return origin, follow


@njit(cache=True)
def _upwards(rank, ring, size, found, right):  # type: ignore[no-untyped-def]
    """Corners of a piece from the lowest to the highest, into `found`; whether that is one.

    Parameters
    ----------
    ring, size : its corners, and how many
    right : (n,) whether a corner lies on the right side, where it is one of the piece
    """
    low, high = 0, 0
    for k in range(size):
        if rank[ring[k]] < rank[ring[low]]:
            low = k
        if rank[ring[k]] > rank[ring[high]]:
            high = k
    up, down = (low + 1) % size, (low - 1) % size
    found[0] = ring[low]
    right[ring[low]] = True
    for k in range(1, size):
        one, two = ring[up], ring[down]
        if up != high and (down == high or rank[one] < rank[two]):
            found[k], right[one] = one, True
            up = (up + 1) % size
        else:
            found[k], right[two] = two, False
            down = (down - 1) % size
        if rank[found[k]] < rank[found[k - 1]]:
            return False
    return True


@njit(cache=True)
def _cut(points, piece, size, right, stack, found, m):  # type: ignore[no-untyped-def]
    """The triangles of one piece, into `found` from number m; how many there are then."""
    stack[0], stack[1] = piece[0], piece[1]
    depth = 2
    for k in range(2, size):
        v = piece[k]
        if k == size - 1 or right[v] != right[stack[depth - 1]]:
            ours = right[stack[depth - 1]]
            for i in range(depth - 1):
                a, b = stack[i], stack[i + 1]
                found[m, 0] = v
                found[m, 1], found[m, 2] = (a, b) if ours else (b, a)
                m += 1
            stack[0], stack[1] = stack[depth - 1], v
            depth = 2
            continue
        while depth > 1:
            a, b = stack[depth - 2], stack[depth - 1]
            inside = _left_of(points, a, b, v)
            if (inside if right[v] else -inside) <= 0:
                break
            found[m, 0] = v
            found[m, 1], found[m, 2] = (a, b) if right[v] else (b, a)
            m += 1
            depth -= 1
        stack[depth] = v
        depth += 1
    return m


@njit(cache=True, nogil=True)
def triangles_of(points, before, after, order, rank):  # type: ignore[no-untyped-def]
    """A region as triangles, (n, 3), running to the left; none where its lines touch.

    Parameters
    ----------
    points : (n, 2) corners of its lines, the region to the left of them
    before, after : (n,) corners next to each
    order, rank : (n,) the corners from the lowest to the highest, from the left at equal heights,
        and the number that each has among them
    """
    n = len(points)
    nothing = np.empty((0, 3), np.int64)
    diagonals, count = _diagonals(points, before, after, order, rank)
    if count < 0:
        return nothing
    origin, follow = _pieces(points, after, diagonals, count)
    found, m = np.empty((n + 2 * count, 3), np.int64), 0
    seen = np.zeros(len(follow), np.bool_)
    ring, piece = np.empty(n, np.int64), np.empty(n, np.int64)
    right, stack = np.zeros(n, np.bool_), np.empty(n, np.int64)
    for start in range(len(follow)):
        if seen[start]:
            continue
        size, at = 0, start
        while not seen[at]:
            if size == n:
                return nothing
            seen[at] = True
            ring[size] = origin[at]
            size += 1
            at = follow[at]
        if at != start or size < 3 or not _upwards(rank, ring, size, piece, right):
            return nothing
        m = _cut(points, piece, size, right, stack, found, m)
    return found[:m].copy()
