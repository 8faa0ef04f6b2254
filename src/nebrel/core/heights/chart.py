"""Tones to heights along a chart: a smooth curve through pinned tones."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nebrel.core.data import Floats

_FINE = 65_536


def chart_heights(tone: Floats, pins: Sequence[tuple[float, float]]) -> Floats:
    """Heights of every pixel, each pinned tone standing exactly at its millimetres.

    Parameters
    ----------
    tone : (rows, cols) float32, 0 to 1
    pins : (tone, mm), at least two of different tones; level beyond the outermost

    Source: Fritsch and Carlson, Monotone Piecewise Cubic Interpolation, 1980: between two
    pins the curve never leaves their heights.
    """
    from scipy.interpolate import PchipInterpolator

    x, y = np.array(sorted(pins), np.float64).T
    table = PchipInterpolator(x, y)(np.clip(np.linspace(0, 1, _FINE), x[0], x[-1]))
    index = np.clip(tone, 0, 1) * np.float32(_FINE - 1)
    below = index.astype(np.int32)
    share = index - below
    fine = table.astype(np.float32)
    after = np.minimum(below + 1, _FINE - 1)
    return (fine[below] * (1 - share) + fine[after] * share).astype(np.float32)
