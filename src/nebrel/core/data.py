"""The few data types that the core hands around."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
Mask = NDArray[np.bool_]
"""Where something is, in the shape of what it tells of: (rows, cols) of a picture."""
Loop = NDArray[np.float64]
"""Points (n, 2) of a closed line in the plane, mm."""
Above = Literal["backing", "underside"]


@dataclass(frozen=True)
class HeightScale:
    """What the tones of a picture that holds heights are worth.

    Attributes
    ----------
    wide_mm : from the first pixel centre of a row to the last
    white_mm : the height of white; black is 0
    above : what they are measured from: heights above the underside hold their backing already
    """

    wide_mm: float
    white_mm: float
    above: Above


@dataclass(frozen=True)
class Picture:
    """A raster as displayed, kept unchanged.

    Attributes
    ----------
    pixels : (rows, cols) or (rows, cols, 3) float32, 0 (black) to 1 (white), sRGB as displayed
    alpha : (rows, cols) float32, 0 (transparent) to 1, or None
    bit_depth : bits of one channel in the file
    dpi : pixels per inch written in the file, or None
    notes : plain sentences about what reading had to decide
    heights : what the tones are worth, when the file says that it holds heights in mm
    """

    pixels: Floats
    alpha: Floats | None = None
    bit_depth: int = 8
    dpi: float | None = None
    file_format: str = ""
    notes: tuple[str, ...] = ()
    heights: HeightScale | None = None

    def __post_init__(self) -> None:
        if self.pixels.ndim not in (2, 3) or (self.pixels.ndim == 3 and self.pixels.shape[2] != 3):
            raise ValueError(f"pixels have shape {self.pixels.shape}")
        if self.alpha is not None and self.alpha.shape != self.pixels.shape[:2]:
            raise ValueError(f"alpha {self.alpha.shape} on pixels {self.pixels.shape}")

    @cached_property
    def tone(self) -> Floats:
        """Brightness as displayed, (rows, cols), kept as long as the picture: see `read_tone`."""
        from nebrel.core.tone import tone_of

        return tone_of(self.pixels)

    @property
    def rows(self) -> int:
        """Pixels from top to bottom."""
        return self.pixels.shape[0]

    @property
    def cols(self) -> int:
        """Pixels from left to right."""
        return self.pixels.shape[1]


@dataclass(frozen=True)
class HeightField:
    """Heights above the underside, one per pixel centre; row 0 is the far (upper) edge.

    The outermost pixel centres lie on the edges of the piece, so the pitch is
    `wide_mm / (cols - 1)` across and `tall_mm / (rows - 1)` along.

    Attributes
    ----------
    mm : (rows, cols) float32, rows and cols >= 2
    wide_mm, tall_mm : extent in x and y, > 0
    """

    mm: Floats
    wide_mm: float
    tall_mm: float

    def __post_init__(self) -> None:
        if self.mm.ndim != 2 or min(self.mm.shape) < 2:
            raise ValueError(f"heights have shape {self.mm.shape}")
        if not (self.wide_mm > 0 and self.tall_mm > 0):
            raise ValueError("the extent must be positive")

    @property
    def pitch_mm(self) -> tuple[float, float]:
        """Distance between neighbouring pixel centres in x and in y, mm."""
        rows, cols = self.mm.shape
        return self.wide_mm / (cols - 1), self.tall_mm / (rows - 1)


def box_of(places: Floats) -> tuple[Floats, Floats]:
    """The least and the largest of places (n, 3) along each axis; quicker than over rows."""
    low, high = ([f(places[:, k]) for k in range(3)] for f in (np.min, np.max))
    return np.array(low, places.dtype), np.array(high, places.dtype)


@dataclass(frozen=True)
class Mesh:
    """Triangles in mm, counter-clockwise seen from outside.

    Attributes
    ----------
    vertices : (V, 3) float32, mm
    faces : (F, 3) int32, indices into vertices
    colours : (V, 4) uint8, red, green, blue as displayed and opacity; or None
    """

    vertices: Floats
    faces: NDArray[np.int32]
    name: str = field(default="piece", compare=False)
    colours: NDArray[np.uint8] | None = None

    def __post_init__(self) -> None:
        if self.colours is not None and self.colours.shape != (len(self.vertices), 4):
            raise ValueError(f"colours {self.colours.shape} on vertices {self.vertices.shape}")
        if self.vertices.ndim != 2 or self.vertices.shape[1] != 3:
            raise ValueError(f"vertices have shape {self.vertices.shape}")
        if self.faces.ndim != 2 or self.faces.shape[1] != 3:
            raise ValueError(f"faces have shape {self.faces.shape}")
