"""Drawings as they are brought in: SVG and DXF files as outlines in mm."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import InvalidValue, NebrelError, TooLarge, UnreadableFile
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.sized import at_origin

Unit = Literal["mm", "cm", "m", "in"]
UNIT_MM: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
MOST_BYTES = 60_000_000
# A drawing no larger than that, in its own units, is probably in these.
_GUESSES: tuple[tuple[float, Unit], ...] = ((0.5, "m"), (10.0, "in"))
_LARGEST_MM = 20_000.0
_FURTHEST = 3.0  # times as far may the handles of a curve be
Floats64 = NDArray[np.float64]
_MOST_POINTS = 5_000_000
_MOST_NAMED = 20  # layers
_AGAIN = "Save it again, as SVG or as DXF"
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
        low = self.outline.exact_bounds[0]
        ends = ((np.array(self.open_ends).reshape(-1, 2) - low) * scale).tolist()
        outline = at_origin(self.outline, scale)
        return replace(self, outline=outline, open_ends=tuple((x, y) for x, y in ends))


def read_drawing(
    path: Path,
    unit: Unit | None = None,
    join_mm: float = 0.1,
    layers: frozenset[str] | None = None,
) -> Drawing:
    """A drawing by what its file is.

    Parameters
    ----------
    unit : what one unit of the file is, whatever it says
    join_mm : ends that lie closer are joined
    layers : those that are taken; all when left out

    Raises
    ------
    UnreadableFile : it is neither SVG nor DXF, or broken, or has nothing that closes
    TooLarge : too many bytes or lines
    """
    try:
        size = path.stat().st_size
        if size > MOST_BYTES:
            raise TooLarge(
                path.name, f"it has {size / 1e6:.0f} MB", f"At most {MOST_BYTES / 1e6:.0f} are read"
            )
        content = path.read_bytes()
    except OSError as error:
        reason = (error.strerror or "it cannot be read").lower()
        raise UnreadableFile(path.name, reason, "Check the path") from error
    return drawing_of(content, path.name, unit, join_mm, layers)


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
        if not largest <= _FURTHEST * _LARGEST_MM:
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


def drawing_of(
    content: bytes,
    name: str,
    unit: Unit | None = None,
    join_mm: float = 0.1,
    layers: frozenset[str] | None = None,
) -> Drawing:
    """The same of what a file holds."""
    try:
        return _drawing_of(content, name, unit, join_mm, layers)
    except NebrelError:
        raise
    except MemoryError as error:
        raise TooLarge(name, "reading it takes too much memory", "Bring a simpler one") from error
    except RecursionError as error:
        raise UnreadableFile(name, "its parts lie too deep in each other", _AGAIN) from error
    except Exception as error:  # whatever a foreign parser raises on a damaged file
        raise UnreadableFile(name, "it is damaged, or not what it says", _AGAIN) from error


def _drawing_of(
    content: bytes, name: str, unit: Unit | None, join_mm: float, layers: frozenset[str] | None
) -> Drawing:
    head = content[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"<") or b"<svg" in head.lower():
        from nebrel.core.formats.read_svg import read_svg

        found = read_svg(content, name, unit, join_mm, layers)
    elif (
        name.lower().endswith(".dxf")
        or head.startswith((b"0", b"999"))
        or (b" Binary DXF" in head[:32])
    ):
        from nebrel.core.formats.read_dxf import read_dxf

        found = read_dxf(content, name, unit, join_mm, layers)
    else:
        raise UnreadableFile(name, "it is neither an SVG nor a DXF", "Save it as one of the two")
    if not found.outline:
        raise UnreadableFile(
            name, "nothing in it goes around an area", "Close its lines, or fill them"
        )
    low, high = found.outline.exact_bounds
    largest = float((high - low).max())
    if not np.isfinite(largest) or largest > _LARGEST_MM:
        raise UnreadableFile(
            name,
            f"it is {largest / 1000:.3g} m large",
            "Say what its unit is, or draw it smaller",
        )
    return found.at_origin()


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
