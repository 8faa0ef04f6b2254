"""Resampling that keeps the outermost pixel centres on the edges."""

from __future__ import annotations

import cv2
import numpy as np

from nebrel.core.data import Floats, Picture


def reduce_to(values: Floats, longest_px: int) -> Floats:
    """A smaller copy whose corner pixels stay the corners of the original.

    Parameters
    ----------
    values : (rows, cols) float32
    longest_px : the most pixels along the longer side, >= 2; a smaller picture is returned as is

    Returns
    -------
    (rows', cols') float32, at least 2 by 2, smoothed against aliasing
    """
    rows, cols = values.shape
    step = (max(rows, cols) - 1) / (longest_px - 1)
    if step <= 1:
        return values
    new_rows, new_cols = max(2, round((rows - 1) / step) + 1), max(2, round((cols - 1) / step) + 1)
    y = np.linspace(0, rows - 1, new_rows, dtype=np.float32)
    x = np.linspace(0, cols - 1, new_cols, dtype=np.float32)
    width = max(1, int(step)) | 1
    calm = cv2.blur(values, (width, width), borderType=cv2.BORDER_REFLECT) if width > 1 else values
    grid_x, grid_y = np.meshgrid(x, y)
    return cv2.remap(calm, grid_x, grid_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


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
