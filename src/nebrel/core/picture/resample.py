"""Resampling that keeps the outermost pixel centres on the edges."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats, Picture


def resample(values: Floats, rows: int, cols: int) -> Floats:
    """The same picture on another number of pixels; corner pixels stay the corners.

    Parameters
    ----------
    values : (r, c) or (r, c, 3) float32, at least 2 by 2
    rows, cols : >= 2

    Returns
    -------
    (rows, cols) or (rows, cols, 3) float32: smoothed against aliasing where it shrinks,
    bicubic where it grows, never outside the range of the input
    """
    old_rows, old_cols = values.shape[:2]
    if (rows, cols) == (old_rows, old_cols):
        return values
    step_y, step_x = (old_rows - 1) / (rows - 1), (old_cols - 1) / (cols - 1)
    width, height = (max(1, int(step)) | 1 for step in (step_x, step_y))
    calm = values
    if width > 1 or height > 1:
        calm = cv2.blur(values, (width, height), borderType=cv2.BORDER_REFLECT)
    grows = max(step_x, step_y) < 1
    matrix = np.array([[step_x, 0, 0], [0, step_y, 0]], np.float64)
    method = (cv2.INTER_CUBIC if grows else cv2.INTER_LINEAR) | cv2.WARP_INVERSE_MAP
    found = cv2.warpAffine(
        calm, matrix, (cols, rows), flags=method, borderMode=cv2.BORDER_REPLICATE
    )
    if grows:
        # Bicubic swings over at edges; in place, as the result is large. Flat, since OpenCV
        # takes a number for a limit of the first channel alone.
        low, high, *_ = cv2.minMaxLoc(values.reshape(old_rows, -1))
        flat = found.reshape(rows, -1)
        cv2.min(cv2.max(flat, low, dst=flat), high, dst=flat)
    return np.asarray(found, np.float32)


def reduce_to(values: Floats, longest_px: int) -> Floats:
    """A smaller copy whose corner pixels stay the corners of the original.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    longest_px : the most pixels along the longer side, >= 2; a smaller picture is returned as is
    """
    rows, cols = values.shape[:2]
    step = (max(rows, cols) - 1) / (longest_px - 1)
    if step <= 1:
        return values
    return resample(
        values, max(2, round((rows - 1) / step) + 1), max(2, round((cols - 1) / step) + 1)
    )


def display_bytes(picture: Picture, longest_px: int) -> bytes:
    """An 8-bit PNG of the picture for the screen, no longer than `longest_px` on a side."""
    pixels = picture.pixels
    scale = longest_px / max(picture.rows, picture.cols)
    channels = [pixels] if pixels.ndim == 2 else [pixels[..., i] for i in (2, 1, 0)]
    if picture.alpha is not None:
        channels = channels * (3 if len(channels) == 1 else 1)
        channels.append(picture.alpha)
    if scale < 1:
        size = (max(1, round(picture.cols * scale)), max(1, round(picture.rows * scale)))
        channels = [cv2.resize(c, size, interpolation=cv2.INTER_AREA) for c in channels]
    shown = [np.clip(c * 255 + 0.5, 0, 255).astype(np.uint8) for c in channels]
    _, encoded = cv2.imencode(".png", cv2.merge(shown) if len(shown) > 1 else shown[0])
    return encoded.tobytes()
