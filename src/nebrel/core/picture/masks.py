"""Soft masks: their distance field, growing, holes and islands."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from nebrel.core.data import Floats, Mask


def signed_distance(cover: Floats) -> Floats:
    """Distance to the outline of a soft mask, px; positive inside.

    Parameters
    ----------
    cover : (rows, cols) float32; the outline runs at 0.5

    The whole pixels come from a Euclidean distance transform; next to the outline the
    coverage itself says how far it is.
    """
    inside = (cover >= 0.5).astype(np.uint8)
    within = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    outside = cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    whole = np.where(inside > 0, within - np.float32(0.5), np.float32(0.5) - outside)
    near = np.abs(whole) <= 0.75
    soft = near & (cover > 0.02) & (cover < 0.98)
    return np.where(soft, cover - np.float32(0.5), whole).astype(np.float32)


def grow(cover: Floats, by_px: float) -> Floats:
    """Move the outline of a soft mask outwards, or inwards below 0; its edge is one pixel soft."""
    if abs(by_px) < 1e-3:
        return cover
    return np.clip(signed_distance(cover) + np.float32(by_px + 0.5), 0, 1)


def feather(cover: Floats, radius_px: float) -> Floats:
    """Soften the edge within a radius."""
    return cover if radius_px < 0.05 else cv2.GaussianBlur(cover, (0, 0), radius_px / 2)


def fill_holes(cover: Floats, area_px: float) -> Floats:
    """Close holes up to an area; what reaches the edge of the picture is none."""
    return cover if area_px <= 0 else 1 - _without_small(1 - cover, area_px, spare_edge=True)


def drop_islands(cover: Floats, area_px: float) -> Floats:
    """Take away parts up to an area."""
    return cover if area_px <= 0 else _without_small(cover, area_px, spare_edge=False)


def _without_small(cover: Floats, area_px: float, spare_edge: bool) -> Floats:
    hard = (cover > 0.5).astype(np.uint8)
    _, labels, figures, _ = cv2.connectedComponentsWithStats(hard, connectivity=4)
    small = figures[:, cv2.CC_STAT_AREA] <= area_px
    small[0] = False
    if spare_edge:
        edge = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
        small[np.unique(edge)] = False
    gone = small[labels].astype(np.uint8)
    kept = ((labels > 0) & ~small[labels]).astype(np.uint8)
    # The soft rim goes with its part, unless it is the rim of something that stays.
    ring = np.ones((5, 5), np.uint8)
    rim = (cv2.dilate(gone, ring) > 0) & (cv2.dilate(kept, np.ones((3, 3), np.uint8)) == 0)
    return np.where(rim, np.float32(0), cover)


def flood(values: Floats, seeds: Sequence[tuple[int, int]], spread: float) -> Mask:
    """What is connected to a seed (x, y) and within `spread` of its colour in every channel.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    """
    rows, cols = values.shape[:2]
    mask = np.zeros((rows + 2, cols + 2), np.uint8)
    flags = 4 | (1 << 8) | cv2.FLOODFILL_MASK_ONLY | cv2.FLOODFILL_FIXED_RANGE
    bounds = (spread,) * 3
    pixels = np.ascontiguousarray(values)
    for x, y in seeds:
        if not mask[y + 1, x + 1]:
            cv2.floodFill(pixels, mask, (int(x), int(y)), 0, bounds, bounds, flags)
    return mask[1:-1, 1:-1] > 0
