"""Flat-toned art: every tone its own height, with clean borders between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask
from nebrel.core.picture.flat_tones import label_tones


@dataclass(frozen=True)
class Plateau:
    """Everything that reaches at least a height.

    Attributes
    ----------
    mm : height above the underside
    cover : (rows, cols) float32; the outline of what reaches it runs at 0.5
    """

    mm: float
    cover: Floats


def part_tones(
    tone: Floats, tones: Sequence[float], heights_mm: Sequence[float | None]
) -> tuple[list[Plateau], NDArray[np.float32]]:
    """Plateaus of a flat-toned picture, the lowest first.

    Parameters
    ----------
    tone : (rows, cols) float32
    tones : at least one; each pixel belongs to the nearest
    heights_mm : of each tone above the underside, or None to cut through

    Returns
    -------
    plateaus, each including all higher ones; and the height of every pixel, 0 where it is cut

    The border between two tones runs where the picture is half-way between them. A soft
    border that passes through a third tone is settled between the two it separates.
    """
    order = np.argsort(tones)
    levels = np.asarray(tones, np.float32)[order]
    heights = np.array(
        [-1.0 if heights_mm[i] is None else heights_mm[i] for i in order], np.float32
    )
    labels = label_tones(tone, levels, clean=True)
    height = heights[labels]
    plateaus = []
    for mm in np.unique(height[height >= 0]):
        plateaus.append(Plateau(float(mm), _soft_cover(tone, levels[labels], height >= mm)))
    return plateaus, np.maximum(height, 0)


def _soft_cover(tone: Floats, flat: Floats, inside: Mask) -> Floats:
    """How much of each pixel lies inside, from how its tone mixes those of both sides."""
    if inside.all():
        return np.ones(tone.shape, np.float32)
    core_in, core_out = _nearest(flat, inside), _nearest(flat, ~inside)
    gap = core_in - core_out
    share = np.clip((tone - core_out) / np.where(np.abs(gap) < 1e-3, 1, gap), 0, 1)
    whole = inside.astype(np.float32)
    hard = inside.astype(np.uint8)
    border = cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)) > 0
    found = np.where(border & (np.abs(gap) >= 1e-3), share, whole)
    # A pixel on one side must not claim the other.
    found = np.where(inside, np.maximum(found, 0.5), np.minimum(found, 0.4999))
    return found.astype(np.float32)


def _nearest(flat: Floats, where: Mask) -> Floats:
    """The tone of the nearest pixel of a mask, away from its border where it is wide enough."""
    mask = where.astype(np.uint8)
    core = cv2.erode(mask, np.ones((3, 3), np.uint8), borderValue=1)
    mask = np.where(core.any(), core, mask).astype(np.uint8) if core.any() else mask
    _, nearest = cv2.distanceTransformWithLabels(
        1 - mask, cv2.DIST_L2, 3, labelType=cv2.DIST_LABEL_PIXEL
    )
    tones = np.zeros(int(nearest.max()) + 1, np.float32)
    tones[nearest[mask > 0]] = flat[mask > 0]
    return tones[nearest]


def spread_inside(values: Floats, cover: Floats) -> Floats:
    """Values of the nearest place that is wholly covered, everywhere; so that a wall has no rim.

    Next to a soft border the values are mixed with what lies beyond it, and are left out too;
    next to a hard one they are kept.
    """
    inside = cover > 0.9
    if inside.all() or not inside.any():
        return values
    spread = _nearest(values, inside)
    soft = ((cover > 0.02) & (cover < 0.98)).any()
    return spread if soft else np.where(inside, values, spread)
