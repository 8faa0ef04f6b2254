"""Calming a picture: Gaussian, median and edge-keeping smoothing, local contrast, despeckle."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask
from nebrel.core.picture.resample import reduce_to, resample

_WIDE_PX = 64

Method = Literal["gaussian", "median", "edge_keeping"]


def smooth(values: Floats, radius_px: float, method: Method, keep: float = 0.1) -> Floats:
    """Calm a picture within a radius.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32, 0 to 1
    radius_px : the Gaussian's deviation is half of it
    method : `median` takes out specks, `edge_keeping` leaves steps larger than `keep`
    """
    if radius_px < 0.05:
        return values
    if method == "gaussian":
        return cv2.GaussianBlur(values, (0, 0), radius_px / 2)
    if method == "median":
        return _wide_median(values, radius_px)
    if values.ndim == 3:
        return np.dstack([guided(values[..., i], radius_px, keep) for i in range(3)])
    return guided(values, radius_px, keep)


def guided(values: Floats, radius_px: float, keep: float, guide: Floats | None = None) -> Floats:
    """Smooth within a window, except where the guide has steps larger than `keep`.

    Parameters
    ----------
    values, guide : (rows, cols) float32; the picture guides itself when left out

    Source: He, Sun and Tang, Guided Image Filtering, 2010.
    """
    guide = values if guide is None else guide
    side = 2 * max(1, round(radius_px)) + 1
    size, epsilon = (side, side), np.float32((keep / 2) ** 2)

    def mean(what: Floats) -> Floats:
        return cv2.blur(what, size, borderType=cv2.BORDER_REFLECT)

    mean_guide = mean(guide)
    spread: Floats = np.maximum(mean(guide * guide) - mean_guide * mean_guide, np.float32(0))
    if guide is values:
        slope: Floats = spread / (spread + epsilon)
        offset = mean_guide * (1 - slope)
    else:
        mean_values = mean(values)
        slope = (mean(guide * values) - mean_guide * mean_values) / (spread + epsilon)
        offset = mean_values - slope * mean_guide
    return mean(slope) * guide + mean(offset)


def _wide_median(values: Floats, radius_px: float) -> Floats:
    """Median within a radius; one over `_WIDE_PX` is taken on a copy reduced to that."""
    # A window wider than the picture would only count its edges over and over.
    rows, cols = values.shape[:2]
    radius = max(1, min(round(radius_px), max(rows, cols) // 2))
    if radius <= _WIDE_PX:
        return median(values, radius)
    small = reduce_to(values, round((max(rows, cols) - 1) * _WIDE_PX / radius) + 1)
    return resample(median(small, _WIDE_PX), rows, cols)


def median(values: Floats, radius_px: int) -> Floats:
    """Median in a square window, all 16 bits kept."""
    side = 2 * radius_px + 1
    if side <= 5:
        return cv2.medianBlur(np.ascontiguousarray(values), side)
    if values.ndim == 3:
        return np.dstack([median(values[..., i], radius_px) for i in range(3)])
    whole = (np.clip(values, 0, 1) * np.float32(65_535) + np.float32(0.5)).astype(np.uint16)
    framed = np.pad(whole, radius_px, mode="edge")
    from nebrel.core.picture.sliding_median import sliding_median

    return sliding_median(framed, radius_px).astype(np.float32) / np.float32(65_535)


def add_local_contrast(values: Floats, amount: float, radius_px: float) -> Floats:
    """Make details smaller than the radius stand out more (or less, below 0).

    The base is smoothed with edges kept, so that no halo grows along them.
    """
    if values.ndim == 2:
        detail = values - guided(values, radius_px, 0.3)
    else:
        gray = np.ascontiguousarray(values.mean(axis=2))
        detail = (gray - guided(gray, radius_px, 0.3))[..., None]
    return np.clip(values + np.float32(amount) * detail, 0, 1)


def despeckle(
    values: Floats, area_px: float, specks: Literal["both", "dark", "light"], contrast: float
) -> Floats:
    """Take out specks up to an area; lines and larger shapes stay as they are.

    A speck is a connected part of at most that area that differs from all of its surroundings
    by more than `contrast`. A narrow part of something larger is none.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    area_px : the largest speck, pixels
    """
    if area_px < 1:
        return values
    found = values
    for which, operation in (("dark", cv2.MORPH_CLOSE), ("light", cv2.MORPH_OPEN)):
        if specks in ("both", which):
            found = _without_specks(found, area_px, operation, contrast)
    return found


def _without_specks(values: Floats, area_px: float, operation: int, contrast: float) -> Floats:
    side = int(2 * np.ceil(np.sqrt(area_px)) + 1)
    kernel = np.ones((side, side), np.uint8)
    without = cv2.morphologyEx(values, operation, kernel, borderType=cv2.BORDER_REFLECT)
    apart = np.abs(without - values)
    apart = apart if apart.ndim == 2 else apart.max(axis=2)
    _, labels, figures, _ = cv2.connectedComponentsWithStats(
        (apart > contrast).astype(np.uint8), connectivity=8
    )
    small = figures[:, cv2.CC_STAT_AREA] <= area_px
    small[0] = False
    small &= ~_going_on(values, without, labels, small, contrast)
    speck = small[labels].astype(np.uint8)
    if not speck.any():
        return values
    # The soft rim of a speck goes with it.
    rim = cv2.dilate(speck, np.ones((3, 3), np.uint8)).astype(bool) & (apart > 0)
    gone = rim & ~(~small[labels] & (labels > 0))
    return np.where(gone if values.ndim == 2 else gone[..., None], without, values)


def _going_on(
    values: Floats,
    without: Floats,
    labels: NDArray[np.int32],
    small: Mask,
    contrast: float,
) -> Mask:
    """Small parts that go on in a pixel beside them: notches, narrow ground, ends of lines."""
    rows, cols = labels.shape
    y, x = np.nonzero(small[labels])
    part = labels[y, x]
    own = without.reshape(rows, cols, -1)
    count = np.maximum(np.bincount(part, minlength=len(small)), 1)
    ground = np.stack(
        [
            np.bincount(part, own[y, x, channel], minlength=len(small)) / count
            for channel in range(own.shape[2])
        ],
        axis=1,
    ).astype(np.float32)
    flat = values.reshape(rows, cols, -1)
    goes_on = np.zeros(len(small), bool)
    for dy, dx in ((-1, -1), (-1, 0), (-1, 1), (0, -1), (0, 1), (1, -1), (1, 0), (1, 1)):
        beside_y, beside_x = y + dy, x + dx
        inside = (beside_y >= 0) & (beside_y < rows) & (beside_x >= 0) & (beside_x < cols)
        near_y, near_x, near = beside_y[inside], beside_x[inside], part[inside]
        other = labels[near_y, near_x] != near
        near_y, near_x, near = near_y[other], near_x[other], near[other]
        # What lies around a speck is like the ground that is left without it.
        off = np.abs(flat[near_y, near_x] - ground[near]).max(axis=1)
        goes_on[near[off > 1.25 * contrast]] = True
    return goes_on
