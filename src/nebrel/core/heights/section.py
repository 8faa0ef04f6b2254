"""The profile of heights along a line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, HeightField

Place = tuple[float, float]


@dataclass(frozen=True)
class Section:
    """Heights along a straight line over the flat extent of a piece.

    Attributes
    ----------
    length_mm : of the line
    low_mm, high_mm : (n,) lowest and highest height in each of n equal parts of the line;
        0 where nothing is
    slope_deg : (n,) how steeply the highest line climbs (above 0) or falls there
    """

    length_mm: float
    low_mm: Floats
    high_mm: Floats
    slope_deg: Floats


def cut_section(
    field: HeightField,
    there: NDArray[np.bool_] | None,
    start_mm: Place,
    end_mm: Place,
    parts: int = 800,
) -> Section:
    """Cut along a line.

    Parameters
    ----------
    there : where the heights are, or None when everywhere
    start_mm, end_mm : x to the right and y up from the lower left corner; beyond the piece
        there is nothing
    parts : of the line; each tells the lowest and highest of all pixels that it crosses,
        sampled four times a pixel, so that no spike is lost however coarse the parts
    """
    rows, cols = field.mm.shape
    pitch_x, pitch_y = field.pitch_mm
    length = float(np.hypot(end_mm[0] - start_mm[0], end_mm[1] - start_mm[1]))
    each = max(2, int(np.ceil(length / min(pitch_x, pitch_y) / parts * 4)) + 1)
    share = np.linspace(0, 1, parts * each)
    x = (start_mm[0] + share * (end_mm[0] - start_mm[0])) / pitch_x
    y = rows - 1 - (start_mm[1] + share * (end_mm[1] - start_mm[1])) / pitch_y
    inside = (x >= -1e-6) & (x <= cols - 1 + 1e-6) & (y >= -1e-6) & (y <= rows - 1 + 1e-6)
    x, y = np.clip(x, 0, cols - 1), np.clip(y, 0, rows - 1)
    left, top = np.minimum(x.astype(int), cols - 2), np.minimum(y.astype(int), rows - 2)
    u, v = x - left, y - top
    mm = field.mm
    upper = mm[top, left] * (1 - u) + mm[top, left + 1] * u
    lower = mm[top + 1, left] * (1 - u) + mm[top + 1, left + 1] * u
    heights = upper * (1 - v) + lower * v
    if there is not None:
        inside &= there[np.round(y).astype(int), np.round(x).astype(int)]
    heights = np.where(inside, heights, 0).astype(np.float32).reshape(parts, each)
    high = heights.max(axis=1)
    climb = np.gradient(high, max(length, 1e-9) / parts)
    slope = np.degrees(np.arctan(climb)).astype(np.float32)
    return Section(length, heights.min(axis=1), high, slope)
