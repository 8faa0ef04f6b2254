"""Brush strokes as coverage."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats

_FRACTION_BITS = 4


def draw_strokes(
    lines: Sequence[tuple[NDArray[np.float64], float]],
    rows: int,
    cols: int,
    hardness: float = 1.0,
) -> Floats:
    """Coverage of round brush strokes; where strokes cross the stronger one counts.

    Parameters
    ----------
    lines : of each stroke its (n, 2) points x, y and its width, all in pixels
    hardness : 1 is an edge of one pixel, 0 falls off from the middle

    Returns
    -------
    (rows, cols) float32, 0 to 1
    """
    cover = np.zeros((rows, cols), np.float32)
    for points, width in lines:
        reach = width / 2 + 1.5
        low = np.floor(points.min(axis=0) - reach).astype(int)
        high = np.ceil(points.max(axis=0) + reach).astype(int) + 1
        left, top = max(0, int(low[0])), max(0, int(low[1]))
        right, bottom = min(cols, int(high[0])), min(rows, int(high[1]))
        if left >= right or top >= bottom:
            continue
        part = np.s_[top:bottom, left:right]
        drawn = _one(points - [left, top], width, bottom - top, right - left, hardness)
        np.maximum(cover[part], drawn, out=cover[part])
    return cover


def _one(
    points: NDArray[np.float64], width: float, rows: int, cols: int, hardness: float
) -> Floats:
    # The line is drawn into a canvas with room around, so that parts outside count too.
    room = int(width / 2) + 3
    canvas = np.full((rows + 2 * room, cols + 2 * room), 255, np.uint8)
    if len(points) == 1:
        points = np.repeat(points, 2, axis=0)  # a dot
    fixed = np.round((points + room) * 2**_FRACTION_BITS)
    path = np.clip(fixed, -(2**30), 2**30).astype(np.int32)[:, None]
    cv2.polylines(canvas, [path], False, 0, 1, cv2.LINE_8, _FRACTION_BITS)
    distance = cv2.distanceTransform(canvas, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    distance = distance[room : room + rows, room : room + cols]
    radius = width / 2
    soft = max(1.0, radius * (1 - hardness))
    ramp = np.clip((radius + 0.5 - distance) / np.float32(soft), 0, 1)
    return ramp if soft <= 1 else ramp * ramp * (3 - 2 * ramp)
