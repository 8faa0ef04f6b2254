"""Giving areas and strokes a tone."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats, Mask
from nebrel.core.errors import InvalidValue
from nebrel.core.picture.masks import flood


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
    spread = max(tolerance, 1e-4)
    if contiguous:
        like = flood(values, [(column, line)], spread)
    else:
        apart = np.abs(values - values[line, column])
        like = (apart if apart.ndim == 2 else apart.max(axis=2)) <= spread
    left, top, wide, tall = cv2.boundingRect(like.astype(np.uint8))
    part = np.s_[max(0, top - 4) : top + tall + 4, max(0, left - 4) : left + wide + 4]
    found = values.copy()
    found[part] = _mix_over(values[part], like[part], values[line, column], np.float32(tone))
    return found


def _mix_over(values: Floats, like: Mask, colour: Floats, tone: np.float32) -> Floats:
    """The area gets the tone; a border pixel, which is a mixture, keeps its share of it."""
    apart = np.abs(values - colour)
    apart = apart if apart.ndim == 2 else apart.max(axis=2)
    inside = like.astype(np.uint8)
    near = cv2.dilate(inside, np.ones((3, 3), np.uint8)) > inside
    furthest = cv2.dilate(apart, np.ones((5, 5), np.uint8))
    share = np.clip(1 - apart[near] / np.maximum(furthest[near], 1e-6), 0, 1)
    mixed = values.copy()
    np.copyto(mixed, tone, where=like if values.ndim == 2 else like[..., None])
    shares = share if values.ndim == 2 else share[..., None]
    mixed[near] = np.clip(mixed[near] + (tone - colour) * shares, 0, 1)
    return mixed
