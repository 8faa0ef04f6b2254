"""What changes the frame of a picture: crop, turn, mirror, resize, enlarge, extend."""

from __future__ import annotations

import math
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats
from nebrel.core.errors import InvalidValue, TooLarge
from nebrel.core.picture.background import border_tone
from nebrel.core.picture.resample import resample
from nebrel.core.picture.working import Working

MOST_PIXELS = 160_000_000


def crop(work: Working, left: int, top: int, cols: int, rows: int) -> Working:
    """Keep `cols` by `rows` pixels from a first column and row on.

    Raises
    ------
    InvalidValue : the box reaches outside the picture or is smaller than 2 by 2
    """
    if left < 0 or top < 0 or left + cols > work.cols or top + rows > work.rows:
        full = 1 / work.density
        raise InvalidValue(
            "crop",
            f"the box {_box(left, top, cols, rows, full)} reaches outside the picture of "
            f"{round(work.cols * full)} × {round(work.rows * full)} pixels",
            "Draw the box inside the picture",
        )
    if cols < 2 or rows < 2:
        raise InvalidValue("crop", "fewer than 2 × 2 pixels are left", "Draw a larger box")
    part = np.s_[top : top + rows, left : left + cols]
    alpha = None if work.alpha is None else work.alpha[part]
    return work.moved(work.pixels[part], alpha, _shift(-left, -top))


def content_box(work: Working, tolerance: float, margin_px: float) -> tuple[int, int, int, int]:
    """Left, top, cols and rows of what differs from the background at the edge.

    Raises
    ------
    InvalidValue : nothing differs
    """
    if work.alpha is not None and work.alpha.min() < 0.5:
        inside = work.alpha > 0.02
    else:
        tone = work.tone
        inside = np.abs(tone - border_tone(tone)) > tolerance
    columns, lines = np.flatnonzero(inside.any(axis=0)), np.flatnonzero(inside.any(axis=1))
    if columns.size == 0:
        raise InvalidValue(
            "crop to content",
            "nothing differs from the background",
            "Use a smaller tolerance, or crop by a box",
        )
    gap = math.ceil(margin_px)
    left, top = max(0, int(columns[0]) - gap), max(0, int(lines[0]) - gap)
    right = min(work.cols - 1, int(columns[-1]) + gap)
    bottom = min(work.rows - 1, int(lines[-1]) + gap)
    return left, top, right - left + 1, bottom - top + 1


def turn(
    work: Working, quarters: int, degrees: float, corners: Literal["trim", "fill"], tone: float
) -> Working:
    """Turn to the left by quarters and degrees.

    Parameters
    ----------
    corners : trim to the largest upright box without empty corners, or fill them with `tone`
    """
    for _ in range(quarters % 4):
        alpha = None if work.alpha is None else _quarter(work.alpha)
        # (x, y) goes to (y, cols - 1 - x)
        matrix = np.array([[0, 1, 0], [-1, 0, work.cols - 1], [0, 0, 1]], np.float64)
        work = work.moved(_quarter(work.pixels), alpha, matrix)
    if abs(degrees) < 1e-9:
        return work
    angle = math.radians(degrees)
    c, s = math.cos(angle), math.sin(angle)
    wide, tall = work.cols - 1, work.rows - 1
    if corners == "trim":
        new_wide, new_tall = _largest_upright(wide, tall, abs(angle))
    else:
        new_wide = wide * abs(c) + tall * abs(s)
        new_tall = wide * abs(s) + tall * abs(c)
    cols, rows = max(2, int(new_wide) + 1), max(2, int(new_tall) + 1)
    rotate = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    matrix = _shift((cols - 1) / 2, (rows - 1) / 2) @ rotate @ _shift(-wide / 2, -tall / 2)
    pixels = _warp(work.pixels, matrix, cols, rows, tone if corners == "fill" else None)
    alpha = work.alpha
    if alpha is not None:
        alpha = _warp(alpha, matrix, cols, rows, None)
    return work.moved(pixels, alpha, matrix)


def mirror(work: Working, axis: Literal["left-right", "top-bottom"]) -> Working:
    """Swap left and right, or top and bottom."""
    if axis == "left-right":
        flip: slice | tuple[slice, ...] = np.s_[:, ::-1]
        matrix = np.array([[-1, 0, work.cols - 1], [0, 1, 0], [0, 0, 1]], np.float64)
    else:
        flip = np.s_[::-1]
        matrix = np.array([[1, 0, 0], [0, -1, work.rows - 1], [0, 0, 1]], np.float64)
    alpha = None if work.alpha is None else work.alpha[flip]
    return work.moved(work.pixels[flip], alpha, matrix)


def resize(work: Working, cols: int, rows: int) -> Working:
    """Another number of pixels over the same width in mm; pixels stay square.

    Raises
    ------
    TooLarge : more pixels than can be worked on
    """
    _check_pixels(cols, rows)
    alpha = None if work.alpha is None else resample(work.alpha, rows, cols)
    scale_x, scale_y = (cols - 1) / (work.cols - 1), (rows - 1) / (work.rows - 1)
    matrix = np.diag([scale_x, scale_y, 1.0])
    return work.moved(resample(_bled(work), rows, cols), alpha, matrix, 1 / scale_x)


