"""Relief compression: large steps squeezed, fine detail kept."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats

_SHAPE_SHARE = 0.04  # of the longer side: what is coarser than this is the overall shape
_STEP_FROM, _STEP_TO = 8.0, 24.0  # times the usual slope: detail below, a step above
_AS_IT_IS = 0.3  # the dial for detail that is left alone
_MOST_DETAIL = 1.5


def compress_relief(heights: Floats, strength: float, detail: float) -> Floats:
    """Heights whose large differences are squeezed and whose fine detail is kept.

    Parameters
    ----------
    heights : (rows, cols) float32, mm or any unit
    strength : the share of steps and of the overall shape that is taken away, 0 to 1: at 0.5
        a step is half as high
    detail : 0 leaves no fine structure, 0.3 leaves it as it is, 1 makes it half as strong again

    Returns
    -------
    (rows, cols) float32 with the same lowest value, and none higher than before

    Slopes are parted in three, each scaled by one factor and all integrated again: those far
    steeper than usual (steps between things), the slow part of the rest (the overall shape),
    and what remains, which is the detail.

    Source: after Weyrich, Deng, Barnes, Rusinkiewicz, Finkelstein, Digital Bas-Relief from 3D
    Scenes (2007); Frankot and Chellappa (1988) for the integration, here with the cosine
    transform, whose edges are free.
    """
    low, high = float(heights.min()), float(heights.max())
    fine = _detail_factor(detail)
    if (strength <= 0 and fine == 1) or high <= low:
        return heights
    across, down = np.diff(heights, axis=1), np.diff(heights, axis=0)
    slope = np.zeros_like(heights)
    slope[:, :-1] = across**2
    slope[:-1] += down**2
    np.sqrt(slope, out=slope)
    usual = _usual(slope, (high - low) / max(heights.shape))
    # One share for both directions, so that detail on a slope keeps its shape.
    step = _share_of_step(slope / np.float32(usual))
    sigma = max(2.0, _SHAPE_SHARE * max(heights.shape))
    left = np.float32(1 - strength)

    def scaled(slopes: Floats, share: Floats) -> Floats:
        steep = slopes * share
        rest = slopes - steep
        shape = cv2.GaussianBlur(rest, (0, 0), sigma, borderType=cv2.BORDER_REFLECT)
        found: Floats = left * (steep + shape) + np.float32(fine) * (rest - shape)
        return found

    found = integrate(scaled(across, step[:, :-1]), scaled(down, step[:-1]))
    span = float(np.ptp(found))
    if span > high - low:  # what is brought forward never makes the relief deeper
        found = found * np.float32((high - low) / span)
    return (found + np.float32(low - float(found.min()))).astype(np.float32)


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


def _usual(slope: Floats, even: float) -> float:
    """The size of an ordinary difference; flat ground does not count.

    Parameters
    ----------
    even : the slope that goes evenly through the whole range, taken where hardly anything slopes
    """
    step = max(1, int(np.sqrt(slope.size / 500_000)))
    all_ = slope[::step, ::step].ravel()
    some = all_[all_ > max(1e-9, float(all_.max()) * 1e-5)]
    return float(np.median(some)) if some.size > 0.1 * all_.size else 2 * even


def _share_of_step(times_usual: Floats) -> Floats:
    """How much of a slope belongs to a step: 0 below a multiple of the usual, 1 above another."""
    low, high = np.log(_STEP_FROM), np.log(_STEP_TO)
    along = np.log(np.maximum(times_usual, np.float32(1)))
    share = np.clip((along - np.float32(low)) / np.float32(high - low), 0, 1)
    found: Floats = share * share * (3 - 2 * share)
    return found


def _detail_factor(detail: float) -> float:
    if detail <= _AS_IT_IS:
        return detail / _AS_IT_IS
    return 1 + (_MOST_DETAIL - 1) * (detail - _AS_IT_IS) / (1 - _AS_IT_IS)
