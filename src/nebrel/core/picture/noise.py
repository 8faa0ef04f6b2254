"""How noisy a picture is."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats

_BLOCK = 16
# Blind to constant, linear and (nearly) quadratic tone; its response to white noise of
# deviation 1 has deviation 6.
_MASK = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)


def estimate_noise(tone: Floats, most_pixels: int = 4_000_000) -> float:
    """Standard deviation of the noise in a picture, as a tone.

    Measured in the calmest blocks of 16 by 16 pixels, so that drawing and texture are not
    taken for noise; blocks that touch black or white are left out, as they cut noise off.

    Parameters
    ----------
    tone : (rows, cols) float32, 0 to 1
    most_pixels : a larger picture is measured in evenly spread bands

    Source: Immerkaer, Fast Noise Variance Estimation, 1996; the choice of blocks is our own.
    """
    rows, cols = tone.shape
    if min(rows, cols) < 2 * _BLOCK:
        return 0.0
    bands = [tone]
    if tone.size > most_pixels:
        parts = 16
        height = max(_BLOCK + 2, int(rows * most_pixels / tone.size / parts))
        starts = np.linspace(0, rows - height, parts).astype(int)
        bands = [tone[start : start + height] for start in starts]
    found = [_blocks(band) for band in bands]
    noise = np.concatenate([part[0] for part in found])
    structure = np.concatenate([part[1] for part in found])
    if noise.size == 0:
        return 0.0
    calmest = noise[structure <= np.quantile(structure, 0.3)]
    return float(np.median(calmest)) if calmest.size else 0.0


def _blocks(tone: Floats) -> tuple[Floats, Floats]:
    """Noise and structure of every block that is neither black nor white."""
    rows, cols = (side // _BLOCK for side in tone.shape)
    tone = np.ascontiguousarray(tone[: rows * _BLOCK, : cols * _BLOCK])
    response = cv2.filter2D(tone, cv2.CV_32F, _MASK, borderType=cv2.BORDER_REFLECT)
    size = (cols, rows)
    # Mean absolute value of a normal distribution is its deviation times sqrt(2 / pi).
    mean = cv2.resize(np.abs(response), size, interpolation=cv2.INTER_AREA)
    noise = mean * np.float32(np.sqrt(np.pi / 2) / 6)
    calm = cv2.GaussianBlur(tone, (0, 0), 3)
    slope = np.abs(cv2.Sobel(calm, cv2.CV_32F, 1, 0)) + np.abs(cv2.Sobel(calm, cv2.CV_32F, 0, 1))
    structure = cv2.resize(slope, size, interpolation=cv2.INTER_AREA)
    end = ((tone < 0.5 / 255) | (tone > 254.5 / 255)).astype(np.float32)
    cut = cv2.resize(end, size, interpolation=cv2.INTER_AREA)
    inside = cut < 0.01
    return noise[inside], structure[inside]
