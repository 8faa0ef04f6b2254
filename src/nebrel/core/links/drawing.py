"""The link of a drawing: a kept file as outlines in mm."""

from __future__ import annotations

from nebrel.core.errors import NebrelError
from nebrel.core.formats.drawing import Drawing, Unit
from nebrel.core.formats.read_drawing import drawing_of
from nebrel.core.links.link import Link, at_hand, file
from nebrel.core.recipe.build_up import DrawingEntry
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.step import DrawingFile


def drawing(entry: DrawingEntry) -> Link[Drawing | NebrelError]:
    """The drawing of an entry, in its own size; whoever is given it is handed a refusal."""
    content = file("drawing", entry.file.sha256, told=True)
    unit = None if entry.unit == "file" else entry.unit
    layers = None if entry.layers is None else tuple(entry.layers)
    given = content, entry.file, unit, entry.join, layers
    return Link(_drawing, given, "reading the drawing", 0.3, "told")


def _drawing(
    content: bytes | NebrelError,
    called: DrawingFile,
    unit: Unit | None,
    join: Length,
    layers: tuple[str, ...] | None,
) -> Drawing:
    taken = None if layers is None else frozenset(layers)
    return drawing_of(at_hand(content), called.filename or "drawing", unit, join.mm, taken)
