"""Closed lines where a picture crosses a level, at sub-pixel accuracy."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Loop
from nebrel.core.errors import TooLarge
from nebrel.core.outline.edge_kernels import correct_edges

_OUTSIDE = -1e6


@dataclass(frozen=True)
class Isolines:
    """Closed lines in pixels, y down, which neither cross nor touch.

    Attributes
    ----------
    lines : each (n, 2), about a pixel from point to point, the higher side on its right
    part : of each line, the number of the connected pixels inside that it runs along
    """

    lines: tuple[Loop, ...]
    part: NDArray[np.int64]


def isolines(field: Floats, level: float, most: int = 1_000_000) -> Isolines:
    """Where a field crosses a level; at its border, lines close along the outermost pixels.

    Parameters
    ----------
    field : (rows, cols), more inside
    most : the most lines

    Raises
    ------
    TooLarge : there are more
    """
    import cv2
    from contourpy import contour_generator

    rows, cols = field.shape
    # Far below outside, so that lines close exactly on the outermost pixels; and never level, so
    # that no two lines touch.
    framed = np.full((rows + 2, cols + 2), _OUTSIDE, np.float64)
    framed[1:-1, 1:-1] = field
    framed[framed == level] = np.nextafter(level, np.inf) + 1e-9
    x, y = np.arange(-1, cols + 1), np.arange(-1, rows + 1)
    found = contour_generator(x, y, framed).lines(level)
    if len(found) > most:
        raise TooLarge(
            "trace",
            f"it finds {len(found)} parts and holes, more than {most}: noise, not a shape",
            "Take noise out of the picture first, or choose another level",
        )
    inside = framed >= level
    _, labels = cv2.connectedComponents(inside.astype(np.uint8), connectivity=8)
    lines, parts = [], []
    for one in found:
        line = np.array(one[:-1], np.float64)
        if len(line) < 3:
            continue
        parts.append(_part(line[0], inside, labels))
        correct_edges(line, framed[1:-1, 1:-1], level)
        np.clip(line, 0, (cols - 1, rows - 1), out=line)
        lines.append(_apart(line))
    return Isolines(tuple(lines), np.array(parts, np.int64))


def _part(point: Loop, inside: NDArray[np.bool_], labels: NDArray[np.int32]) -> int:
    """The label of the pixel inside beside a point on a line of the grid."""
    col, row = np.floor(point).astype(int) + 1
    for down, right in ((0, 0), (0, 1), (1, 0), (1, 1)):
        if inside[row + down, col + right] and (
            (down == 0 or point[1] % 1 > 0) and (right == 0 or point[0] % 1 > 0)
        ):
            return int(labels[row + down, col + right])
    return 0


def _apart(line: Loop) -> Loop:
    """Without points that lie on the one before."""
    step = line - np.roll(line, 1, axis=0)
    kept = np.hypot(step[:, 0], step[:, 1]) > 1e-6
    return line[kept] if kept.sum() >= 3 else line
