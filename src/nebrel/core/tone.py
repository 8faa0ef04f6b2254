"""Brightness as displayed, one number a pixel, and light."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]


# Rec. 709 / sRGB primaries: share of red, green and blue in luminance.
_LUMINANCE = np.array([[0.2126, 0.7152, 0.0722]], dtype=np.float32)

_BAND_PX = 60_000


def to_linear(displayed: Floats) -> Floats:
    """Linear light of sRGB values; any shape, 0 to 1. Source: IEC 61966-2-1."""
    high = np.power((displayed + np.float32(0.055)) / np.float32(1.055), np.float32(2.4))
    return np.where(displayed <= 0.04045, displayed / np.float32(12.92), high).astype(np.float32)


def to_displayed(linear: Floats) -> Floats:
    """SRGB values of linear light; any shape, 0 to 1. Source: IEC 61966-2-1."""
    high = np.float32(1.055) * np.power(linear, np.float32(1 / 2.4)) - np.float32(0.055)
    return np.where(linear <= 0.0031308, linear * np.float32(12.92), high).astype(np.float32)


def tone_of(pixels: Floats) -> Floats:
    """Brightness as displayed of every pixel.

    Parameters
    ----------
    pixels : (rows, cols) or (rows, cols, 3), 0 to 1 as displayed

    Returns
    -------
    (rows, cols) float32, 0 (black) to 1 (white). A gray picture is its own tone; a coloured
    one is weighed in linear light and brought back to displayed values, so that a gray
    and a colour of the same brightness stand equally high.
    """
    if pixels.ndim == 2:
        return pixels
    tone = np.empty(pixels.shape[:2], np.float32)

    def read(first: int) -> None:
        rows = slice(first, first + band)
        linear = cv2.transform(to_linear(pixels[rows]), _LUMINANCE)
        np.clip(to_displayed(linear), 0.0, 1.0, out=tone[rows])

    # Bands small enough to stay in the cache, several at once: numpy lets go of the interpreter.
    band = max(1, _BAND_PX // pixels.shape[1])
    starts = range(0, pixels.shape[0], band)
    if len(starts) < 4:
        for start in starts:
            read(start)
    else:
        with ThreadPoolExecutor(os.cpu_count()) as threads:
            list(threads.map(read, starts))
    return tone
