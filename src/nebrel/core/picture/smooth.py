"""Calming a picture: Gaussian, median and edge-keeping smoothing, local contrast, despeckle."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np

from nebrel.core.data import Floats

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
        return median(values, max(1, round(radius_px)))
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

    A speck is a connected area that differs from its surroundings by more than `contrast`.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    area_px : the largest speck, pixels
    """
    if area_px < 1:
        return values
    side = int(2 * np.ceil(np.sqrt(area_px)) + 1)
    kernel = np.ones((side, side), np.uint8)
    found = values
    for which, operation in (("dark", cv2.MORPH_CLOSE), ("light", cv2.MORPH_OPEN)):
        if specks not in ("both", which):
            continue
        without = cv2.morphologyEx(found, operation, kernel, borderType=cv2.BORDER_REFLECT)
        apart = np.abs(without - found)
        apart = apart if apart.ndim == 2 else apart.max(axis=2)
        _, labels, figures, _ = cv2.connectedComponentsWithStats(
            (apart > contrast).astype(np.uint8), connectivity=8
        )
        small = figures[:, cv2.CC_STAT_AREA] <= area_px
        small[0] = False
        speck = small[labels].astype(np.uint8)
        # The soft rim of a speck goes with it.
        rim = cv2.dilate(speck, np.ones((3, 3), np.uint8)).astype(bool) & (apart > 0)
        large = ~small[labels] & (labels > 0)
        gone = rim & ~large
        found = np.where(gone if found.ndim == 2 else gone[..., None], without, found)
    return found
