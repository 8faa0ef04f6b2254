"""Draft: walls leaned outwards, so that a mould lets go."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from nebrel.core.data import HeightField
from nebrel.core.heights.relief import Relief

_EDGE_MM = 0.05  # an outer edge that leans out ends at this thickness
_FINEST = 1400  # pixels on the longer side at least, so that the lean is not stepped


def lean(relief: Relief, degrees: float) -> Relief:
    """The same relief with no wall steeper than the draft allows.

    Parameters
    ----------
    degrees : from upright, > 0; what lies at the foot of a wall is filled up, the tops stay

    The outer edge leans out as well, as far as the extent reaches.
    """
    slope = 1 / math.tan(math.radians(degrees))
    field, there = _fine(relief)
    heights = field.mm if there is None else np.where(there, field.mm, np.float32(0))
    pitch = field.pitch_mm
    leaned = fill_slopes(np.ascontiguousarray(heights, np.float32), slope, *pitch)
    if there is None:
        return Relief(HeightField(leaned, field.wide_mm, field.tall_mm))
    over = (leaned - np.float32(_EDGE_MM)) / np.float32(slope * max(pitch))
    cover = np.clip(over + np.float32(0.5), 0, 1).astype(np.float32)
    raised = np.maximum(leaned, np.float32(_EDGE_MM))
    return Relief(
        HeightField(raised, field.wide_mm, field.tall_mm), None if cover.min() >= 0.5 else cover
    )


def _fine(relief: Relief) -> tuple[HeightField, np.ndarray | None]:
    """The joined heights, sampled finer where the picture is coarse."""
    rows, cols = relief.field.mm.shape
    times = math.ceil(_FINEST / max(rows, cols)) if max(rows, cols) > 300 else 2
    if times <= 1 or (relief.plain and not relief.plateaus and relief.cover is None):
        return relief.joined()
    x = np.linspace(0, relief.field.wide_mm, (cols - 1) * times + 1)
    y = np.linspace(relief.field.tall_mm, 0, (rows - 1) * times + 1)
    places = np.tile(x, len(y)), np.repeat(y, len(x))
    heights, there = relief.at(*places)
    shape = (len(y), len(x))
    mm = heights.reshape(shape).astype(np.float32)
    kept = there.reshape(shape)
    return HeightField(mm, relief.field.wide_mm, relief.field.tall_mm), None if kept.all() else kept


@njit(cache=True)
def fill_slopes(heights, slope, pitch_x, pitch_y):  # type: ignore[no-untyped-def]
    """The lowest heights above the given ones that nowhere climb faster than `slope`.

    Source: Zhao, A fast sweeping method for Eikonal equations (2005), run on the upper bound:
    each pixel is at least the Godunov solution of its neighbours less the slope.
    """
    rows, cols = heights.shape
    found = heights.copy()
    for _ in range(4):
        moved = 0.0
        for sweep in range(4):
            for i in range(rows):
                r = i if sweep < 2 else rows - 1 - i
                for j in range(cols):
                    c = j if sweep % 2 == 0 else cols - 1 - j
                    a = -1e30
                    if c > 0:
                        a = found[r, c - 1]
                    if c < cols - 1 and found[r, c + 1] > a:
                        a = found[r, c + 1]
                    b = -1e30
                    if r > 0:
                        b = found[r - 1, c]
                    if r < rows - 1 and found[r + 1, c] > b:
                        b = found[r + 1, c]
                    value = found[r, c]
                    if a <= value and b <= value:
                        continue
                    best = max(a - slope * pitch_x, b - slope * pitch_y)
                    # Both neighbours bear on it: |grad| = slope, taken down from both.
                    wx, wy = 1 / (pitch_x * pitch_x), 1 / (pitch_y * pitch_y)
                    mean = (wx * a + wy * b) / (wx + wy)
                    gap = (wx + wy) * slope * slope - wx * wy * (a - b) * (a - b)
                    if gap > 0:
                        lower = mean - gap**0.5 / (wx + wy)
                        if lower < a and lower < b:
                            best = lower
                    if best > value + 1e-6:
                        found[r, c] = best
                        moved = max(moved, best - value)
        if moved < 1e-4:
            break
    return found
