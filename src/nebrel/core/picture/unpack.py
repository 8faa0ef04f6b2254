"""Numbers as a file holds them to tones from 0 to 1, a band of rows at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import UnreadableFile

_BAND_PX = 2_000_000

Band = Callable[[slice], NDArray[Any]]


def bands(rows: int, cols: int) -> Iterator[slice]:
    """Rows from top to bottom, about two million pixels at a time."""
    height = max(1, _BAND_PX // max(1, cols))
    for top in range(0, rows, height):
        yield slice(top, min(rows, top + height))


def turned(values: NDArray[Any], orientation: int) -> NDArray[Any]:
    """A view of (rows, cols, ...) values the right way up.

    Source: CIPA DC-008 (Exif), tag 0x0112, 1 to 8.
    """
    if orientation in range(5, 9):
        values = np.swapaxes(values, 0, 1)
    if orientation in (2, 3, 6, 7):
        values = values[:, ::-1]
    if orientation in (3, 4, 7, 8):
        values = values[::-1]
    return values


def from_integers(
    shape: tuple[int, int, int], band: Band, top: float, depth: int, inverted: bool = False
) -> Picture:
    """Colour and alpha from whole numbers.

    Parameters
    ----------
    shape : rows, cols and channels; with 2 or 4 of these the last one is the alpha
    band : gives the integers of some rows, (n, cols) or (n, cols, channels)
    top : the number that stands for white
    inverted : that it stands for black
    """
    rows, cols, channels = shape
    colours = 1 if channels <= 2 else 3
    pixels = np.empty((rows, cols, 3) if colours == 3 else (rows, cols), np.float32)
    alpha = np.empty((rows, cols), np.float32) if channels in (2, 4) else None
    scale = np.float32(1.0 / top)
    for part in bands(rows, cols):
        values = band(part)
        if values.ndim == 3 and channels <= 2:
            np.multiply(values[..., 0], scale, out=pixels[part], dtype=np.float32)
        else:
            colour = values if values.ndim == 2 else values[..., :3]
            np.multiply(colour, scale, out=pixels[part], dtype=np.float32)
        if alpha is not None:
            np.multiply(values[..., channels - 1], scale, out=alpha[part], dtype=np.float32)
    if inverted:
        np.subtract(np.float32(1), pixels, out=pixels)
    if alpha is not None and float(alpha.min()) == 1:
        alpha = None
    return Picture(pixels, alpha, depth)


def from_reals(values: NDArray[Any], depth: int, name: str, inverted: bool = False) -> Picture:
    """Colour and alpha from real numbers; those beyond 0 to 1 are stretched, with a note.

    Parameters
    ----------
    values : (rows, cols) or (rows, cols, channels) of any real or signed type; with 2 or 4
        channels the last one is the alpha. What is not a finite number is transparent.

    Raises
    ------
    UnreadableFile : no number is finite
    """
    rows, cols = values.shape[:2]
    channels = 1 if values.ndim == 2 else values.shape[2]
    if values.ndim == 3 and channels <= 2:
        colour = values[..., 0]
    else:
        colour = values if values.ndim == 2 else values[..., :3]
    low, high, gaps = np.inf, -np.inf, False
    for part in bands(rows, cols):
        some = colour[part].astype(np.float32)
        known = np.isfinite(some)
        gaps = gaps or not known.all()
        if known.any():
            low = min(low, float(some.min(initial=np.inf, where=known)))
            high = max(high, float(some.max(initial=-np.inf, where=known)))
    if not low <= high:
        raise UnreadableFile(name, "it holds no finite number", "Save the picture again")
    notes = ["Places without a number are taken as transparent."] if gaps else []
    beyond = low < 0 or high > 1
    if beyond:
        notes.append(
            f"Its numbers run from {low:.6g} to {high:.6g}; lowest is taken as black, "
            "highest as white."
        )
    pixels = np.empty(colour.shape, np.float32)
    alpha = np.ones((rows, cols), np.float32) if gaps or channels in (2, 4) else None
    for part in bands(rows, cols):
        some = colour[part].astype(np.float32)
        if alpha is not None and channels in (2, 4):
            np.clip(np.nan_to_num(values[part][..., -1].astype(np.float32)), 0, 1, out=alpha[part])
        if gaps:
            known = np.isfinite(some)
            some = np.where(known, some, np.float32(low))
            assert alpha is not None
            alpha[part] *= known if known.ndim == 2 else known.all(axis=-1)
        if beyond:
            some = ((some.astype(np.float64) - low) / ((high - low) or 1.0)).astype(np.float32)
        pixels[part] = 1 - some if inverted else some
    return Picture(pixels, alpha, depth, notes=tuple(notes))


def collapse_gray(pixels: Floats) -> Floats:
    """One channel instead of three that agree everywhere."""
    if pixels.ndim == 2:
        return pixels
    for part in bands(*pixels.shape[:2]):
        some = pixels[part]
        if not (
            np.array_equal(some[..., 0], some[..., 1])
            and np.array_equal(some[..., 0], some[..., 2])
        ):
            return pixels
    return np.ascontiguousarray(pixels[..., 0])
