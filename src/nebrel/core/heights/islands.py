"""Islands: parts that are connected to nothing once something is cut through."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.heights.laid import Laid
from nebrel.core.heights.relief import Relief
from nebrel.core.kernel import Region, non_zero
from nebrel.core.outline.outline import Outline, runs_left
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.outline.trace import trace_mm

MOST_ISLANDS = 200


@dataclass(frozen=True)
class Island:
    """One part apart from the largest.

    Attributes
    ----------
    area_mm2 : of it, seen from above
    box_mm : left, lower, right and upper edge, from the lower left corner of the piece
    """

    area_mm2: float
    box_mm: tuple[float, float, float, float]


def find_islands(relief: Relief, around: bool = False) -> tuple[list[Island], NDArray[np.int32]]:
    """Parts that are not connected to the largest one, the largest first.

    Parameters
    ----------
    around : whether the left edge meets the right one

    Returns
    -------
    islands, at most 200; and (rows, cols) labels: 0 nothing, 1 the main part, then the islands
    in their order
    """
    field, there = relief.joined()
    shape = field.mm.shape
    if there is None:
        return [], np.ones(shape, np.int32)
    # Parts that only touch at a corner hold by nothing.
    count, labels = cv2.connectedComponents(there.astype(np.uint8), connectivity=4)
    if around:
        labels = _joined_ends(labels, count)
    elif relief.blank and relief.backing_mm <= 0:
        labels = _by_outlines(labels, count, relief)
    area = np.bincount(labels.ravel(), minlength=count)
    area[0] = 0
    order = [int(i) for i in np.argsort(area)[::-1] if area[i] > 0]
    number = np.zeros(count, np.int32)
    number[order] = np.arange(1, len(order) + 1)
    named = number[labels]
    pitch_x, pitch_y = field.pitch_mm
    islands = []
    for place, label in enumerate(order[1 : MOST_ISLANDS + 1], 2):
        rows = np.flatnonzero((named == place).any(axis=1))
        cols = np.flatnonzero((named == place).any(axis=0))
        low_y, high_y = shape[0] - 1 - rows[-1], shape[0] - 1 - rows[0]
        left, right = float(cols[0]) * pitch_x, float(cols[-1]) * pitch_x
        box = (left, float(low_y) * pitch_y, right, float(high_y) * pitch_y)
        islands.append(Island(float(area[label]) * pitch_x * pitch_y, box))
    return islands, named


def drop_islands(relief: Relief, labels: NDArray[np.int32]) -> Laid:
    """An entry that cuts away all but the largest part; it goes above all others."""
    near = np.ones((3, 3), np.uint8)
    gone = cv2.dilate((labels > 1).astype(np.uint8), near, iterations=2) > 0
    kept = cv2.dilate((labels == 1).astype(np.uint8), near) > 0
    cover = (gone & ~(kept & (labels <= 1))).astype(np.float32)
    return Laid("cut", trace_mm(cover, *relief.field.pitch_mm), 0.0)


def hold_islands(relief: Relief, labels: NDArray[np.int32], thick_mm: float) -> Laid:
    """An entry that lies under everything and holds it together: a plate of its outer outline.

    When filling the openings does not connect the parts, it reaches around all of them.
    """
    cover = (labels > 0).astype(np.float32)
    whole = outline_of(region_of(trace_mm(cover, *relief.field.pitch_mm)))
    found = non_zero([loop for loop in whole.loops if runs_left(loop)])
    if len(found.decompose()) > 1:
        found = found.hull()
    return Laid("highest", outline_of(found), thick_mm)


def _by_outlines(labels: NDArray[np.int32], count: int, relief: Relief) -> NDArray[np.int32]:
    """Labels of what entries alone are made of, those of one part made one.

    The tip of a shape may be thinner than a pixel, and fall apart in them.
    """
    from nebrel.core.mesh.components import label_components

    rows = labels.shape[0]
    pitch_x, pitch_y = relief.field.pitch_mm
    _, first = np.unique(labels, return_index=True)
    y, x = np.divmod(first, labels.shape[1])
    at_x, at_y = x * pitch_x, (rows - 1 - y) * pitch_y
    own = labels.ravel()[first]
    one: list[NDArray[np.int32]] = []
    other: list[NDArray[np.int32]] = []
    for part in _made_of(relief).decompose():
        outline = outline_of(part)
        low, high = outline.bounds
        near = (at_x >= low[0]) & (at_x <= high[0]) & (at_y >= low[1]) & (at_y <= high[1])
        near[near] = outline.inside(at_x[near], at_y[near])
        inside = own[near & (own > 0)]
        one.append(inside[:-1])
        other.append(inside[1:])
    if not one:
        return labels
    _, merged = label_components(count, np.concatenate(one), np.concatenate(other))
    return merged[labels].astype(np.int32)


def _made_of(relief: Relief) -> Region:
    """Where the entries leave anything, on a relief without a plate."""
    whole = region_of(Outline())
    for entry in (*relief.below, *relief.above):
        if entry.rule == "cut":
            whole = whole - region_of(entry.outline)
        elif entry.rule in ("replace", "highest"):
            whole = whole + region_of(entry.outline)
    return whole


def _joined_ends(labels: NDArray[np.int32], count: int) -> NDArray[np.int32]:
    """Labels with those that meet across the seam made one."""
    from nebrel.core.mesh.components import label_components

    left, right = labels[:, 0], labels[:, -1]
    meet = (left > 0) & (right > 0)
    _, merged = label_components(count, left[meet], right[meet])
    return merged[labels].astype(np.int32)
