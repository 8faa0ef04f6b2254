"""Relief compression: large steps squeezed, fine detail kept."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats

_BASE_SHARE = 0.025  # of the longer side: what is coarser than this is the overall shape
_MOST_STEP = 24.0  # gradients this many times the usual one are a step, not detail


def compress_relief(heights: Floats, strength: float, detail: float) -> Floats:
    """Heights whose large differences are squeezed, in the range they had before.

    Parameters
    ----------
    heights : (rows, cols) float32, mm or any unit
    strength : 0 leaves them as they are, 1 takes steps and overall shape down the most
    detail : 0 to 1, how much the fine structure is brought forward as well

    Returns
    -------
    (rows, cols) float32 with the same lowest and highest value

    The slopes are attenuated by the logarithm, steps beyond a multiple of the usual slope are
    left out, and heights are integrated again; then the overall shape is scaled against the
    detail that lies on it.

    Source: Weyrich, Deng, Barnes, Rusinkiewicz, Finkelstein, Digital Bas-Relief from 3D
    Scenes (2007), for the attenuation; Frankot and Chellappa (1988) for the integration, here
    with the cosine transform, whose edges are free.
    """
    low, high = float(heights.min()), float(heights.max())
    if (strength <= 0 and detail <= 0) or high <= low:
        return heights
    across, down = np.zeros_like(heights), np.zeros_like(heights)
    across[:, :-1] = np.diff(heights, axis=1)
    down[:-1] = np.diff(heights, axis=0)
    slope = np.hypot(across, down)
    usual = _usual(slope)
    if usual <= 0:
        return heights
    # One factor for both directions, so that detail on a slope keeps its shape.
    kept = _attenuate((slope / usual).astype(np.float32), strength)
    flat = integrate((across * kept)[:, :-1], (down * kept)[:-1])
    sigma = max(2.0, _BASE_SHARE * max(heights.shape))
    base = cv2.GaussianBlur(flat, (0, 0), sigma, borderType=cv2.BORDER_REFLECT)
    found = base * np.float32(1 - 0.8 * strength) + (flat - base) * np.float32(1 + 2 * detail)
    least, most = float(found.min()), float(found.max())
    if most <= least:
        return heights
    return (low + (found - least) * np.float32((high - low) / (most - least))).astype(np.float32)


def integrate(across: Floats, down: Floats) -> Floats:
    """Heights whose differences come closest to the given ones; their mean is 0.

    Parameters
    ----------
    across : (rows, cols - 1), from each pixel to the one on its right
    down : (rows - 1, cols), to the one below

    Source: Poisson equation with free edges, solved by the discrete cosine transform.
    """
    from scipy.fft import dctn, idctn

    rows, cols = across.shape[0], down.shape[1]
    spread = np.zeros((rows, cols), np.float32)
    spread[:, :-1] += across
    spread[:, 1:] -= across
    spread[:-1] += down
    spread[1:] -= down
    turned = dctn(spread, type=2, norm="ortho", workers=2, overwrite_x=True)
    bend_x = 2 * np.cos(np.pi * np.arange(cols) / cols) - 2
    bend_y = 2 * np.cos(np.pi * np.arange(rows) / rows) - 2
    scale = bend_y[:, None].astype(np.float32) + bend_x[None].astype(np.float32)
    scale[0, 0] = 1
    turned /= scale
    turned[0, 0] = 0
    found: NDArray[np.float32] = idctn(turned, type=2, norm="ortho", workers=2, overwrite_x=True)
    return found.astype(np.float32)


def _usual(slope: Floats) -> float:
    """The size of an ordinary difference; flat ground does not count."""
    step = max(1, int(np.sqrt(slope.size / 500_000)))
    some = slope[::step, ::step].ravel()
    some = some[some > max(1e-9, float(some.max()) * 1e-5)]
    return float(np.median(some)) if some.size else 0.0


def _attenuate(size: Floats, strength: float) -> Floats:
    """What is kept of a slope that is so many times the usual one."""
    if strength <= 0:
        return np.ones_like(size)
    # All of what is usual, by the logarithm beyond.
    steep = np.float32(0.15 + 2 * strength)
    much = np.maximum(size, np.float32(1))
    kept = np.log1p(steep * much) / (much * np.log1p(steep))
    # What is far steeper still is an edge between two things: most of it is left out.
    ends = np.float32(_MOST_STEP * (1.6 - strength))
    found: Floats = kept / (1 + (size / ends) ** 4 * np.float32(strength))
    return found.astype(np.float32)
