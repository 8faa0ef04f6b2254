"""Drawings as they are brought in: SVG and DXF files as outlines in mm."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import InvalidValue, TooLarge
from nebrel.core.outline.outline import Outline

Unit = Literal["mm", "cm", "m", "in"]
UNIT_MM: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
# A drawing no larger than that, in its own units, is probably in these.
_GUESSES: tuple[tuple[float, Unit], ...] = ((0.5, "m"), (10.0, "in"))
LARGEST_MM = 20_000.0
_FURTHEST = 3.0  # times as far may the handles of a curve be
Floats64 = NDArray[np.float64]
_MOST_POINTS = 5_000_000
_MOST_NAMED = 20  # layers
ENDINGS = (".svg", ".dxf")


@dataclass(frozen=True)
class Drawing:
    """A drawing.

    Attributes
    ----------
    outline : mm, the lower left of its box at 0, 0, y up
    page_mm : the size that the file claims for itself, where it does
    unit : of the file; None where it does not say, and millimetres were taken
    layers : names of groups or layers, with the number of lines in each
    notes : plain sentences about what was mended or left out
    open_ends : where lines that close with no other begin and end, mm, the first hundred
    """

    outline: Outline
    page_mm: tuple[float, float] | None
    unit: str | None
    layers: dict[str, int]
    notes: tuple[str, ...]
    open_ends: tuple[tuple[float, float], ...] = ()

    @property
    def size_mm(self) -> tuple[float, float]:
        """Of the outline's own box."""
        low, high = self.outline.exact_bounds
        return float(high[0] - low[0]), float(high[1] - low[1])

    def wide(self, wide_mm: float) -> Drawing:
        """The same, that wide. Raises InvalidValue."""
        return self.scaled(wide_mm, "wide")

    def scaled(self, side_mm: float, along: Literal["wide", "tall"]) -> Drawing:
        """The same, that wide or tall. Raises InvalidValue."""
        own = self.size_mm[along == "tall"]
        if own <= 0:
            what = "height" if along == "tall" else "width"
            raise InvalidValue("--wide", f"the drawing has no {what}", "Bring another")
        return self.at_origin(side_mm / own)

    def at_origin(self, scale: float = 1.0) -> Drawing:
        """The same, larger by a factor, the lower left of its box at 0, 0."""
        from nebrel.core.outline.sized import at_origin

        low = self.outline.exact_bounds[0]
        ends = ((np.array(self.open_ends).reshape(-1, 2) - low) * scale).tolist()
        outline = at_origin(self.outline, scale)
        return replace(self, outline=outline, open_ends=tuple((x, y) for x, y in ends))


class Room:
    """How much a drawing may be, counted while it is read: before a line is made of points.

    Parameters
    ----------
    name : of the file
    """

    def __init__(self, name: str) -> None:
        self._name, self._points = name, 0

    def check_reach(self, places: Floats64) -> None:
        """Refuse a line that reaches further than the largest drawing, mm. Raises TooLarge."""
        if not len(places):
            return
        # What lies far away, as maps do, is moved to the origin: it is its size that counts.
        flat = places.reshape(-1, 2)
        self.check_size(float((flat.max(axis=0) - flat.min(axis=0)).max()))

    def check_size(self, largest: float) -> None:
        """The same of so many mm. Raises TooLarge."""
        if not largest <= _FURTHEST * LARGEST_MM:
            raise TooLarge(
                self._name,
                f"a line in it is {largest / 1000:.3g} m large",
                "Say what its unit is, or draw it smaller",
            )

    def count(self, points: int) -> None:
        """Some more points. Raises TooLarge."""
        self._points += points
        if self._points > _MOST_POINTS:
            raise TooLarge(
                self._name,
                f"its lines come to more than {_MOST_POINTS / 1e6:g} million points",
                "Simplify it first",
            )


def check_layers(wanted: frozenset[str] | None, known: Iterable[str], name: str) -> None:
    """Refuse layers that a drawing does not have. Raises InvalidValue."""
    there = sorted(layer for layer in known if layer)
    missing = sorted((wanted or frozenset()) - set(there))
    if missing:
        called = ", ".join(f"“{one[:40]}”" for one in missing[:3])
        most = ", ".join(one[:40] for one in there[:_MOST_NAMED])
        more = ", …" if len(there) > _MOST_NAMED else ""
        remedy = f"It has {most}{more}" if there else "It has none: leave that out"
        raise InvalidValue(name, f"no layer is called {called}", remedy)


def guess_unit(size: tuple[float, float]) -> Unit:
    """What one unit of a drawing probably is, by its size in units, where its file does not say."""
    largest = max(size)
    return next((unit for most, unit in _GUESSES if largest <= most), "mm")


def is_drawing(head: bytes, name: str) -> bool:
    """Whether a file is a drawing, by its name or its first 1024 bytes."""
    if looks_like_drawing(Path(name)):
        return True
    head = head[:1024].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    return head.startswith(b"<svg") or (head.startswith(b"<") and b"<svg" in head)


def looks_like_drawing(path: Path) -> bool:
    """Whether a file is called as drawings are."""
    return path.suffix.lower() in ENDINGS
