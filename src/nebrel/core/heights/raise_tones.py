"""Tones to heights in a straight line."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nebrel.core.data import Floats

Raised = Literal["light", "dark"]


def raise_tones(
    tone: Floats, alpha: Floats | None, raised: Raised, depth_mm: float, backing_mm: float
) -> Floats:
    """Heights above the underside of every pixel.

    Parameters
    ----------
    tone : (rows, cols) float32, 0 to 1
    alpha : (rows, cols) float32 or None; what is transparent stays at the backing
    raised : which end of the tones stands high
    depth_mm : > 0, height of the fully raised tone above the backing
    backing_mm : >= 0

    Returns
    -------
    (rows, cols) float32, mm, from backing_mm to backing_mm + depth_mm
    """
    share = tone if raised == "light" else np.float32(1) - tone
    if alpha is not None:
        share = share * alpha
    return share * np.float32(depth_mm) + np.float32(backing_mm)


def printed_mm(cols: int, dpi: float) -> float:
    """Width of a picture at so many pixels per inch, mm, from pixel centre to pixel centre."""
    return (cols - 1) / dpi * 25.4


def size_mm(rows: int, cols: int, along: Literal["wide", "tall"], mm: float) -> tuple[float, float]:
    """Width and height of a picture whose outermost pixel centres lie on the edges, mm.

    Source: pitch = mm / (pixels - 1), the same in both directions.
    """
    if along == "wide":
        return mm, mm / (cols - 1) * (rows - 1)
    return mm / (rows - 1) * (cols - 1), mm
