"""Distances of pixels to the straight edges of an outline, as compiled kernels."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, inline="always")
def _squared(x, y, edge, start, end):  # type: ignore[no-untyped-def]
    run_x, run_y = end[edge, 0] - start[edge, 0], end[edge, 1] - start[edge, 1]
    off_x, off_y = x - start[edge, 0], y - start[edge, 1]
    length = max(run_x * run_x + run_y * run_y, 1e-18)
    share = min(max((off_x * run_x + off_y * run_y) / length, 0.0), 1.0)
    return (off_x - share * run_x) ** 2 + (off_y - share * run_y) ** 2


@njit(cache=True)
def nearest_edges(first, start, end, before, after):  # type: ignore[no-untyped-def]
    """Distance of every pixel to the nearest edge, px.

    Parameters
    ----------
    first : (rows, cols) int, an edge near the nearest of each pixel
    start, end : (n, 2) x, y of the edges
    before, after : (n,) the edges on either side along the outline

    From the first edge along the outline, on either side, as long as it comes nearer. Midway
    between two edges the first one may be the wrong one: then a neighbouring pixel knows.
    """
    rows, cols = first.shape
    chosen = np.empty((rows, cols), np.int64)
    squared = np.empty((rows, cols), np.float64)
    for y in range(rows):
        for x in range(cols):
            edge = first[y, x]
            least = _squared(x, y, edge, start, end)
            for way in range(2):
                at = edge
                for _ in range(64):
                    at = after[at] if way == 0 else before[at]
                    found = _squared(x, y, at, start, end)
                    if found > least:
                        break
                    least, edge = found, at
            chosen[y, x], squared[y, x] = edge, least
    away = np.empty((rows, cols), np.float64)
    for y in range(rows):
        for x in range(cols):
            least = squared[y, x]
            for down, right in ((-1, 0), (1, 0), (0, -1), (0, 1)):
                row, col = y + down, x + right
                if 0 <= row < rows and 0 <= col < cols:
                    least = min(least, _squared(x, y, chosen[row, col], start, end))
            away[y, x] = np.sqrt(least)
    return away
