"""A picture on its way through the corrections."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Picture
from nebrel.core.picture.resample import resample
from nebrel.core.picture.tone import read_tone


@dataclass(frozen=True)
class Working:
    """Pixels, what is kept of them, and where they lie.

    Attributes
    ----------
    pixels : (rows, cols) or (rows, cols, 3) float32, 0 to 1, sRGB as displayed
    alpha : (rows, cols) float32, 0 (dropped) to 1, or None when nothing is
    place : (3, 3) float64, takes a pixel of the picture brought in to a pixel here
    density : pixels here per pixel of the same state at full quality, <= 1
    pitch_mm : distance between neighbouring pixel centres; the outermost lie on the edges
    """

    pixels: Floats
    alpha: Floats | None
    place: NDArray[np.float64]
    density: float
    pitch_mm: float

    @property
    def rows(self) -> int:
        """Pixels from top to bottom."""
        return self.pixels.shape[0]

    @property
    def cols(self) -> int:
        """Pixels from left to right."""
        return self.pixels.shape[1]

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height."""
        return self.pitch_mm * (self.cols - 1), self.pitch_mm * (self.rows - 1)

    @property
    def tone(self) -> Floats:
        """Brightness as displayed, (rows, cols)."""
        return read_tone(Picture(self.pixels))

    def px(self, mm: float) -> float:
        """A length in pixels here."""
        return mm / self.pitch_mm

    def spots(self, places: Any) -> NDArray[np.float64]:
        """Places of the picture brought in as (n, 2) x, y in pixels here."""
        given = np.atleast_2d(np.asarray(places, np.float64))
        return given @ self.place[:2, :2].T + self.place[:2, 2]

    @property
    def zoom(self) -> float:
        """How many pixels here one pixel of the picture brought in takes along a line."""
        return float(np.sqrt(abs(np.linalg.det(self.place[:2, :2]))))

    def having(self, pixels: Floats, alpha: Floats | None) -> Working:
        """Other pixels in the same frame."""
        return replace(self, pixels=np.ascontiguousarray(pixels, np.float32), alpha=alpha)

    def shown(self, pixels: Floats) -> Working:
        """Other pixels, the same coverage."""
        return self.having(pixels, self.alpha)

    def moved(
        self,
        pixels: Floats,
        alpha: Floats | None,
        matrix: NDArray[np.float64],
        pitch_ratio: float = 1.0,
    ) -> Working:
        """Other pixels in another frame.

        Parameters
        ----------
        matrix : (3, 3), takes a pixel before to a pixel after
        pitch_ratio : pitch after over pitch before
        """
        return replace(
            self,
            pixels=np.ascontiguousarray(pixels, np.float32),
            alpha=None if alpha is None else np.ascontiguousarray(alpha, np.float32),
            place=matrix @ self.place,
            pitch_mm=self.pitch_mm * pitch_ratio,
        )


def begin(
    picture: Picture,
    longest_px: int | None,
    wide_mm: float,
    of: tuple[int, int] | None = None,
) -> Working:
    """A picture as it was brought in, ready to be corrected.

    Parameters
    ----------
    longest_px : the most pixels along the longer side, or None for all of them
    wide_mm : how wide it is in the hand
    of : (rows, cols) of the picture brought in, when this one is a smaller copy of it
    """
    pixels, alpha, density = picture.pixels, picture.alpha, 1.0
    longest = max(picture.rows, picture.cols)
    if longest_px is not None and longest > longest_px:
        density = (longest_px - 1) / (longest - 1)
        rows = max(2, round((picture.rows - 1) * density) + 1)
        cols = max(2, round((picture.cols - 1) * density) + 1)
        pixels = resample(pixels, rows, cols)
        alpha = None if alpha is None else resample(alpha, rows, cols)
    rows, cols = pixels.shape[:2]
    first_rows, first_cols = of or (picture.rows, picture.cols)
    if of is not None:
        density *= (max(picture.rows, picture.cols) - 1) / (max(of) - 1)
    place = np.diag([(cols - 1) / (first_cols - 1), (rows - 1) / (first_rows - 1), 1.0])
    return Working(pixels, alpha, place, density, wide_mm / (cols - 1))
