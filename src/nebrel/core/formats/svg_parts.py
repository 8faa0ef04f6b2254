"""A shape of an SVG where it is drawn, and how lengths, places and references are written."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.kernel import Region

Matrix = NDArray[np.float64]
SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
# Pixels of 1/96 inch; em and ex hang on the size of letters.
_UNITS = {"px": 1.0, "": 1.0, "in": 96.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4}
_UNITS |= {"cm": 960 / 25.4, "q": 24 / 25.4}
_NUMBER = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*([a-zA-Z%]*)\s*$")
_REFERENCE = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)")
_LETTERS_PX = 16.0


@dataclass(frozen=True)
class Viewport:
    """What shares of a length are of, in user units, and how large letters are."""

    wide: float
    tall: float
    letters: float = _LETTERS_PX

    def length(self, text: str | None, along: str, otherwise: float = 0.0) -> float:
        """A length in user units.

        Parameters
        ----------
        along : x, y, or both, for shares
        """
        found = _NUMBER.match(text) if text else None
        if found is None:
            return otherwise
        number, unit = float(found[1]), found[2].lower()
        if unit == "%":
            both = math.hypot(self.wide, self.tall) / math.sqrt(2)
            return number / 100 * {"x": self.wide, "y": self.tall}.get(along, both)
        if unit in ("em", "rem", "ex", "ch"):
            return number * self.letters * (0.5 if unit in ("ex", "ch") else 1.0)
        return number * _UNITS[unit] if unit in _UNITS else otherwise


@dataclass(frozen=True)
class Placed:
    """A shape where it is drawn.

    Attributes
    ----------
    matrix : (3, 3) from its own user units to mm of the page
    style : what holds for it, with what it inherits
    group : of the page, that it lies in
    clip : what of the page it is seen through, mm; None for all of it
    """

    element: Any
    matrix: Matrix
    style: Mapping[str, str]
    viewport: Viewport
    group: str = ""
    clip: Region | None = None


Area = Callable[[Placed], Region]
"""The area that a shape fills, mm."""


def tag_of(element: Any) -> str:
    """Its name, in whatever namespace."""
    return str(element.tag).rsplit("}", 1)[-1]


def href_of(element: Any) -> str:
    """The name that it refers to within the file; empty where it refers to none."""
    href = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
    return href[1:] if href.startswith("#") else ""


def named_in(text: str) -> str:
    """The name in a `url(#name)`; empty where there is none."""
    found = _REFERENCE.match(text)
    return found[1] if found else ""


def mapped(matrix: Matrix, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places (..., 2) through a matrix."""
    found: NDArray[np.float64] = places @ matrix[:2, :2].T + matrix[:2, 2]
    return found


def moved(x: float, y: float) -> Matrix:
    """By so much."""
    return np.array([[1.0, 0, x], [0, 1, y], [0, 0, 1]])


def transform_of(text: str) -> Matrix:
    """As SVG and CSS write it. Raises ValueError where it is none."""
    if not text or text.strip() == "none":
        return np.eye(3)
    from svgelements import Matrix as Read

    one = Read(text)
    found = np.array([[one.a, one.c, one.e], [one.b, one.d, one.f], [0, 0, 1]], np.float64)
    if not np.isfinite(found).all():
        raise ValueError(text[:40])
    return found


def share_of(text: str | None) -> float:
    """A number from 0 to 1, or a share in hundredths; 1 where it is none."""
    found = _NUMBER.match(text) if text else None
    if found is None:
        return 1.0
    return float(found[1]) / (100 if found[2] == "%" else 1)
