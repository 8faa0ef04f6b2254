"""Compiled: the nearest place of a mesh to any place, by boxes in boxes."""

from __future__ import annotations

import numpy as np
from numba import njit, prange

_LEAF = 4  # triangles in a lowest box
_IN_ROW = 256  # points that are asked one after another
_UPRIGHT = 0.1  # cosine to the normal of what it is laid over


@njit(cache=True, nogil=True)
def spread_bits(value):  # type: ignore[no-untyped-def]
    """The ten lowest bits of a number, two zeros after each."""
    value = (value | (value << 16)) & 0x030000FF
    value = (value | (value << 8)) & 0x0300F00F
    value = (value | (value << 4)) & 0x030C30C3
    return (value | (value << 2)) & 0x09249249


@njit(cache=True, nogil=True)
def morton_of(corners, low, scale):  # type: ignore[no-untyped-def]
    """Numbers for the middles of triangles (F, 3, 3), or places (F, 1, 3): near for neighbours."""
    found = np.empty(len(corners), np.int64)
    for f in range(len(corners)):
        code = 0
        for k in range(3):
            middle = 0.0
            for c in range(corners.shape[1]):
                middle += corners[f, c, k] / corners.shape[1]
            cell = min(1023, max(0, int((middle - low[k]) * scale[k])))
            code |= spread_bits(cell) << k
        found[f] = code
    return found


@njit(cache=True, nogil=True)
def boxes_over(corners, leaves):  # type: ignore[no-untyped-def]
    """Boxes (2 * leaves, 6) of a heap: 1 is the whole, 2n and 2n + 1 lie in n."""
    boxes = np.empty((2 * leaves, 6))
    boxes[:, :3], boxes[:, 3:] = np.inf, -np.inf
    for f in range(len(corners)):
        n = leaves + f // _LEAF
        for k in range(3):
            for c in range(3):
                boxes[n, k] = min(boxes[n, k], corners[f, c, k])
                boxes[n, 3 + k] = max(boxes[n, 3 + k], corners[f, c, k])
    for n in range(leaves - 1, 0, -1):
        for k in range(3):
            boxes[n, k] = min(boxes[2 * n, k], boxes[2 * n + 1, k])
            boxes[n, 3 + k] = max(boxes[2 * n, 3 + k], boxes[2 * n + 1, 3 + k])
    return boxes


@njit(cache=True, nogil=True, inline="always")
def _to_box(boxes, n, x, y, z):  # type: ignore[no-untyped-def]
    dx = max(boxes[n, 0] - x, 0.0, x - boxes[n, 3])
    dy = max(boxes[n, 1] - y, 0.0, y - boxes[n, 4])
    dz = max(boxes[n, 2] - z, 0.0, z - boxes[n, 5])
    return dx * dx + dy * dy + dz * dz


@njit(cache=True, nogil=True)
def near_on(t, x, y, z, at):  # type: ignore[no-untyped-def]
    """Squared distance of a place to a triangle (3, 3), and where on it, into `at`.

    Source: Ericson, Real-Time Collision Detection (2005), 5.1.5.
    """
    ax, ay, az = t[0, 0], t[0, 1], t[0, 2]
    ux, uy, uz = t[1, 0] - ax, t[1, 1] - ay, t[1, 2] - az
    vx, vy, vz = t[2, 0] - ax, t[2, 1] - ay, t[2, 2] - az
    px, py, pz = x - ax, y - ay, z - az
    d1, d2 = ux * px + uy * py + uz * pz, vx * px + vy * py + vz * pz
    uu, uv, vv = (
        ux * ux + uy * uy + uz * uz,
        ux * vx + uy * vy + uz * vz,
        vx * vx + vy * vy + vz * vz,
    )
    d3, d4 = d1 - uu, d2 - uv  # of the second corner
    d5, d6 = d1 - uv, d2 - vv  # of the third
    s = t_ = 0.0
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    if d1 <= 0 and d2 <= 0:
        pass
    elif d3 >= 0 and d4 <= d3:
        s = 1.0
    elif d6 >= 0 and d5 <= d6:
        t_ = 1.0
    elif vc <= 0 and d1 >= 0 and d3 <= 0:
        s = d1 / max(d1 - d3, 1e-300)
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        t_ = d2 / max(d2 - d6, 1e-300)
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        t_ = (d4 - d3) / max((d4 - d3) + (d5 - d6), 1e-300)
        s = 1 - t_
    else:
        whole = max(va + vb + vc, 1e-300)
        s, t_ = vb / whole, vc / whole
    at[0], at[1], at[2] = ax + s * ux + t_ * vx, ay + s * uy + t_ * vy, az + s * uz + t_ * vz
    dx, dy, dz = x - at[0], y - at[1], z - at[2]
    return dx * dx + dy * dy + dz * dz


