"""Long loops over large meshes in compiled code; each does what its plain namesake does.

Loading them takes half a second, so they are only taken where there are many triangles.
"""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def find_twins(corners, count):  # type: ignore[no-untyped-def]
    """As `fans.find_twins`, of (3F,) int32 corners below `count`."""
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


@njit(cache=True, nogil=True)
def number_fans(twin):  # type: ignore[no-untyped-def]
    """As `fans.number_fans`, of int32."""
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


@njit(cache=True, nogil=True)
def join_components(label, one, other):  # type: ignore[no-untyped-def]
    """As `components.label_components`, into `label`, which begins as 0, 1, 2 …; the number."""
    for e in range(len(one)):
        a, b = np.int64(one[e]), np.int64(other[e])
        while label[a] != a:
            label[a] = label[label[a]]
            a = label[a]
        while label[b] != b:
            label[b] = label[label[b]]
            b = label[b]
        if a < b:
            label[b] = a
        elif b < a:
            label[a] = b
    # A root comes before all that it holds.
    count = 0
    for n in range(len(label)):
        if label[n] == n:
            label[n] = -1 - count
            count += 1
        else:
            root = label[n]
            while label[root] >= 0:
                root = label[root]
            label[n] = label[root]
    for n in range(len(label)):
        label[n] = -1 - label[n]
    return count


@njit(cache=True, nogil=True)
def volume_and_area(vertices, faces, centre):  # type: ignore[no-untyped-def]
    """mm³ and mm² of a mesh, seen from a centre."""
    volume = area = 0.0
    cx, cy, cz = centre
    for f in range(len(faces)):
        a, b, c = faces[f]
        ax, ay, az = vertices[a, 0] - cx, vertices[a, 1] - cy, vertices[a, 2] - cz
        px, py, pz = vertices[b, 0] - cx, vertices[b, 1] - cy, vertices[b, 2] - cz
        qx, qy, qz = vertices[c, 0] - cx, vertices[c, 1] - cy, vertices[c, 2] - cz
        volume += ax * (py * qz - pz * qy) + ay * (pz * qx - px * qz) + az * (px * qy - py * qx)
        px, py, pz, qx, qy, qz = px - ax, py - ay, pz - az, qx - ax, qy - ay, qz - az
        nx, ny, nz = py * qz - pz * qy, pz * qx - px * qz, px * qy - py * qx
        area += (nx * nx + ny * ny + nz * nz) ** 0.5
    return volume / 6, area / 2


@njit(cache=True, nogil=True)
def fill_records(vertices, faces, records):  # type: ignore[no-untyped-def]
    """Normal and corners of every face, as a binary STL has them: (F, 25) uint16."""
    row = np.empty(12, np.float32)
    halves = row.view(np.uint16)
    for f in range(len(faces)):
        for corner in range(3):
            for axis in range(3):
                row[3 + 3 * corner + axis] = vertices[faces[f, corner], axis]
        px, py, pz = row[6] - row[3], row[7] - row[4], row[8] - row[5]
        qx, qy, qz = row[9] - row[3], row[10] - row[4], row[11] - row[5]
        nx, ny, nz = py * qz - pz * qy, pz * qx - px * qz, px * qy - py * qx
        length = (nx * nx + ny * ny + nz * nz) ** np.float32(0.5)
        if length > 0:
            nx, ny, nz = nx / length, ny / length, nz / length
        row[0], row[1], row[2] = nx, ny, nz
        for k in range(24):
            records[f, k] = halves[k]
        records[f, 24] = 0


@njit(cache=True, nogil=True)
def gather_places(vertices, low, cell, wide):  # type: ignore[no-untyped-def]
    """Places (n, 3) in one cell of a grid made one.

    Parameters
    ----------
    low : corner of the grid; `cell` its pitch; `wide` (3,) how many cells

    Returns
    -------
    (m, 3) float32 the middle of those in each cell, (m,) the first of them, (n,) its cell
    """
    table = np.full(wide[0] * wide[1] * wide[2], -1, np.int32)
    kind, first = np.empty(len(vertices), np.int32), np.empty(len(vertices), np.int32)
    sums, many = np.zeros((len(vertices) // 2 + 16, 3)), np.zeros(len(vertices), np.int32)
    count = 0
    for n in range(len(vertices)):
        at = 0
        for k in range(3):
            place = min(wide[k] - 1, max(0, int((vertices[n, k] - low[k]) / cell)))
            at = at * wide[k] + place
        own = table[at]
        if own < 0:
            own = table[at] = count
            first[count] = n
            count += 1
            if count >= len(sums):
                larger = np.zeros((2 * len(sums), 3))
                for old in range(len(sums)):
                    for k in range(3):
                        larger[old, k] = sums[old, k]
                sums = larger
        kind[n] = own
        many[own] += 1
        for k in range(3):
            sums[own, k] += vertices[n, k]
    middle = np.empty((count, 3), np.float32)
    for own in range(count):
        for k in range(3):
            middle[own, k] = sums[own, k] / many[own]
    return middle, first[:count].copy(), kind


@njit(cache=True, nogil=True)
def join_places(bits):  # type: ignore[no-untyped-def]
    """As `rows.unique_rows` of (n, 3) int32, in the order in which they first come."""
    size = 1
    while size < 2 * len(bits):
        size *= 2
    seats = np.full(size, -1, np.int32)
    first, kind = np.empty(len(bits), np.int32), np.empty(len(bits), np.int32)
    count = 0
    for n in range(len(bits)):
        a, b, c = np.uint64(bits[n, 0]), np.uint64(bits[n, 1]), np.uint64(bits[n, 2])
        mixed = a * np.uint64(0x9E3779B97F4A7C15)
        mixed = (mixed ^ (mixed >> np.uint64(29)) ^ b) * np.uint64(0xC2B2AE3D27D4EB4F)
        mixed = (mixed ^ (mixed >> np.uint64(31)) ^ c) * np.uint64(0x165667B19E3779F9)
        at = np.int64((mixed ^ (mixed >> np.uint64(32))) & np.uint64(size - 1))
        while True:
            own = seats[at]
            if own < 0:
                seats[at], first[count], kind[n] = count, n, count
                count += 1
                break
            m = first[own]
            if bits[m, 0] == bits[n, 0] and bits[m, 1] == bits[n, 1] and bits[m, 2] == bits[n, 2]:
                kind[n] = own
                break
            at = (at + 1) & (size - 1)
    return first[:count].copy(), kind


@njit(cache=True, nogil=True)
def fan_normals(corners, unit, double, label, count):  # type: ignore[no-untyped-def]
    """As `shade.fan_normals`."""
    found = np.zeros((count, 3))
    for f in range(len(corners)):
        for i in range(3):
            one = corners[f, (i + 1) % 3] - corners[f, i]
            two = corners[f, (i + 2) % 3] - corners[f, i]
            dot = one[0] * two[0] + one[1] * two[1] + one[2] * two[2]
            x = one[1] * two[2] - one[2] * two[1]
            y = one[2] * two[0] - one[0] * two[2]
            z = one[0] * two[1] - one[1] * two[0]
            across = (x * x + y * y + z * z) ** 0.5
            weight = np.arctan2(across, dot) * double[f]
            for k in range(3):
                found[label[3 * f + i], k] += weight * unit[f, k]
    return found
