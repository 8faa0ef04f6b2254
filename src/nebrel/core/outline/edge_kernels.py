"""A compiled kernel that puts isolines of soft-edged pictures where the edge was."""

from __future__ import annotations

import numpy as np
from numba import njit

_FLAT = 0.06  # of the step across an edge, by which what is flat on either side may differ


@njit(cache=True)
def correct_edges(points, field, level):  # type: ignore[no-untyped-def]
    """Isoline points on the grid, moved along their grid lines to where the edge was, in place.

    Parameters
    ----------
    points : (n, 2) x, y in pixels, each with a whole x or y, as bilinear isolines have them
    field : (rows, cols) float, more inside
    level : of the isoline

    Across an edge whose pixels hold how much of them it covers, the sum of what they hold tells
    exactly where a straight edge lies; interpolated between two of them it is up to a tenth of a
    pixel off. Where the picture is not flat within two pixels on both sides, a point stays.
    """
    rows, cols = field.shape
    for k in range(len(points)):
        x, y = points[k, 0], points[k, 1]
        for across in range(2):
            own = x if across else y
            low = int(np.floor(own))
            share = own - low
            other = y if across else x
            line = int(np.round(other))
            if share < 1e-9 or abs(other - line) > 1e-9:
                continue
            most, lines = (cols, rows) if across else (rows, cols)
            if low < 2 or low + 3 >= most or line < 1 or line + 1 >= lines:
                continue
            a = field[line, low] if across else field[low, line]
            b = field[line, low + 1] if across else field[low + 1, line]
            way = 1 if a > b else -1
            first = low if way > 0 else low + 1
            # From inside to outside: two before the crossing, two after it, and one more each.
            total, slope = 0.0, 0.0
            values = np.empty(6)
            for step in range(6):
                at = first + way * (step - 2)
                values[step] = field[line, at] if across else field[at, line]
            total = values[1] + values[2] + values[3] + values[4]
            high, flat = values[1], values[4]
            contrast = high - flat
            if contrast <= 0 or abs(values[0] - high) > _FLAT * contrast:
                continue
            if abs(values[5] - flat) > _FLAT * contrast:
                continue
            high, flat = values[0], values[5]
            contrast = high - flat
            if not flat < level < high:
                continue
            # The edge must cross this line of the grid rather than run along it.
            if across:
                slope = field[line + 1, low] + field[line + 1, low + 1]
                slope -= field[line - 1, low] + field[line - 1, low + 1]
            else:
                slope = field[low, line + 1] + field[low + 1, line + 1]
                slope -= field[low, line - 1] + field[low + 1, line - 1]
            if abs(slope) / 2 > 1.1 * contrast * 2:
                continue
            if values[2] - values[3] < abs(slope) / 4:
                continue
            place = (total - 4 * flat) / contrast - 1.5 + 0.5 - (level - flat) / contrast
            place = min(1.0, max(0.0, place))
            moved = first + way * place
            if across:
                points[k, 0] = moved
            else:
                points[k, 1] = moved
