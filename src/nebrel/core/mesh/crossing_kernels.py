"""Compiled: triangles that pass through each other, and rays, by boxes in boxes."""

from __future__ import annotations

import numpy as np
from numba import njit, prange

_LEAF = 4  # triangles in a lowest box, as in `nearest_kernels`


@njit(cache=True, nogil=True)
def pierces(p, q, t, hair):  # type: ignore[no-untyped-def]
    """Whether a segment passes through a triangle (3, 3), by more than a hair all round."""
    ax, ay, az = t[0, 0], t[0, 1], t[0, 2]
    ux, uy, uz = t[1, 0] - ax, t[1, 1] - ay, t[1, 2] - az
    vx, vy, vz = t[2, 0] - ax, t[2, 1] - ay, t[2, 2] - az
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    size = np.sqrt(nx * nx + ny * ny + nz * nz)
    if size < 1e-14:
        return False
    one = ((p[0] - ax) * nx + (p[1] - ay) * ny + (p[2] - az) * nz) / size
    two = ((q[0] - ax) * nx + (q[1] - ay) * ny + (q[2] - az) * nz) / size
    if one * two >= 0 or abs(one) < hair or abs(two) < hair:
        return False
    share = one / (one - two)
    x = p[0] + share * (q[0] - p[0])
    y = p[1] + share * (q[1] - p[1])
    z = p[2] + share * (q[2] - p[2])
    for k in range(3):
        m = k + 1 if k < 2 else 0
        e0, e1, e2 = t[m, 0] - t[k, 0], t[m, 1] - t[k, 1], t[m, 2] - t[k, 2]
        r0, r1, r2 = x - t[k, 0], y - t[k, 1], z - t[k, 2]
        side = nx * (e1 * r2 - e2 * r1) + ny * (e2 * r0 - e0 * r2) + nz * (e0 * r1 - e1 * r0)
        long = np.sqrt(e0 * e0 + e1 * e1 + e2 * e2)
        if side < hair * size * long:
            return False
    return True


@njit(cache=True, nogil=True, inline="always")
def _beside(corners, f, low, high):  # type: ignore[no-untyped-def]
    """Whether a triangle lies beside a box."""
    for k in range(3):
        a, b, c = corners[f, 0, k], corners[f, 1, k], corners[f, 2, k]
        if min(a, b, c) > high[k] or max(a, b, c) < low[k]:
            return True
    return False


@njit(cache=True, nogil=True)
def _crosses(corners, names, f, g, hair):  # type: ignore[no-untyped-def]
    """Whether two triangles pass through each other; those that share an edge do not."""
    shared = 0
    for a in range(3):
        for b in range(3):
            if names[f, a] == names[g, b]:
                shared += 1
    if shared >= 2:
        return False
    for k in range(3):
        one, two = names[f, k], names[f, (k + 1) % 3]
        touches = False
        for b in range(3):
            touches |= names[g, b] == one or names[g, b] == two
        if not touches and pierces(corners[f, k], corners[f, (k + 1) % 3], corners[g], hair):
            return True
        one, two = names[g, k], names[g, (k + 1) % 3]
        touches = False
        for b in range(3):
            touches |= names[f, b] == one or names[f, b] == two
        if not touches and pierces(corners[g, k], corners[g, (k + 1) % 3], corners[f], hair):
            return True
    return False


@njit(cache=True, nogil=True, parallel=True)
def crossing_faces(corners, names, boxes, hair):  # type: ignore[no-untyped-def]
    """For every triangle how many others pass through it.

    Parameters
    ----------
    corners : (F, 3, 3) as sorted under the boxes
    names : (F, 3) numbers of their vertices
    boxes : (2n, 6)
    hair : what only touches, by no more than this, does not count
    """
    leaves = len(boxes) // 2
    found = np.zeros(len(corners), np.int32)
    for f in prange(len(corners)):
        low, high = np.empty(3), np.empty(3)
        for k in range(3):
            low[k] = min(corners[f, 0, k], corners[f, 1, k], corners[f, 2, k])
            high[k] = max(corners[f, 0, k], corners[f, 1, k], corners[f, 2, k])
        stack = np.empty(64, np.int64)
        stack[0] = 1
        size = 1
        while size:
            size -= 1
            n = stack[size]
            apart = False
            for k in range(3):
                apart |= boxes[n, k] > high[k] or boxes[n, 3 + k] < low[k]
            if apart:
                continue
            if n < leaves:
                stack[size], stack[size + 1] = 2 * n, 2 * n + 1
                size += 2
                continue
            first = (n - leaves) * _LEAF
            for g in range(first, min(first + _LEAF, len(corners))):
                if g == f or _beside(corners, g, low, high):
                    continue
                if _crosses(corners, names, f, g, hair):
                    found[f] += 1
    return found


