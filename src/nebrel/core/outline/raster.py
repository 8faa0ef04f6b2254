"""Outlines on a grid of pixels: what lies inside, and how far from the outline."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Loop, Mask
from nebrel.core.outline.nearest_edges import nearest_edges
from nebrel.core.outline.outline import Points, edges_of

_STEP_PX = 0.5  # between the places on an outline that distances are looked for from


def fill(loops: Sequence[Loop], rows: int, cols: int) -> Mask:
    """Which pixels have their middle inside, by the even-odd rule.

    Parameters
    ----------
    loops : (n, 2) x, y in pixels, y down; they may reach outside the grid

    Returns
    -------
    (rows, cols) bool. A line of pixels changes sides where an edge crosses it.
    """
    flips = np.zeros((rows, cols + 1), np.uint8)
    if len(loops):
        start, end = edges_of(loops)
        low, high = np.minimum(start[:, 1], end[:, 1]), np.maximum(start[:, 1], end[:, 1])
        first = np.clip(np.ceil(low), 0, rows).astype(np.int64)
        count = np.maximum(np.clip(np.ceil(high), 0, rows).astype(np.int64) - first, 0)
        edge = np.repeat(np.arange(len(start)), count)
        row = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count) + first[edge]
        rise = end[edge, 1] - start[edge, 1]
        share = (row - start[edge, 1]) / rise
        x = start[edge, 0] + share * (end[edge, 0] - start[edge, 0])
        column = np.clip(np.ceil(x), 0, cols).astype(np.int64)
        np.add.at(flips, (row, column), 1)
    return (np.cumsum(flips, axis=1, dtype=np.uint8)[:, :-1] & 1).astype(bool)


def inwards_px(loops: Sequence[Loop], rows: int, cols: int) -> Floats:
    """Distance of every pixel to an outline, px; positive inside.

    Parameters
    ----------
    loops : (n, 2) x, y in pixels, y down, by the even-odd rule; at least one

    Returns
    -------
    (rows, cols) float32: the distance to the edge whose drawn pixel is nearest, or to one along
    the outline from there that is nearer
    """
    start, end = edges_of([np.asarray(loop, np.float64) for loop in loops])
    places, edge = _along(start, end)
    column = np.round(places[:, 0]).astype(np.int64)
    row = np.round(places[:, 1]).astype(np.int64)
    on = (column >= 0) & (column < cols) & (row >= 0) & (row < rows)
    owner = np.full((rows, cols), -1, np.int64)
    owner[row[on], column[on]] = edge[on]
    drawn = owner >= 0
    if not drawn.any():
        return np.where(fill(loops, rows, cols), np.float32(rows + cols), -np.float32(rows + cols))
    from scipy.ndimage import distance_transform_edt  # slow to load, and seldom needed

    at = distance_transform_edt(~drawn, return_distances=False, return_indices=True)
    away = nearest_edges(
        owner[at[0], at[1]], start, end, *_neighbours([len(loop) for loop in loops])
    )
    return np.where(fill(loops, rows, cols), away, -away).astype(np.float32)


def _along(start: Points, end: Points) -> tuple[Points, NDArray[np.int64]]:
    """Places along all edges, at most `_STEP_PX` apart, and the edge of each."""
    count = np.maximum(1, np.ceil(np.hypot(*(end - start).T) / _STEP_PX)).astype(np.int64)
    edge = np.repeat(np.arange(len(start)), count)
    step = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count)
    share = ((step + 0.5) / count[edge])[:, None]
    return start[edge] * (1 - share) + end[edge] * share, edge


def _neighbours(sizes: Sequence[int]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    before, after, first = [], [], 0
    for size in sizes:
        own = np.arange(first, first + size)
        before.append(np.roll(own, 1))
        after.append(np.roll(own, -1))
        first += size
    return np.concatenate(before), np.concatenate(after)
