"""Drawings by what their files are: SVG or DXF."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from nebrel.core.errors import NebrelError, TooLarge, UnreadableFile
from nebrel.core.formats.drawing import LARGEST_MM, Drawing, Unit

MOST_BYTES = 60_000_000

_AGAIN = "Save it again, as SVG or as DXF"


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
    if not np.isfinite(largest) or largest > LARGEST_MM:
        raise UnreadableFile(
            name,
            f"it is {largest / 1000:.3g} m large",
            "Say what its unit is, or draw it smaller",
        )
    return found.at_origin()
