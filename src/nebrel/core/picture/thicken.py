"""Wider or thinner lines."""

from __future__ import annotations

import math
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask, Picture
from nebrel.core.picture.tone import read_tone


def thicken(tone: Floats, tones: Literal["dark", "light"], by_px: float) -> Floats:
    """Widen dark or light lines by a width (half of it on either side); below 0 thins them.

    Parameters
    ----------
    tone : (rows, cols) or (rows, cols, 3) float32
    by_px : change of a line's width

    The darkest (or lightest) within a disc around each pixel. Between pixels tones are
    interpolated, so that the outline moves by parts of a pixel as well.
    """
    radius = abs(by_px) / 2
    if radius < 1e-3:
        return tone
    dark = (tones == "dark") == (by_px > 0)
    darker, pick = (cv2.erode, cv2.min) if dark else (cv2.dilate, cv2.max)
    reach = int(radius)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    whole = (x * x + y * y <= radius * radius).astype(np.uint8)
    found = darker(tone, whole, borderType=cv2.BORDER_REPLICATE)
    # The rim of the disc, in as many directions as keep it round to a twentieth of a pixel.
    turns = 8 * math.ceil(math.pi / math.acos(1 - min(1.0, 0.05 / radius)) / 8)
    size = tone.shape[1::-1]
    for angle in np.arange(turns) * (2 * math.pi / turns):
        matrix = np.array([[1, 0, radius * math.cos(angle)], [0, 1, radius * math.sin(angle)]])
        moved = cv2.warpAffine(
            tone, matrix, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        found = pick(found, moved)
    return np.asarray(found, np.float32)


def disc(diameter: int) -> NDArray[np.uint8]:
    """A round structuring element, (diameter, diameter)."""
    if diameter <= 2:
        return np.ones((diameter, diameter), np.uint8)
    reach = (diameter - 1) / 2
    y, x = np.mgrid[-reach : reach : diameter * 1j, -reach : reach : diameter * 1j]
    return (x * x + y * y <= (diameter / 2) ** 2).astype(np.uint8)


def thicken_to(tone: Floats, tones: Literal["dark", "light"], width_px: float) -> Floats | None:
    """Widen lines by just enough for the thinnest to be of a width; None when there are none.

    Parameters
    ----------
    tone : (rows, cols) or (rows, cols, 3) float32
    width_px : that the thinnest line is to measure
    """
    narrow = thinnest(read_tone(Picture(tone)), tones)
    if math.isinf(narrow):
        return None
    return thicken(tone, tones, max(0.0, width_px - narrow))


def thinnest(tone: Floats, tones: Literal["dark", "light"]) -> float:
    """Width of the thinnest dark (or light) lines, px, to about a tenth of a pixel if soft.

    The 5th percentile over the middles of all lines; infinite when there is no line. The
    middle lies between two pixels: the distances of both to the edge, and the step from one
    to the other, make up the width across the line; and more than that in other directions.
    """
    lines = 1 - tone if tones == "dark" else tone
    y, x = np.nonzero(lines >= 0.5)
    if len(y) == 0:
        return float("inf")
    box = np.s_[max(0, y.min() - 2) : y.max() + 3, max(0, x.min() - 2) : x.max() + 3]
    distance = _fine_distance(np.ascontiguousarray(lines[box]))
    highest = cv2.dilate(distance, np.ones((3, 3), np.uint8))
    middle = (distance >= highest - 0.05) & (distance >= 0)
    framed = np.pad(distance, 1, mode="edge")
    y, x = np.nonzero(middle)
    width = np.full(len(y), np.inf, np.float32)
    for down, right in ((0, 1), (1, 0), (1, 1), (1, -1)):
        ends = (framed[y + 1 + down, x + 1 + right], framed[y + 1 - down, x + 1 - right])
        width = np.minimum(width, np.maximum(*ends) + np.float32(math.hypot(down, right)))
    return float(np.quantile(distance[middle] + width, 0.05))


def _fine_distance(cover: Floats) -> Floats:
    """As `signed_distance`, but from where in its pixels the outline runs.

    Source: Gustavson and Strand, Anti-aliased Euclidean distance transform, 2011.
    """
    inside = cover >= 0.5
    border = cv2.morphologyEx(inside.astype(np.uint8), cv2.MORPH_GRADIENT, disc(3)) > 0
    soft = border & (cover > 0.02) & (cover < 0.98)
    near = np.clip(cover, 0, 1) - np.float32(0.5)
    near[soft] = _within_pixel(cover, soft)
    # Through pixels of the other side, whose own distance may be more than they can say, or
    # through soft ones of the same side: the nearer is right.
    within = np.minimum(_away(~inside, near, 1), _away(inside & soft, near, 1))
    outside = np.maximum(_away(inside, near, -1), _away(~inside & soft, near, -1))
    return np.where(soft, near, np.where(inside, within, outside)).astype(np.float32)


def _within_pixel(cover: Floats, where: Mask) -> Floats:
    """Distance from the middles of pixels to a straight line that leaves them so covered, px."""
    slope_x = cv2.Scharr(cover, cv2.CV_32F, 1, 0)[where]
    slope_y = cv2.Scharr(cover, cv2.CV_32F, 0, 1)[where]
    length = np.maximum(np.hypot(slope_x, slope_y), 1e-9)
    across, along = np.abs(slope_x) / length, np.abs(slope_y) / length
    steep, flat = np.maximum(across, along), np.minimum(across, along)
    flat = np.where(steep < 0.5, 0, flat)  # no slope at all
    steep = np.where(steep < 0.5, 1, steep)
    share = cover[where]
    least = np.minimum(share, 1 - share)  # of the side of the line that has less
    corner = (steep + flat) / 2 - np.sqrt(2 * steep * flat * least)
    middle = (0.5 - least) * steep
    away = np.where(least < flat / steep / 2, corner, middle)
    return np.asarray(np.copysign(away, share - 0.5), np.float32)


def _away(targets: Mask, near: Floats, side: int) -> Floats:
    """Distance to the nearest target pixel and on by its own, signed as the side is."""
    if not targets.any():
        return np.full(near.shape, np.float32(side * sum(near.shape)))
    _, label = cv2.distanceTransformWithLabels(
        (~targets).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    y, x = np.nonzero(targets)
    place = np.zeros((3, int(label.max()) + 1), np.float32)
    place[:, label[y, x]] = x, y, near[y, x]
    rows, cols = near.shape
    across = place[0][label] - np.arange(cols, dtype=np.float32)
    down = place[1][label] - np.arange(rows, dtype=np.float32)[:, None]
    return side * cv2.magnitude(across, down) + place[2][label]