@njit(cache=True, nogil=True)
def nearest_one(corners, boxes, x, y, z, most, place):  # type: ignore[no-untyped-def]
    """Squared distance to the nearest triangle and its number; -1 beyond `most`, squared."""
    leaves = len(boxes) // 2
    stack = np.empty(64, np.int64)
    away = np.empty(64)
    at = np.empty(3)
    best, face, size = most, -1, 1
    stack[0], away[0] = 1, _to_box(boxes, 1, x, y, z)
    while size:
        size -= 1
        if away[size] >= best:
            continue
        n = stack[size]
        if n >= leaves:
            first = (n - leaves) * _LEAF
            for f in range(first, min(first + _LEAF, len(corners))):
                d = near_on(corners[f], x, y, z, at)
                if d < best:
                    best, face = d, f
                    place[0], place[1], place[2] = at[0], at[1], at[2]
            continue
        one, other = 2 * n, 2 * n + 1
        d1, d2 = _to_box(boxes, one, x, y, z), _to_box(boxes, other, x, y, z)
        if d1 < d2:
            one, other, d1, d2 = other, one, d2, d1
        if d1 < best:  # the farther first, so that the nearer is taken next
            stack[size], away[size] = one, d1
            size += 1
        if d2 < best:
            stack[size], away[size] = other, d2
            size += 1
    return best, face


@njit(cache=True, nogil=True, parallel=True)
def nearest_all(corners, boxes, points, most):  # type: ignore[no-untyped-def]
    """Distance, triangle and place for every point (n, 3).

    What is nearest to a point is tried first for the next one, which mostly lies beside it.
    """
    count = len(points)
    distance, face, place = np.empty(count), np.empty(count, np.int64), np.empty((count, 3))
    for chunk in prange((count + _IN_ROW - 1) // _IN_ROW):
        before = -1
        for i in range(chunk * _IN_ROW, min(count, (chunk + 1) * _IN_ROW)):
            x, y, z = points[i, 0], points[i, 1], points[i, 2]
            bound = most * most
            tried = -1
            if before >= 0 and face[before] >= 0:
                dx, dy, dz = x - place[before, 0], y - place[before, 1], z - place[before, 2]
                away = dx * dx + dy * dy + dz * dz
                if away < bound:
                    bound, tried = away, face[before]
            d, f = nearest_one(corners, boxes, x, y, z, bound, place[i])
            if f < 0 and tried >= 0:
                f = tried
                for k in range(3):
                    place[i, k] = place[before, k]
            distance[i], face[i] = np.sqrt(d), f
            before = i
    return distance, face, place


@njit(cache=True, nogil=True, parallel=True)
def bound_all(corners, own, faces):  # type: ignore[no-untyped-def]
    """By how much each triangle `own` (n, 3, 3) misses another mesh at most.

    Parameters
    ----------
    faces : (n, 3) the triangle nearest to each of its corners

    The distance to one triangle is convex, so it is largest at a corner; and no triangle is
    nearer than the nearest.
    """
    found = np.empty(len(own))
    for i in prange(len(own)):
        at = np.empty(3)
        best = np.inf
        for k in range(3):
            most = 0.0
            for c in range(3):
                d = near_on(corners[faces[i, k]], own[i, c, 0], own[i, c, 1], own[i, c, 2], at)
                most = max(most, d)
            best = min(best, most)
        found[i] = np.sqrt(best)
    return found


@njit(cache=True, nogil=True)
def _clip(polygon, n, a0, a1, b0, b1, out):  # type: ignore[no-untyped-def]
    """What of a convex polygon (n, 2) lies left of a line from a to b, into `out`; how many."""
    made = 0
    for i in range(n):
        k = i + 1 if i + 1 < n else 0
        one = (b0 - a0) * (polygon[i, 1] - a1) - (b1 - a1) * (polygon[i, 0] - a0)
        two = (b0 - a0) * (polygon[k, 1] - a1) - (b1 - a1) * (polygon[k, 0] - a0)
        if one >= 0:
            out[made, 0], out[made, 1] = polygon[i, 0], polygon[i, 1]
            made += 1
        if (one < 0) != (two < 0):
            share = one / (one - two)
            out[made, 0] = polygon[i, 0] + share * (polygon[k, 0] - polygon[i, 0])
            out[made, 1] = polygon[i, 1] + share * (polygon[k, 1] - polygon[i, 1])
            made += 1
    return made


@njit(cache=True, nogil=True)
def _over_one(corners, boxes, t, reach, covered):  # type: ignore[no-untyped-def]  # noqa: PLR0915
    """By how much a triangle misses what lies over and under it within a reach, at most.

    Parameters
    ----------
    covered : (1,) gets the share of the triangle that something lies over or under

    Each face is seen along the triangle's normal; over its part of the triangle the distance to
    it is convex, so it is largest at a corner of that part.
    """
    e1, w = t[1] - t[0], t[2] - t[0]
    long = np.sqrt(e1[0] ** 2 + e1[1] ** 2 + e1[2] ** 2)
    n = np.array(
        [e1[1] * w[2] - e1[2] * w[1], e1[2] * w[0] - e1[0] * w[2], e1[0] * w[1] - e1[1] * w[0]]
    )
    double = np.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2)
    covered[0] = 0.0
    if double < 1e-14 or long < 1e-14:
        return 0.0
    n /= double
    e1 /= long
    e2 = np.array(
        [n[1] * e1[2] - n[2] * e1[1], n[2] * e1[0] - n[0] * e1[2], n[0] * e1[1] - n[1] * e1[0]]
    )
    c0, c1 = w[0] * e1[0] + w[1] * e1[1] + w[2] * e1[2], w[0] * e2[0] + w[1] * e2[1] + w[2] * e2[2]
    low, high = np.empty(3), np.empty(3)
    for k in range(3):
        low[k] = min(t[0, k], t[1, k], t[2, k]) - reach
        high[k] = max(t[0, k], t[1, k], t[2, k]) + reach
    one, other, at = np.empty((9, 2)), np.empty((9, 2)), np.empty(3)
    stack = np.empty(64, np.int64)
    stack[0] = 1
    size, leaves = 1, len(boxes) // 2
    most = area = 0.0
    while size:
        size -= 1
        node = stack[size]
        apart = False
        for k in range(3):
            apart |= boxes[node, k] > high[k] or boxes[node, 3 + k] < low[k]
        if apart:
            continue
        if node < leaves:
            stack[size], stack[size + 1] = 2 * node, 2 * node + 1
            size += 2
            continue
        first = (node - leaves) * _LEAF
        for f in range(first, min(first + _LEAF, len(corners))):
            nearest = np.inf
            for k in range(3):
                x = corners[f, k, 0] - t[0, 0]
                y = corners[f, k, 1] - t[0, 1]
                z = corners[f, k, 2] - t[0, 2]
                one[k, 0] = x * e1[0] + y * e1[1] + z * e1[2]
                one[k, 1] = x * e2[0] + y * e2[1] + z * e2[2]
                nearest = min(nearest, abs(x * n[0] + y * n[1] + z * n[2]))
            turn = (one[1, 0] - one[0, 0]) * (one[2, 1] - one[0, 1]) - (one[2, 0] - one[0, 0]) * (
                one[1, 1] - one[0, 1]
            )
            u0 = corners[f, 1, 0] - corners[f, 0, 0]
            u1 = corners[f, 1, 1] - corners[f, 0, 1]
            u2 = corners[f, 1, 2] - corners[f, 0, 2]
            v0 = corners[f, 2, 0] - corners[f, 0, 0]
            v1 = corners[f, 2, 1] - corners[f, 0, 1]
            v2 = corners[f, 2, 2] - corners[f, 0, 2]
            x, y, z = u1 * v2 - u2 * v1, u2 * v0 - u0 * v2, u0 * v1 - u1 * v0
            # It looks the other way or stands nearly upright, or is too far.
            if turn <= _UPRIGHT * np.sqrt(x * x + y * y + z * z) or nearest > reach:
                continue
            made = _clip(one, 3, 0.0, 0.0, long, 0.0, other)
            made = _clip(other, made, long, 0.0, c0, c1, one)
            made = _clip(one, made, c0, c1, 0.0, 0.0, other)
            if made < 3:
                continue
            own = 0.0
            for k in range(1, made - 1):
                own += (other[k, 0] - other[0, 0]) * (other[k + 1, 1] - other[0, 1]) - (
                    other[k + 1, 0] - other[0, 0]
                ) * (other[k, 1] - other[0, 1])
            if own <= 0:
                continue
            area += own
            for k in range(made):
                x = t[0, 0] + other[k, 0] * e1[0] + other[k, 1] * e2[0]
                y = t[0, 1] + other[k, 0] * e1[1] + other[k, 1] * e2[1]
                z = t[0, 2] + other[k, 0] * e1[2] + other[k, 1] * e2[2]
                most = max(most, near_on(corners[f], x, y, z, at))
    covered[0] = area / double
    return np.sqrt(most)