@njit(cache=True, nogil=True)
def _into_box(boxes, n, start, inverse, most):  # type: ignore[no-untyped-def]
    """How far along a ray it enters a box; inf where it does not before `most`."""
    if boxes[n, 0] > boxes[n, 3]:  # nothing is in it
        return np.inf
    enter, leave = 0.0, most
    for k in range(3):
        a = (boxes[n, k] - start[k]) * inverse[k]
        b = (boxes[n, 3 + k] - start[k]) * inverse[k]
        if np.isnan(a) or np.isnan(b):  # along a side
            if start[k] < boxes[n, k] or start[k] > boxes[n, 3 + k]:
                return np.inf
            continue
        enter, leave = max(enter, min(a, b)), min(leave, max(a, b))
    return enter if enter <= leave else np.inf


@njit(cache=True, nogil=True)
def _into_triangle(start, way, t, least):  # type: ignore[no-untyped-def]
    """How far along a ray it meets a triangle; inf where it does not.

    Source: Möller and Trumbore (1997).
    """
    a0, a1, a2 = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
    b0, b1, b2 = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
    p0 = way[1] * b2 - way[2] * b1
    p1 = way[2] * b0 - way[0] * b2
    p2 = way[0] * b1 - way[1] * b0
    det = a0 * p0 + a1 * p1 + a2 * p2
    if abs(det) < 1e-18:
        return np.inf
    s0, s1, s2 = start[0] - t[0, 0], start[1] - t[0, 1], start[2] - t[0, 2]
    u = (s0 * p0 + s1 * p1 + s2 * p2) / det
    if u < -1e-9 or u > 1 + 1e-9:
        return np.inf
    q0, q1, q2 = s1 * a2 - s2 * a1, s2 * a0 - s0 * a2, s0 * a1 - s1 * a0
    v = (way[0] * q0 + way[1] * q1 + way[2] * q2) / det
    if v < -1e-9 or u + v > 1 + 1e-9:
        return np.inf
    along = (b0 * q0 + b1 * q1 + b2 * q2) / det
    return along if along > least else np.inf


@njit(cache=True, nogil=True, parallel=True)
def first_hits(corners, boxes, starts, ways, least, most):  # type: ignore[no-untyped-def]
    """Where rays meet a mesh first: how far along (n,), and which triangle, -1 for none.

    Parameters
    ----------
    least, most : nothing nearer counts, nothing further is looked for
    """
    leaves = len(boxes) // 2
    away, face = np.full(len(starts), most), np.full(len(starts), -1, np.int64)
    for i in prange(len(starts)):
        start, way = starts[i], ways[i]
        inverse = np.empty(3)
        for k in range(3):
            inverse[k] = 1 / way[k] if way[k] != 0 else np.inf
        stack = np.empty(64, np.int64)
        stack[0] = 1
        size = 1
        while size:
            size -= 1
            n = stack[size]
            if _into_box(boxes, n, start, inverse, away[i]) == np.inf:
                continue
            if n < leaves:
                one, other = 2 * n, 2 * n + 1
                a = _into_box(boxes, one, start, inverse, away[i])
                b = _into_box(boxes, other, start, inverse, away[i])
                if a < b:
                    one, other, a, b = other, one, b, a
                if a != np.inf:
                    stack[size] = one
                    size += 1
                if b != np.inf:
                    stack[size] = other
                    size += 1
                continue
            first = (n - leaves) * _LEAF
            for g in range(first, min(first + _LEAF, len(corners))):
                along = _into_triangle(start, way, corners[g], least)
                if along < away[i]:
                    away[i], face[i] = along, g
    return away, face


@njit(cache=True, nogil=True, parallel=True)
def winding_counts(corners, boxes, starts, ways):  # type: ignore[no-untyped-def]
    """How often a mesh goes around places: along a ray, out of it less into it, (n,)."""
    leaves = len(boxes) // 2
    found = np.zeros(len(starts), np.int64)
    for i in prange(len(starts)):
        start, way = starts[i], ways[i]
        inverse = np.empty(3)
        for k in range(3):
            inverse[k] = 1 / way[k] if way[k] != 0 else np.inf
        stack = np.empty(64, np.int64)
        stack[0] = 1
        size = 1
        while size:
            size -= 1
            n = stack[size]
            if _into_box(boxes, n, start, inverse, np.inf) == np.inf:
                continue
            if n < leaves:
                stack[size], stack[size + 1] = 2 * n, 2 * n + 1
                size += 2
                continue
            first = (n - leaves) * _LEAF
            for g in range(first, min(first + _LEAF, len(corners))):
                if _into_triangle(start, way, corners[g], 0.0) != np.inf:
                    t = corners[g]
                    u, v = t[1] - t[0], t[2] - t[0]
                    along = (
                        (u[1] * v[2] - u[2] * v[1]) * way[0]
                        + (u[2] * v[0] - u[0] * v[2]) * way[1]
                        + (u[0] * v[1] - u[1] * v[0]) * way[2]
                    )
                    found[i] += 1 if along > 0 else -1
    return found
