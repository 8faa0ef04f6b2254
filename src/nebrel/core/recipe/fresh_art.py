"""Art that is about to be laid on a body: of a picture, or of one entry on nothing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from nebrel.core.data import Mesh, box_of
from nebrel.core.errors import NotFound
from nebrel.core.mesh.place import turned_about
from nebrel.core.recipe.art import PICTURE_ENTRY, Art, Edge, Pictured
from nebrel.core.recipe.build_up import (
    DrawingEntry,
    Ellipse,
    Entry,
    OutlineEntry,
    PictureEntry,
    TextEntry,
    TonePin,
)
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.step import DrawingFile, PictureFile

Place = tuple[float, float, float]
EntryName = Literal["text", "outline", "drawing"]
_HELD_MM = 0.4  # below the surface, of what is raised


@dataclass(frozen=True)
class Suits:
    """What suits art that is about to be laid on a body.

    Attributes
    ----------
    wide_mm : about two fifths of its smaller side
    at, up : in front of its middle; on what lies flat, above it; never in front of a hole
    """

    wide_mm: float
    at: Place
    up: Place


def what_suits(body: Mesh) -> Suits:
    """What suits a body."""
    low, high = (limit.astype(np.float64) for limit in box_of(body.vertices))
    x, y, _ = turned_about(body, 2)
    z = float(low[2] + high[2]) / 2
    wide, deep, tall = (high - low).tolist()
    lies = tall < 0.5 * min(wide, deep)
    shown = {axis: _in_the_way(body, (x, y, z), axis) for axis in (1, 2)}
    above = shown[2] if shown[1] != shown[2] else lies
    side = min(wide, max(deep, tall)) if above == lies else min(wide, deep if above else tall)
    width = float(f"{0.4 * side:.2g}")
    if above:
        return Suits(width, (x, y, float(high[2])), (0.0, 1.0, 0.0))
    return Suits(width, (x, float(low[1]), z), (0.0, 0.0, 1.0))


def _in_the_way(body: Mesh, place: Place, axis: int) -> bool:
    """Whether there is any surface on the line through a place along an axis."""
    across = [other for other in range(3) if other != axis]
    corners = body.vertices[:, across].astype(np.float64) - np.array(place)[across]
    corners -= 1e-6 * np.array([1.0, 0.7]) * np.abs(corners).max()  # not along an edge
    a, b, c = (corners[body.faces[:, k]] for k in range(3))
    sides = [p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0] > 0 for p, q in ((a, b), (b, c), (c, a))]
    return bool(((sides[0] == sides[1]) & (sides[1] == sides[2])).any())


def held_below(depth_mm: float) -> Length:
    """How deep what is raised by so much reaches into the body."""
    return Length(mm=min(_HELD_MM, depth_mm))


def of_picture(
    file: PictureFile,
    wide_mm: float,
    depth_mm: float,
    along: Literal["wide", "tall"] = "wide",
    **tones: Any,
) -> Art:
    """A picture whose tones are heights.

    Parameters
    ----------
    tones : fields of its entry, where they are others
    """
    picture = Pictured(file=file, along=along, side=Length(mm=wide_mm))
    entry = PictureEntry(id=PICTURE_ENTRY, depth=Length(mm=depth_mm), **tones)
    return Art(picture=picture, backing=held_below(depth_mm), build_up=[entry])


def flat_shape(threshold: float, depth_mm: float) -> dict[str, Any]:
    """Fields of a picture's entry by which what is darker than a tone is the shape, all as high.

    Parameters
    ----------
    threshold : 0.01 to 0.99
    """
    reach = min(threshold, 1 - threshold) * 0.98
    low, high = round(threshold - reach, 4), round(threshold + reach, 4)
    pins = [TonePin(tone=low, mm=Length(mm=depth_mm)), TonePin(tone=high, mm=None)]
    return {"mapping": "plateaus", "pins": pins, "cut_dropped": True}


def of_entry(file: PictureFile, wide_mm: float, depth_mm: float, entry: Entry) -> Art:
    """An entry alone, its backing along it, on a picture that is only drawn upon.

    Parameters
    ----------
    file, wide_mm : of the picture that is seen while it is worked on
    """
    picture = Pictured(file=file, along="wide", side=Length(mm=wide_mm))
    own = PictureEntry(id=PICTURE_ENTRY, enabled=False)
    edge = Edge(kind="along", margin=Length(mm=0.0))
    return Art(picture=picture, backing=held_below(depth_mm), build_up=[own, entry], edge=edge)


def entry_for(
    name: EntryName, drawing: DrawingFile | None, wide_mm: float, depth_mm: float
) -> Entry:
    """A fresh entry that is about as wide: lettering, a shape, or a drawing.

    Raises
    ------
    NotFound : it is a drawing, and there is none
    """
    raised: dict[str, Any] = {"id": name, "rule": "highest", "height": Length(mm=depth_mm)}
    if name == "text":
        return TextEntry(text="Corvane", capital=Length(mm=max(1.0, wide_mm / 5)), **raised)
    if name == "outline":
        side = Length(mm=wide_mm)
        return OutlineEntry(outline=Ellipse(wide=side, tall=side), **raised)
    if drawing is None:
        raise NotFound("drawing", "there is none", "Bring one")
    return DrawingEntry(file=drawing, along="wide", side=Length(mm=wide_mm), **raised)