@njit(cache=True, nogil=True)
def _sharpest(t):  # type: ignore[no-untyped-def]
    """The smallest angle of a triangle, and twice its area."""
    least, double = np.pi, 0.0
    for k in range(3):
        u, v = t[(k + 1) % 3] - t[k], t[(k + 2) % 3] - t[k]
        x, y, z = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
        double = np.sqrt(x * x + y * y + z * z)
        least = min(least, np.arctan2(double, u[0] * v[0] + u[1] * v[1] + u[2] * v[2]))
    return least, double


@njit(cache=True, nogil=True, parallel=True)
def bound_over(corners, boxes, own, reach, bound):  # type: ignore[no-untyped-def]
    """As `bound_all`, over all faces near a triangle together; `bound` (n,) is lowered to it.

    Parameters
    ----------
    reach : (n,) how far from each triangle faces are looked for
    """
    for i in prange(len(own)):
        covered = np.empty(1)
        most = _over_one(corners, boxes, own[i], reach[i], covered)
        # What nothing lies over is no wider than a disc whose part in the sharpest corner is as
        # large; and the distance grows by no more than the way.
        angle, double = _sharpest(own[i])
        bare = max(0.0, 1 - covered[0]) * double
        if angle > 1e-6:
            bound[i] = min(bound[i], most + np.sqrt(bare / angle))
