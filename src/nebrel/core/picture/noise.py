"""How noisy a picture is."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats

_BLOCK = 16
_CLEAR = 5.0  # a grid of blocks stands out so far among the other seven places
_JUMP_ERROR = 0.75
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


def is_texture(tone: Floats, sigma: float) -> bool:
    """Whether what looks like noise belongs to what is shown: grass, gravel, weave.

    Noise differs from pixel to pixel, so a copy of half the size has half of it; texture has
    a grain that is coarser than a pixel and is still there.

    Parameters
    ----------
    sigma : as `estimate_noise` says of the same tones, > 0
    """
    rows, cols = (side // 2 for side in tone.shape)
    if min(rows, cols) < 2 * _BLOCK:
        return False
    half = cv2.resize(tone, (cols, rows), interpolation=cv2.INTER_AREA)
    return estimate_noise(half) > 0.75 * sigma


def estimate_blocks(tone: Floats) -> float:
    """Root mean square error that JPEG left in a picture, as a tone; 0 when no blocks show.

    Every block of 8 by 8 pixels is rounded by itself, so the error jumps at its border and is
    smooth inside. Squared steps between neighbouring columns (and rows) are compared by their
    place modulo 8. The error found in photographs lies between 0.5 and 1 times that jump.

    Parameters
    ----------
    tone : (rows, cols) float32, not resized since it was decoded

    Source: the blocking measure follows Wang, Bovik and Evans, Blind Measurement of Blocking
    Artifacts in Images, 2000; the factor was measured on six pictures at qualities 10 to 75.
    """
    jumps = []
    for axis in (0, 1):
        steps = np.clip(np.diff(tone, axis=axis), -0.12, 0.12)
        energy = np.asarray(np.mean(np.square(steps), axis=1 - axis, dtype=np.float64))
        count = len(energy) // 8 * 8
        if count < 48:
            return 0.0
        # The median over all blocks: a single straight edge is no grid.
        by_place = np.median(energy[:count].reshape(-1, 8), axis=0)
        border = int(by_place.argmax())
        inside = np.delete(by_place, border)
        jump = float(by_place[border] - np.median(inside))
        if jump <= _CLEAR * max(float(inside.std()), 1e-9):
            return 0.0
        jumps.append(jump)
    return _JUMP_ERROR * float(np.sqrt(np.mean(jumps)))
