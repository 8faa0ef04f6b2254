"""Few tones: threshold, and tone steps with clean borders."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue
from nebrel.core.picture.levels import histogram

_BINS = 256


def threshold(
    tone: Floats, method: Literal["manual", "otsu", "local"], level: float, radius_px: float,
    offset: float,
) -> Floats:  # fmt: skip
    """Black and white only.

    Parameters
    ----------
    tone : (rows, cols) float32
    level : manual: this tone and lighter becomes white
    radius_px, offset : local: what is darker than the surroundings within the radius by more
        than the offset becomes black

    Raises
    ------
    InvalidValue : everything would become black, or white

    Source: Otsu, A Threshold Selection Method from Gray-Level Histograms, 1979.
    """
    if method == "local":
        around = cv2.blur(tone, _odd(radius_px), borderType=cv2.BORDER_REFLECT)
        white = tone >= around - np.float32(offset)
    else:
        white = tone >= np.float32(otsu(tone) if method == "otsu" else level)
    share = float(white.mean())
    if share in (0.0, 1.0):
        low, high = float(tone.min()), float(tone.max())
        raise InvalidValue(
            "threshold",
            f"it leaves nothing: everything becomes {'white' if share else 'black'}",
            f"Choose a level between {low:.3g} and {high:.3g}"
            if high > low
            else "The picture is one flat tone; bring another",
        )
    return white.astype(np.float32)


def otsu(tone: Floats) -> float:
    """The tone that best parts the dark from the light half."""
    low, high = float(tone.min()), float(tone.max())
    if high <= low:
        return low
    whole = ((tone - low) * np.float32(65_535 / (high - low))).astype(np.uint16)
    counts = np.bincount(whole.ravel() >> 4, minlength=4096).astype(np.float64)
    weight = np.cumsum(counts)
    mass = np.cumsum(counts * np.arange(4096))
    with np.errstate(divide="ignore", invalid="ignore"):
        between = (mass[-1] * weight / weight[-1] - mass) ** 2 / (weight * (weight[-1] - weight))
    between[~np.isfinite(between)] = -1
    best = np.flatnonzero(between >= between.max() * (1 - 1e-9))
    return low + (float(best.mean()) + 1) / 4096 * (high - low)


def recognise_tones(tone: Floats, most: int = 12) -> list[float]:
    """The flat tones that a drawing consists of, the darkest first.

    Parameters
    ----------
    tone : (rows, cols) float32
    most : a picture with more than this is not flat-toned

    Returns
    -------
    tones, each filling at least a five-hundredth of what is flat; none for a photograph. Soft
    borders are left out: only pixels whose neighbours are like them count.
    """
    near = np.ones((3, 3), np.uint8)
    flat = cv2.dilate(tone, near) - cv2.erode(tone, near) < 0.012
    if flat.mean() < 0.5:
        return []
    counts = np.bincount((tone[flat] * 255).round().astype(np.int64), minlength=256)
    least = max(8, counts.sum() / 500)
    found: list[float] = []
    start = None
    for value in range(257):
        full = value < 256 and counts[value] > least / 16
        if full and start is None:
            start = value
        if not full and start is not None:
            run = counts[start:value]
            if run.sum() >= least:
                found.append(float((np.arange(start, value) * run).sum() / run.sum() / 255))
            start = None
    smooth = len(found) > most or counts.sum() < 0.5 * tone.size
    spread = np.count_nonzero(counts > least / 16)
    return [] if smooth or spread > 6 * max(1, len(found)) else found


def find_tones(tone: Floats, count: int) -> list[float]:
    """The `count` tones that stand for a picture with the least squared error.

    Source: Jenks' optimal classes by dynamic programming over a histogram of 256 bins.
    """
    weight = histogram(tone, _BINS)
    middle = (np.arange(_BINS) + 0.5) / _BINS
    zero, one, two = (
        np.concatenate([[0], np.cumsum(weight * middle**power)]) for power in (0, 1, 2)
    )
    start, end = np.meshgrid(np.arange(_BINS + 1), np.arange(_BINS + 1), indexing="ij")
    mass = zero[end] - zero[start]
    first = one[end] - one[start]
    with np.errstate(divide="ignore", invalid="ignore"):
        cost = two[end] - two[start] - np.where(mass > 0, first * first / mass, 0)
        means = np.where(mass > 1e-12, first / mass, np.nan)
    cost[end < start] = np.inf
    cost = np.maximum(cost, 0)
    best, came = cost[0], []
    for _ in range(count - 1):
        total = best[:, None] + cost
        came.append(total.argmin(axis=0))
        best = total.min(axis=0)
    edges = [_BINS]
    for step in reversed(came):
        edges.append(int(step[edges[-1]]))
    edges.append(0)
    edges.reverse()
    found = [float(means[a, b]) for a, b in pairwise(edges) if b > a]
    return [_mode(weight, tone_, middle) for tone_ in found if np.isfinite(tone_)]


def _mode(weight: NDArray[np.float64], mean: float, middle: NDArray[np.float64]) -> float:
    """The fullest bin near a mean, so that soft borders do not pull a flat tone aside."""
    near = np.abs(middle - mean) < 0.06
    best = int(np.argmax(np.where(near, weight, -1)))
    if weight[best] > 0.5 * weight[near].sum():
        # A bin holding nearly all of it is a flat tone: black and white are exactly that.
        return 0.0 if best == 0 else 1.0 if best == _BINS - 1 else float(middle[best])
    return mean


def step_tones(tone: Floats, tones: Sequence[float], clean: bool) -> Floats:
    """Every pixel gets the nearest of a few tones.

    Parameters
    ----------
    tone : (rows, cols) float32
    tones : at least one
    clean : a soft border between two tones is parted half-way between them, instead of
        becoming a seam of a third tone
    """
    levels = np.unique(np.asarray(tones, np.float32))
    return levels[label_tones(tone, levels, clean)]


def label_tones(tone: Floats, levels: Floats, clean: bool) -> NDArray[np.uint8]:
    """Which of a few increasing tones each pixel belongs to."""
    labels = np.zeros(tone.shape, np.uint8)
    for edge in (levels[1:] + levels[:-1]) / 2:
        labels += tone >= edge
    if clean and len(levels) > 2:
        labels = _without_seams(tone, labels, levels)
    return labels


def _without_seams(tone: Floats, labels: NDArray[np.uint8], levels: Floats) -> NDArray[np.uint8]:
    wide, small = np.ones((5, 5), np.uint8), np.ones((3, 3), np.uint8)
    low, high = cv2.erode(labels, wide), cv2.dilate(labels, wide)
    between = (labels > low) & (labels < high)
    if not between.any():
        return labels
    seam = np.zeros(labels.shape, bool)
    for label in np.unique(labels[between]):
        mask = (labels == label).astype(np.uint8)
        body = cv2.morphologyEx(mask, cv2.MORPH_OPEN, small)
        seam |= between & (mask > 0) & (body == 0)
    half = (levels[low] + levels[high]) / 2
    return np.where(seam, np.where(tone >= half, high, low), labels)


def _odd(radius_px: float) -> tuple[int, int]:
    side = 2 * max(1, round(radius_px)) + 1
    return side, side
