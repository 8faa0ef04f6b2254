"""Giving areas and strokes a tone."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.picture.masks import connected_to


def paint(values: Floats, cover: Floats, tone: float) -> Floats:
    """One tone laid over a picture by a coverage, (rows, cols) float32."""
    share = cover if values.ndim == 2 else cover[..., None]
    return values * (1 - share) + np.float32(tone) * share


def fill_area(
    values: Floats, x: float, y: float, tolerance: float, contiguous: bool, tone: float
) -> Floats:
    """Give an area of like tone another tone, its soft border included.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    x, y : a pixel of the area
    tolerance : how far from that pixel a tone may be
    contiguous : only what is connected to that pixel

    Raises
    ------
    InvalidValue : the place lies outside the picture
    """
    rows, cols = values.shape[:2]
    column, line = round(x), round(y)
    if not (0 <= column < cols and 0 <= line < rows):
        raise InvalidValue("fill", "its place is not in the picture any more", "Click again")
    apart = np.abs(values - values[line, column])
    apart = apart if apart.ndim == 2 else apart.max(axis=2)
    like = apart <= max(tolerance, 1e-4)
    if contiguous:
        like = connected_to(like, np.array([[column, line]]))
    area = like.astype(np.float32)
    # A border pixel is a mixture of the area and its neighbour: the mixture moves over too.
    near = (cv2.dilate(like.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & ~like
    if near.any():
        outer = cv2.dilate(near.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        furthest = cv2.dilate(np.where(outer & ~like, apart, 0).astype(np.float32), np.ones((5, 5)))
        share = 1 - apart / np.maximum(furthest, 1e-6)
        area = np.where(near, np.clip(share, 0, 1), area).astype(np.float32)
    found = values + (np.float32(tone) - values[line, column]) * (
        area if values.ndim == 2 else area[..., None]
    )
    flat = like if values.ndim == 2 else like[..., None]
    return np.clip(np.where(flat, np.float32(tone), found), 0, 1).astype(np.float32)
