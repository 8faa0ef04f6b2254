"""A height field as a network of right triangles, quickly and never further than a tolerance."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats

_LEAF = 2  # side of the smallest cell, in steps
_BANDS = max(1, min(4, os.cpu_count() or 1))
_ALONE = 600_000  # pixels that one thread does sooner than several

Ints = NDArray[np.int32]


@dataclass(frozen=True)
class _Grid:
    """Squares of `side` steps over the picture; a step is a pixel or, here and there, none.

    Attributes
    ----------
    x, y : column and row of every step
    """

    side: int
    x: Ints
    y: Ints


def network(
    mm: Floats,
    tolerance_mm: float,
    around: bool = False,
    tell: Callable[[], None] | None = None,
) -> tuple[Ints, Ints]:
    """Triangles over the pixels of a height field.

    Parameters
    ----------
    mm : (rows, cols) float32, at least 2 x 2
    tolerance_mm : > 0, the largest vertical distance at any pixel
    around : the first column is the last one too: both get the same vertices
    tell : called now and then; may raise to call it off

    Returns
    -------
    (V, 2) int32 column and row of every vertex, and (F, 3) int32 faces that look upwards, rows
    running downwards. Every pixel lies within `tolerance_mm` of them.

    Source: Evans, Kirkpatrick and Townsend, Right-triangulated irregular networks (2001), split
    from the top wherever a pixel is too far, and closed under the splits that others force.
    """
    heights = np.ascontiguousarray(mm, np.float32)
    grid = _lay_out(*heights.shape)
    active = np.zeros((len(grid.y), len(grid.x)), np.uint8)
    active[:: grid.side, :: grid.side] = 1
    sides = [grid.side >> n for n in range(grid.side.bit_length() - 1)]
    known = {side: np.zeros((len(grid.y) // side, len(grid.x) // side), np.uint8) for side in sides}
    with ThreadPoolExecutor(_BANDS) as threads:

        def on_bands(kernel: Any, rows: int, *args: Any) -> int:
            if heights.size < _ALONE or rows < 2 * _BANDS:
                return int(kernel(0, rows, *args))
            ends = [rows * n // _BANDS for n in range(_BANDS + 1)]
            found = threads.map(lambda n: kernel(ends[n], ends[n + 1], *args), range(_BANDS))
            return sum(found)

        broken = 1
        while broken:
            broken = 0
            for side in sides:
                shared = (heights, grid.x, grid.y, active, known[side], side, grid.side)
                rows = len(known[side])
                broken += on_bands(_split_diagonals, rows, *shared, tolerance_mm, around)
                broken += on_bands(_split_edges, rows, *shared, tolerance_mm, around)
                if tell is not None:
                    tell()
    return _extract(heights, grid, active)


def _lay_out(rows: int, cols: int) -> _Grid:
    """Squares whose sides are one to two times a power of two in both directions."""
    wide, tall = cols - 1, rows - 1
    least = 1 << (min(wide, tall).bit_length() - 1)
    ends_x = _ends(wide, -(-wide // (2 * least)))
    ends_y = _ends(tall, -(-tall // (2 * least)))
    longest = max(np.diff(ends_x).max(), np.diff(ends_y).max())
    side = max(_LEAF, 1 << int(longest - 1).bit_length())
    return _Grid(side, _steps(ends_x, side), _steps(ends_y, side))


def _ends(length: int, parts: int) -> NDArray[np.int64]:
    return np.array([round(length * n / parts) for n in range(parts + 1)], np.int64)


def _steps(ends: NDArray[np.int64], side: int) -> Ints:
    """The pixel of every step: halves of halves, rounded down."""
    steps = np.zeros((len(ends) - 1) * side + 1, np.int64)
    steps[::side] = ends
    half = side // 2
    while half:
        steps[half :: 2 * half] = (steps[: -2 * half : 2 * half] + steps[2 * half :: 2 * half]) // 2
        half //= 2
    return steps.astype(np.int32)


@njit(cache=True, nogil=True)
def _activate(active, i, j, top, around):  # type: ignore[no-untyped-def]
    """Make a vertex part of the network, and all that it stands on."""
    stack = [(i, j)]
    rows, cols = active.shape
    while stack:
        i, j = stack.pop()
        if active[j, i]:
            continue
        active[j, i] = 1
        if around and i == 0:
            stack.append((cols - 1, j))
        elif around and i == cols - 1:
            stack.append((0, j))
        both = i | j
        half = both & -both
        side = 2 * half
        odd_i, odd_j = (i // half) & 1, (j // half) & 1
        if odd_i and odd_j:  # the middle of a square: its two corners that split larger ones
            if side >= top:
                continue
            for a in (i - half, i + half):
                for b in (j - half, j + half):
                    if ((a // side) + (b // side)) & 1:
                        stack.append((a, b))
        elif odd_i:  # the middle of an edge: the middles of the squares on both sides
            if j > 0:
                stack.append((i, j - half))
            if j < rows - 1:
                stack.append((i, j + half))
        else:
            if i > 0:
                stack.append((i - half, j))
            if i < cols - 1:
                stack.append((i + half, j))


@njit(cache=True, nogil=True)
def near_pixels(z, ax, ay, bx, by, cx, cy, tolerance):  # type: ignore[no-untyped-def]
    """Whether every pixel of a triangle is near its plane."""
    az, bz, cz = np.float64(z[ay, ax]), np.float64(z[by, bx]), np.float64(z[cy, cx])
    area = float((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))
    gx = ((bz - az) * (cy - ay) - (cz - az) * (by - ay)) / area
    gy = ((cz - az) * (bx - ax) - (bz - az) * (cx - ax)) / area
    for y in range(min(ay, by, cy), max(ay, by, cy) + 1):
        low, high = 1e9, -1e9
        for side in range(3):
            if side == 0:
                px, py, qx, qy = ax, ay, bx, by
            elif side == 1:
                px, py, qx, qy = bx, by, cx, cy
            else:
                px, py, qx, qy = cx, cy, ax, ay
            if py == qy:
                if py == y:
                    low, high = min(low, px, qx), max(high, px, qx)
            elif min(py, qy) <= y <= max(py, qy):
                x = px + (y - py) * (qx - px) / (qy - py)
                low, high = min(low, x), max(high, x)
        start = az + gy * (y - ay) - gx * ax
        for x in range(int(np.ceil(low - 1e-6)), int(np.floor(high + 1e-6)) + 1):
            if abs(start + gx * x - z[y, x]) > tolerance:
                return False
    return True


@njit(cache=True, nogil=True)
def _off(z, x, y, ax, ay, bx, by, tolerance):  # type: ignore[no-untyped-def]
    """Whether the pixel halfway between two others is far from their middle."""
    middle = 0.5 * (np.float64(z[ay, ax]) + np.float64(z[by, bx]))
    return abs(middle - z[y, x]) > tolerance


@njit(cache=True, nogil=True)
def _split_diagonals(first, last, z, xs, ys, active, known, side, top, tolerance, around):  # type: ignore[no-untyped-def]
    """Split the halves of squares that are too far from a pixel of theirs."""
    broken = 0
    half = side // 2
    for cj in range(first, last):
        j0 = cj * side
        j1, jm = j0 + side, j0 + half
        y0, y1 = ys[j0], ys[j1]
        for ci in range(known.shape[1]):
            i0 = ci * side
            i1, im = i0 + side, i0 + half
            bits = known[cj, ci]
            if active[jm, im] or bits & 3 == 3:
                continue
            x0, x1 = xs[i0], xs[i1]
            small = side == 2 and (x1 - x0 < 2 or y1 - y0 < 2)
            even = ((ci + cj) & 1) == 0
            for number in range(2):
                if bits >> number & 1:
                    continue
                # The right angle lies right above or left below, or on the other two corners.
                if even:
                    ai, aj = (i1, j0) if number == 0 else (i0, j1)
                else:
                    ai, aj = (i0, j0) if number == 0 else (i1, j1)
                if side < top and not active[aj, ai]:
                    continue
                ax, ay = xs[ai], ys[aj]
                bx, by = x0 + x1 - ax, ay
                cx, cy = ax, y0 + y1 - ay
                if small:
                    if x1 - x0 == 2 and _off(z, x0 + 1, ay, x0, ay, x1, ay, tolerance):
                        _activate(active, im, aj, top, around)
                        broken += 1
                    if y1 - y0 == 2 and _off(z, ax, y0 + 1, ax, y0, ax, y1, tolerance):
                        _activate(active, ai, jm, top, around)
                        broken += 1
                    known[cj, ci] |= 1 << number
                elif near_pixels(z, ax, ay, bx, by, cx, cy, tolerance):
                    known[cj, ci] |= 1 << number
                else:
                    _activate(active, im, jm, top, around)
                    broken += 1
                    break
    return broken


@njit(cache=True, nogil=True)
def _split_edges(first, last, z, xs, ys, active, known, side, top, tolerance, around):  # type: ignore[no-untyped-def]
    """Split the quarters of squares that are too far from a pixel of theirs."""
    broken = 0
    half = side // 2
    for cj in range(first, last):
        j0 = cj * side
        j1, jm = j0 + side, j0 + half
        y0, ym, y1 = ys[j0], ys[jm], ys[j1]
        for ci in range(known.shape[1]):
            i0 = ci * side
            i1, im = i0 + side, i0 + half
            bits = known[cj, ci]
            if not active[jm, im] or bits >> 2 == 15:
                continue
            x0, xm, x1 = xs[i0], xs[im], xs[i1]
            small = side == 2 and (x1 - x0 < 2 or y1 - y0 < 2)
            for number in range(4):
                if bits >> (2 + number) & 1:
                    continue
                if number == 0:
                    mi, mj, ax, ay, bx, by = im, j0, x0, y0, x1, y0
                elif number == 1:
                    mi, mj, ax, ay, bx, by = im, j1, x0, y1, x1, y1
                elif number == 2:
                    mi, mj, ax, ay, bx, by = i0, jm, x0, y0, x0, y1
                else:
                    mi, mj, ax, ay, bx, by = i1, jm, x1, y0, x1, y1
                if active[mj, mi]:
                    continue
                if small:
                    long = (x1 - x0 if number < 2 else y1 - y0) == 2
                    good = not long or not _off(z, xs[mi], ys[mj], ax, ay, bx, by, tolerance)
                else:
                    good = near_pixels(z, ax, ay, bx, by, xm, ym, tolerance)
                if good:
                    known[cj, ci] |= 1 << (2 + number)
                else:
                    _activate(active, mi, mj, top, around)
                    broken += 1
    return broken


def _extract(z: Floats, grid: _Grid, active: NDArray[np.uint8]) -> tuple[Ints, Ints]:
    """The vertices in use and the triangles between them."""
    number = np.full(z.shape, -1, np.int32)
    used = int(_number(active, grid.x, grid.y, number))
    vertices = np.empty((used, 2), np.int32)
    _places(number, vertices)
    nowhere = np.empty((0, 3), np.int32)
    count = _emit(active, grid.x, grid.y, number, grid.side, nowhere, False)
    faces = np.empty((count, 3), np.int32)
    _emit(active, grid.x, grid.y, number, grid.side, faces, True)
    return vertices, faces


@njit(cache=True, nogil=True)
def _number(active, xs, ys, number):  # type: ignore[no-untyped-def]
    for j in range(active.shape[0]):
        for i in range(active.shape[1]):
            if not active[j, i]:
                continue
            # The middle of a square that has none is no vertex.
            if j & 1 and i & 1 and (xs[i + 1] - xs[i - 1] < 2 or ys[j + 1] - ys[j - 1] < 2):
                continue
            number[ys[j], xs[i]] = 0
    count = 0
    for r in range(number.shape[0]):
        for c in range(number.shape[1]):
            if number[r, c] == 0:
                number[r, c] = count
                count += 1
    return count


@njit(cache=True, nogil=True)
def _places(number, vertices):  # type: ignore[no-untyped-def]
    for r in range(number.shape[0]):
        for c in range(number.shape[1]):
            at = number[r, c]
            if at >= 0:
                vertices[at, 0], vertices[at, 1] = c, r


@njit(cache=True, nogil=True)
def _emit(active, xs, ys, number, top, faces, write):  # type: ignore[no-untyped-def]  # noqa: PLR0915
    """Count the triangles, or write them down."""
    n = 0
    side = top
    while side >= 2:
        half = side // 2
        for cj in range((active.shape[0] - 1) // side):
            j0 = cj * side
            j1, jm = j0 + side, j0 + half
            y0, y1 = ys[j0], ys[j1]
            if y0 == y1:
                continue
            for ci in range((active.shape[1] - 1) // side):
                i0 = ci * side
                i1, im = i0 + side, i0 + half
                x0, x1 = xs[i0], xs[i1]
                if x0 == x1:
                    continue
                a, b = number[y0, x0], number[y0, x1]
                d, c = number[y1, x0], number[y1, x1]
                small = side == 2 and (x1 - x0 < 2 or y1 - y0 < 2)
                if active[jm, im] and not small:
                    m = number[ys[jm], xs[im]]
                    for quarter in range(4):
                        if quarter == 0:
                            mi, mj, p, q = im, j0, b, a
                        elif quarter == 1:
                            mi, mj, p, q = im, j1, d, c
                        elif quarter == 2:
                            mi, mj, p, q = i0, jm, a, d
                        else:
                            mi, mj, p, q = i1, jm, c, b
                        if active[mj, mi]:
                            if side == 2:  # its halves are no squares any more
                                h = number[ys[mj], xs[mi]]
                                if write:
                                    faces[n, 0], faces[n, 1], faces[n, 2] = p, h, m
                                    faces[n + 1, 0], faces[n + 1, 1], faces[n + 1, 2] = h, q, m
                                n += 2
                            continue
                        if write:
                            faces[n, 0], faces[n, 1], faces[n, 2] = p, q, m
                        n += 1
                    continue
                if small and active[jm, im]:
                    if x1 - x0 == 2:  # lies across: its two long edges are those above and below
                        p, q, r, s = a, b, c, d
                        one, other = active[j0, im], active[j1, im]
                        om, tm = number[y0, xs[im]], number[y1, xs[im]]
                    else:
                        p, q, r, s = d, a, b, c
                        one, other = active[jm, i0], active[jm, i1]
                        om, tm = number[ys[jm], x0], number[ys[jm], x1]
                    if one and other:
                        tris = ((p, tm, om), (p, s, tm), (om, tm, q), (q, tm, r))
                        count = 4
                    elif one:
                        tris = ((om, p, s), (om, s, r), (om, r, q), (om, r, q))
                        count = 3
                    elif other:
                        tris = ((tm, r, q), (tm, q, p), (tm, p, s), (tm, p, s))
                        count = 3
                    else:
                        tris = ((p, r, q), (p, s, r), (p, s, r), (p, s, r))
                        count = 2
                    for t in range(count):
                        if write:
                            faces[n, 0], faces[n, 1], faces[n, 2] = tris[t]
                        n += 1
                    continue
                if (ci + cj) & 1 == 0:
                    if side == top or active[j0, i1]:
                        if write:
                            faces[n, 0], faces[n, 1], faces[n, 2] = a, c, b
                        n += 1
                    if side == top or active[j1, i0]:
                        if write:
                            faces[n, 0], faces[n, 1], faces[n, 2] = a, d, c
                        n += 1
                else:
                    if side == top or active[j0, i0]:
                        if write:
                            faces[n, 0], faces[n, 1], faces[n, 2] = a, d, b
                        n += 1
                    if side == top or active[j1, i1]:
                        if write:
                            faces[n, 0], faces[n, 1], faces[n, 2] = b, d, c
                        n += 1
        side //= 2
    return n