def enlarge(work: Working, factor: float, method: Literal["photograph", "lines"]) -> Working:
    """More pixels for a small source.

    Parameters
    ----------
    method : `photograph` is bicubic; `lines` keeps edges one pixel sharp

    Raises
    ------
    TooLarge : more pixels than can be worked on
    """
    cols, rows = round((work.cols - 1) * factor) + 1, round((work.rows - 1) * factor) + 1
    _check_pixels(cols, rows)
    grown = resize(work, cols, rows)
    if method == "photograph":
        return grown
    pixels = _bled(work) if work.pixels.ndim == 2 else work.having(_bled(work), work.alpha).tone
    alpha = None if work.alpha is None else enlarge_lines(work.alpha, rows, cols)
    return grown.having(enlarge_lines(pixels, rows, cols), alpha)


def enlarge_lines(values: Floats, rows: int, cols: int) -> Floats:
    """Enlarge flat art so that its edges stay one pixel sharp.

    Parameters
    ----------
    values : (r, c) float32, 0 to 1
    rows, cols : larger than r, c

    Returns
    -------
    (rows, cols) float32. Across an edge the two tones of its sides are kept; the edge runs
    where the interpolated picture is half-way between them, at sub-pixel accuracy: the
    coverage of a pixel is 0.5 plus its distance to that line, taken to first order as the
    difference to half-way over the slope.
    """
    kernel = np.ones((3, 3), np.uint8)
    hard = float(np.mean((values > 0.02) & (values < 0.98))) < 0.002
    calm = cv2.GaussianBlur(values, (0, 0), 0.6) if hard else values
    low = resample(cv2.erode(values, kernel), rows, cols)
    high = resample(cv2.dilate(values, kernel), rows, cols)
    fine = resample(calm, rows, cols)
    slope = np.hypot(cv2.Sobel(fine, cv2.CV_32F, 1, 0), cv2.Sobel(fine, cv2.CV_32F, 0, 1)) / 8
    half = (low + high) / 2
    cover = np.clip(0.5 + (fine - half) / np.maximum(slope, 1e-4), 0, 1)
    return np.where(high - low > 0.08, low + (high - low) * cover, fine).astype(np.float32)


def extend(work: Working, left: int, top: int, right: int, bottom: int, tone: float) -> Working:
    """Add pixels of a tone on each side; what is transparent stays so, the new rim is solid.

    Raises
    ------
    TooLarge : more pixels than can be worked on
    """
    _check_pixels(work.cols + left + right, work.rows + top + bottom)
    rim = (top, bottom, left, right, cv2.BORDER_CONSTANT)
    pixels = cv2.copyMakeBorder(work.pixels, *rim, value=[tone] * 3)
    alpha = None if work.alpha is None else cv2.copyMakeBorder(work.alpha, *rim, value=1.0)
    return work.moved(pixels, alpha, _shift(left, top))


def _bled(work: Working) -> Floats:
    """Pixels whose clear neighbours, 2 px around what is seen, show its colour: no halo comes in.

    Whatever colour a clear pixel was saved with, nobody has seen it.
    """
    if work.alpha is None:
        return work.pixels
    pixels, seen = work.pixels, (work.alpha > 0).astype(np.float32)
    for _ in range(2):
        if seen.all():
            break
        weight = cv2.boxFilter(seen, -1, (3, 3), normalize=False)
        mask = seen if pixels.ndim == 2 else seen[..., None]
        summed = cv2.boxFilter(pixels * mask, -1, (3, 3), normalize=False)
        fresh = (seen == 0) & (weight > 0)
        pixels = pixels.copy()
        pixels[fresh] = summed[fresh] / (weight[fresh] if pixels.ndim == 2 else weight[fresh, None])
        seen = np.maximum(seen, fresh.astype(np.float32))
    return np.asarray(pixels, np.float32)


def _quarter(values: Floats) -> Floats:
    return cv2.rotate(values, cv2.ROTATE_90_COUNTERCLOCKWISE)


def _shift(x: float, y: float) -> NDArray[np.float64]:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], np.float64)


def _warp(
    values: Floats, matrix: NDArray[np.float64], cols: int, rows: int, tone: float | None
) -> Floats:
    fill = 0.0 if tone is None else tone
    mode = cv2.BORDER_REPLICATE if tone is None else cv2.BORDER_CONSTANT
    found = cv2.warpAffine(
        values, matrix[:2], (cols, rows), flags=cv2.INTER_CUBIC, borderMode=mode,
        borderValue=[fill] * 3,
    )  # fmt: skip
    return np.clip(found, 0, 1)


def _largest_upright(wide: float, tall: float, angle: float) -> tuple[float, float]:
    """Sides of the largest upright box inside a box turned by `angle` (0 to pi/4)."""
    s, c = math.sin(angle), math.cos(angle)
    long, short = max(wide, tall), min(wide, tall)
    if short <= 2 * s * c * long:
        half = short / 2
        pair = (half / s, half / c) if wide >= tall else (half / c, half / s)
        return pair
    whole = c * c - s * s
    return (wide * c - tall * s) / whole, (tall * c - wide * s) / whole


def _check_pixels(cols: int, rows: int) -> None:
    if cols * rows > MOST_PIXELS:
        raise TooLarge(
            "picture",
            f"it would have {cols} × {rows} pixels",
            f"Stay below {MOST_PIXELS // 1_000_000} million pixels",
        )


def _box(left: int, top: int, cols: int, rows: int, full: float) -> str:
    return f"{round(left * full)},{round(top * full)},{round(cols * full)},{round(rows * full)}"
