"""Tones to other tones, pixel by pixel: levels, curve, invert, contrast, exposure."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.picture.noise import estimate_noise
from nebrel.core.tone import to_displayed, to_linear

_FINE = 65_536
# Shares of all pixels that may lie outside the automatic levels.
_CLEAN_SHARE, _NOISY_SHARE, _CALM_SHARE = 2e-5, 5e-5, 2e-4
_BINS, _ROUNDS = 512, 150


def level(values: Floats, black: float, white: float, middle: float = 1.0) -> Floats:
    """Stretch tones so that `black` becomes 0 and `white` becomes 1.

    Parameters
    ----------
    values : any shape, float32, 0 to 1
    black, white : tones, black < white
    middle : gamma of the mid-tones; above 1 lightens them
    """
    stretched = np.clip((values - np.float32(black)) * np.float32(1 / (white - black)), 0, 1)
    if middle == 1:
        return stretched
    return cv2.pow(stretched, 1 / middle).reshape(values.shape)


def find_levels(tone: Floats) -> tuple[float, float]:
    """Black and white point of a picture, as tones.

    A small share of the pixels is cut off at either end as stray. Noise pushes both points
    outwards, so its part is taken out of the histogram first; an end that is a flat area gets
    the middle of that area, looked for in a calmed copy.

    Parameters
    ----------
    tone : (rows, cols) float32
    """
    sigma = estimate_noise(tone)
    if sigma < 0.6 / 255:
        low, high = np.quantile(_sampled(tone), (_CLEAN_SHARE, 1 - _CLEAN_SHARE))
        return _apart(float(low), float(high))
    calm = cv2.medianBlur(np.ascontiguousarray(tone), 5)
    calm = cv2.blur(calm, (3, 3))
    values = np.sort(_sampled(calm))
    low, high = _without_noise(tone, sigma)
    flat_low = _flat_end(values, 0.3 * sigma)
    flat_high = _flat_end(-values[::-1], 0.3 * sigma)
    return _apart(low if flat_low is None else flat_low, high if flat_high is None else -flat_high)


def _flat_end(values: Floats, spread: float) -> float | None:
    """The middle of the flat area at the low end of sorted values; None without one."""
    low = float(values[int(_CALM_SHARE * (values.size - 1))])
    first, second = np.searchsorted(values, (low + 4 * spread, low + 8 * spread))
    # A flat area is a heap with little beyond it; a ramp goes on as it began.
    if first > 0.004 * values.size and second - first < 0.5 * first:
        return float(np.median(values[:first]))
    return None


def _without_noise(tone: Floats, sigma: float) -> tuple[float, float]:
    """Ends of the tones that, with noise of that deviation, make the histogram there is.

    Source: Richardson (1972) and Lucy (1974), on the histogram; what noise pushed beyond 0 or
    1 was clipped to them.
    """
    from scipy.special import ndtr

    share = histogram(tone, _BINS)
    edges = np.linspace(0, 1, _BINS + 1)
    middles, uppers = (edges[1:] + edges[:-1]) / 2, edges[1:]
    edges[0], edges[-1] = -np.inf, np.inf
    below = ndtr((edges[:, None] - middles) / sigma)
    spread = below[1:] - below[:-1]  # from the true bin, across, to the seen one, down
    found = np.full(_BINS, 1 / _BINS)
    for _ in range(_ROUNDS):
        found *= spread.T @ (share / np.maximum(spread @ found, 1e-300))
    summed = np.cumsum(found)
    low, high = np.interp((_NOISY_SHARE, summed[-1] - _NOISY_SHARE), summed, uppers)
    return float(low), float(high)


def histogram(tone: Floats, bins: int = 128) -> NDArray[np.float64]:
    """Share of pixels in equal bins from 0 to 1; sums to 1."""
    counts = cv2.calcHist([np.ascontiguousarray(tone)], [0], None, [bins], [0, 1.0 + 1e-6])
    return counts.ravel().astype(np.float64) / tone.size


def bend(values: Floats, points: Sequence[tuple[float, float]]) -> Floats:
    """Tones through a monotone-preserving cubic that runs through the points.

    Parameters
    ----------
    values : any shape, float32
    points : (tone before, tone after), increasing in the first; level beyond the ends

    Source: Fritsch and Carlson, Monotone Piecewise Cubic Interpolation, 1980.
    """
    from scipy.interpolate import PchipInterpolator

    x, y = np.asarray(points, np.float64).T
    tones = np.linspace(0, 1, _FINE)
    found = PchipInterpolator(x, y)(np.clip(tones, x[0], x[-1]))
    return look_up(values, np.clip(found, 0, 1).astype(np.float32))


def contrast(values: Floats, amount: float) -> Floats:
    """Tones away from middle gray (amount 0 to 1) or towards it (-1 to 0)."""
    gain = 1 + (3 * amount if amount > 0 else amount)
    return np.clip((values - np.float32(0.5)) * np.float32(gain) + np.float32(0.5), 0, 1)


def expose(values: Floats, stops: float) -> Floats:
    """More (or less) light by powers of two, in linear light."""
    tones = np.linspace(0, 1, _FINE, dtype=np.float32)
    return look_up(values, to_displayed(np.clip(to_linear(tones) * np.float32(2**stops), 0, 1)))


def look_up(values: Floats, table: Floats) -> Floats:
    """Values through a table of 65 536 equal steps from 0 to 1."""
    index = (np.clip(values, 0, 1) * np.float32(_FINE - 1) + np.float32(0.5)).astype(np.uint16)
    return np.take(table, index)


def _sampled(tone: Floats, most: int = 2_000_000) -> Floats:
    """About `most` pixels, evenly spread."""
    step = max(1, round((tone.size / most) ** 0.5))
    return tone[::step, ::step].ravel()


def _apart(low: float, high: float) -> tuple[float, float]:
    if high - low < 0.004:  # one flat tone: nothing to stretch
        return 0.0, 1.0
    return max(0.0, low), min(1.0, high)
