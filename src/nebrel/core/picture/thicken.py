"""Wider or thinner lines."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.picture.masks import signed_distance


def thicken(tone: Floats, tones: Literal["dark", "light"], by_px: float) -> Floats:
    """Widen dark or light lines by a width (half of it on either side); below 0 thins them.

    Parameters
    ----------
    tone : (rows, cols) or (rows, cols, 3) float32
    by_px : change of a line's width; parts of a pixel are reached by blending two discs
    """
    grows_dark = (tones == "dark") == (by_px > 0)
    radius = abs(by_px) / 2
    under = int(radius)
    part = np.float32(radius - under)
    below = _spread(tone, under, grows_dark)
    if part < 1e-3:
        return below
    return below * (1 - part) + _spread(tone, under + 1, grows_dark) * part


def _spread(tone: Floats, radius: int, dark: bool) -> Floats:
    if radius == 0:
        return tone
    operation = cv2.erode if dark else cv2.dilate
    return operation(tone, disc(2 * radius + 1), borderType=cv2.BORDER_REPLICATE)


def disc(diameter: int) -> NDArray[np.uint8]:
    """A round structuring element, (diameter, diameter)."""
    if diameter <= 2:
        return np.ones((diameter, diameter), np.uint8)
    reach = (diameter - 1) / 2
    y, x = np.mgrid[-reach : reach : diameter * 1j, -reach : reach : diameter * 1j]
    return (x * x + y * y <= (diameter / 2) ** 2).astype(np.uint8)


def thinnest(tone: Floats, tones: Literal["dark", "light"]) -> float:
    """Width of the thinnest dark (or light) lines, px, to about half a pixel.

    Twice the distance from a line's middle to its edge, the 5th percentile over all middles;
    infinite when there is no line.
    """
    distance = np.maximum(signed_distance(1 - tone if tones == "dark" else tone), 0)
    highest = cv2.dilate(distance, np.ones((3, 3), np.uint8))
    middle = (distance >= highest - 0.05) & (distance > 0.2)
    if not middle.any():
        return float("inf")
    # A line of an even number of pixels has its true middle between two of them.
    return float(np.quantile(distance[middle], 0.05)) * 2 + 0.5
