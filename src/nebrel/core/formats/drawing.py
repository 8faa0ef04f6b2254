"""Drawings as they are brought in: SVG and DXF files as outlines in mm."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

from nebrel.core.errors import InvalidValue, TooLarge, UnreadableFile
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.sized import at_origin

Unit = Literal["mm", "cm", "m", "in"]
UNIT_MM: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
MOST_BYTES = 60_000_000
# A drawing no larger than that, in its own units, is probably in these.
_GUESSES: tuple[tuple[float, Unit], ...] = ((0.5, "m"), (10.0, "in"))
_LARGEST_MM = 20_000.0
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


def drawing_of(
    content: bytes,
    name: str,
    unit: Unit | None = None,
    join_mm: float = 0.1,
    layers: frozenset[str] | None = None,
) -> Drawing:
    """The same of what a file holds."""
    head = content[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"<") or b"<svg" in head.lower():
        from nebrel.core.formats.read_svg import read_svg

        found = read_svg(content, name, unit, join_mm, layers)
    elif name.lower().endswith(".dxf") or head.startswith((b"0", b"999", b"AutoCAD Binary")):
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


def is_drawing(content: bytes, name: str) -> bool:
    """Whether a file is a drawing, by its name or what it begins with."""
    if looks_like_drawing(Path(name)):
        return True
    head = content[:1024].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    return head.startswith(b"<svg") or (head.startswith(b"<") and b"<svg" in head)


def looks_like_drawing(path: Path) -> bool:
    """Whether a file is called as drawings are."""
    return path.suffix.lower() in ENDINGS
