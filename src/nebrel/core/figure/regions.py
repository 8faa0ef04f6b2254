"""What of a picture hangs together with a place in colour."""

from __future__ import annotations

from collections.abc import Iterable

import cv2
import numpy as np

from nebrel.core.data import Floats

_CLOSE = 0.004  # of the longer side: gaps so narrow belong to it
_LEAST_CLOSE = 1


def region_at(
    pixels: Floats, cover: Floats, places: Iterable[tuple[float, float]], tolerance: float
) -> Floats:
    """(rows, cols) 0 or 1, what is around places and of their colours.

    Parameters
    ----------
    pixels, cover : (rows, cols, 3) and (rows, cols), 0 to 1; nothing beyond the subject
    places : (col, row); one beside the subject tells nothing
    tolerance : by how much any channel may differ from that of the place
    """
    rows, cols = cover.shape
    inside = cover >= 0.5
    found = np.zeros((rows, cols), np.uint8)
    calm = cv2.GaussianBlur(np.ascontiguousarray(pixels, np.float32), (0, 0), 0.8)
    for x, y in places:
        col, row = round(x), round(y)
        if not (0 <= col < cols and 0 <= row < rows and inside[row, col]):
            continue
        like = np.abs(calm - calm[row, col]).max(axis=2) <= tolerance
        _, labels = cv2.connectedComponents((like & inside).astype(np.uint8), connectivity=4)
        found |= (labels == labels[row, col]).astype(np.uint8)
    reach = max(_LEAST_CLOSE, round(_CLOSE * max(rows, cols)))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    closed = cv2.morphologyEx(found, cv2.MORPH_CLOSE, disc)
    return np.minimum(closed, 1).astype(np.float32) * inside
