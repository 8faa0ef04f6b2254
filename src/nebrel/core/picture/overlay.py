"""A second picture laid on the first, and a picture blended into a tile."""

from __future__ import annotations

import math
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Picture
from nebrel.core.picture.read_from import read_from
from nebrel.core.picture.tone import read_tone

Blend = Literal["replace", "lighten", "darken", "multiply"]
MaskBy = Literal["alpha", "dark", "light"]


def lay_on(
    values: Floats, second: Picture, matrix: NDArray[np.float64], blend: Blend, mask: MaskBy,
    opacity: float,
) -> tuple[Floats, Floats]:  # fmt: skip
    """Lay a second picture on top.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, 3) float32
    matrix : (3, 3), takes a pixel of the second picture to a pixel of the first
    blend : how the two tones join where the second shows
    mask : what of the second shows: its alpha, or its dark or light tones

    Returns
    -------
    the picture, and the coverage (rows, cols) of what was laid on
    """
    rows, cols = values.shape[:2]
    cover = (
        second.alpha if second.alpha is not None else np.ones(second.pixels.shape[:2], np.float32)
    )
    if mask != "alpha":
        tone = read_tone(second)
        cover = cover * (tone if mask == "light" else 1 - tone)
    laid = (
        second.pixels
        if values.ndim == 3
        else read_from(second.pixels, None, "luminance", (1, 0, 0))
    )
    if values.ndim == 3 and laid.ndim == 2:
        laid = np.dstack([laid] * 3)
    shrink = math.sqrt(abs(np.linalg.det(matrix[:2, :2])))
    if shrink < 0.7:  # against aliasing
        sigma = 0.45 / shrink
        laid, cover = (cv2.GaussianBlur(part, (0, 0), sigma) for part in (laid, cover))
    flags, size = cv2.INTER_LINEAR, (cols, rows)
    laid = cv2.warpAffine(laid, matrix[:2], size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    cover = cv2.warpAffine(cover, matrix[:2], size, flags=flags) * np.float32(opacity)
    joined = {
        "replace": lambda: laid,
        "lighten": lambda: np.maximum(values, laid),
        "darken": lambda: np.minimum(values, laid),
        "multiply": lambda: values * laid,
    }[blend]()
    share = cover if values.ndim == 2 else cover[..., None]
    return values * (1 - share) + joined * share, cover


def make_tile(values: Floats, across: int, down: int) -> Floats:
    """Blend opposite edges over so many pixels; the result is smaller by them and repeats.

    The blend keeps the spread of the tones around their mean, so that the seam is no calmer
    than the rest.
    """
    values = _fold(values, across)
    turned = np.swapaxes(values, 0, 1)
    return np.ascontiguousarray(np.swapaxes(_fold(turned, down), 0, 1), np.float32)


def _fold(values: Floats, overlap: int) -> Floats:
    if overlap < 1:
        return values
    shape = (1, overlap) if values.ndim == 2 else (1, overlap, 1)
    rising = np.linspace(0, 1, overlap + 2, dtype=np.float32)[1:-1].reshape(shape)
    mean = values.mean(axis=(0, 1), dtype=np.float64).astype(np.float32)
    start, end = values[:, :overlap] - mean, values[:, -overlap:] - mean
    length = np.sqrt(rising**2 + (1 - rising) ** 2)
    blended = mean + (start * rising + end * (1 - rising)) / length
    return np.concatenate([np.clip(blended, 0, 1), values[:, overlap:-overlap]], axis=1)
