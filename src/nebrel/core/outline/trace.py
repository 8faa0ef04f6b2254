"""The outline of a mask at sub-pixel accuracy."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats, Loop
from nebrel.core.outline.outline import Outline

_SIMPLIFIED_PX = 0.04
# Along the line, in its own points; the most that a point may move; what is a corner, px.
_HARD = (9.0, 0.7, 1.1)
_SOFT = (1.6, 0.2, 0.45)


def trace(cover: Floats) -> list[Loop]:
    """Closed loops around what a mask covers.

    Parameters
    ----------
    cover : (rows, cols) float32, 0 to 1; the outline runs at 0.5

    Returns
    -------
    Loops of (n, 2) x, y in pixels, y down, the outermost pixel centres being the edge of
    the picture. A soft border is followed as it is interpolated. A hard one, which only
    says on which side of the line each pixel lies, is smoothed along the line, except at
    corners, moving no point by more than 0.7 px.
    """
    from contourpy import contour_generator

    rows, cols = cover.shape
    # Far below zero outside, so that the line closes exactly on the outermost pixels.
    framed = np.full((rows + 2, cols + 2), -1e6)
    framed[1:-1, 1:-1] = cover
    x, y = np.arange(-1, cols + 1), np.arange(-1, rows + 1)
    lines = contour_generator(x, y, framed).lines(0.5)
    hard = _is_hard(cover)  # 8 bits of softness still tremble by a tenth of a pixel
    loops = []
    for line in lines:
        loop = np.asarray(line[:-1], np.float64)
        # The same start whatever else the mask holds, so that shared borders come out alike.
        loop = np.roll(loop, -int(np.lexsort((loop[:, 0], loop[:, 1]))[0]), axis=0)
        if len(loop) < 3:
            continue
        loop = _calmed(loop, *(_HARD if hard else _SOFT), rows, cols)
        loop[:, 0] = np.clip(loop[:, 0], 0, cols - 1)
        loop[:, 1] = np.clip(loop[:, 1], 0, rows - 1)
        simple = cv2.approxPolyDP(loop.astype(np.float32)[:, None], _SIMPLIFIED_PX, True)[:, 0]
        if len(simple) >= 3:
            loops.append(simple.astype(np.float64))
    return loops


def trace_mm(cover: Floats, pitch_x_mm: float, pitch_y_mm: float) -> Outline:
    """The same from the lower left corner."""
    rows = cover.shape[0]
    found = (
        np.column_stack([loop[:, 0] * pitch_x_mm, (rows - 1 - loop[:, 1]) * pitch_y_mm])
        for loop in trace(cover)
    )
    return Outline(tuple(loop[::-1] for loop in found))


def _is_hard(cover: Floats) -> bool:
    inside = (cover >= 0.5).astype(np.uint8)
    border = cv2.morphologyEx(inside, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0
    soft = (cover > 0.02) & (cover < 0.98)
    return bool(border.any()) and float(soft[border].mean()) < 0.15


def _calmed(
    loop: Loop, along: float, most_shift_px: float, corner_px: float, rows: int, cols: int
) -> Loop:
    from scipy.ndimage import gaussian_filter1d, maximum_filter1d  # slow to load

    def calm(points: Loop) -> Loop:
        return gaussian_filter1d(points, min(along, len(points) / 8), axis=0, mode="wrap")

    once = calm(loop)
    # Twice the smooth line less the smoother one: a circle keeps its radius.
    wanted = 2 * once - calm(once)
    shift = wanted - loop
    length = np.maximum(np.hypot(*shift.T), 1e-12)
    shift *= np.minimum(1, most_shift_px / length)[:, None]
    # A corner is meant: around one, where the calm line is far off, all stays as it was.
    off = np.hypot(*(once - loop).T)
    shift[maximum_filter1d(off, 2 * int(2 * along) + 1, mode="wrap") > corner_px] = 0
    # The edge of the picture is straight already.
    edge = (loop[:, 0] < 0.01) | (loop[:, 0] > cols - 1.01)
    edge |= (loop[:, 1] < 0.01) | (loop[:, 1] > rows - 1.01)
    shift[edge] = 0
    return loop + shift
