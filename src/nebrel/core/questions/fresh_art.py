"""Art that is about to be laid on a body: of a picture, or of one entry on nothing."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import EntryName
from nebrel.core.data import Mesh, box_of
from nebrel.core.errors import NotFound
from nebrel.core.mesh.place import turned_about
from nebrel.core.questions.suits import DARK, Seen
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
from nebrel.core.recipe.corrections import Isolate
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.step import DrawingFile, PictureFile

GROUND = "Ground"
"""What the step is called that leaves out a plain ground."""

Place = tuple[float, float, float]
_MOST_LOOKED_AT = 500_000  # faces
_LEAST_ROOM = 0.1  # of the smaller side
_HELD_MM = 0.4  # below the surface, of what is raised


@dataclass(frozen=True)
class Suits:
    """What suits art that is about to be laid on a body.

    Attributes
    ----------
    wide_mm : about two fifths of its smaller side
    at, up : in front of its middle; on what lies flat, above it; never in front of a hole
    room_mm : how far around `at` the face there is flat; None where it is not
    about : on the upright axis that it is turned about, or that goes through its middle
    """

    wide_mm: float
    at: Place
    up: Place
    room_mm: float | None
    about: Place


def what_suits(body: Mesh) -> Suits:
    """What suits a body."""
    low, high = (limit.astype(np.float64) for limit in box_of(body.vertices))
    x, y, _ = turned_about(body, 2)
    z = float(low[2] + high[2]) / 2
    wide, deep, tall = (high - low).tolist()
    lies = tall < 0.5 * min(wide, deep)
    levels = {axis: _levels(body, (x, y, z), axis) for axis in (1, 2)}
    shown = {axis: len(found) > 0 for axis, found in levels.items()}
    above = shown[2] if shown[1] != shown[2] else lies
    side = min(wide, max(deep, tall)) if above == lies else min(wide, deep if above else tall)
    width = float(f"{0.4 * side:.2g}")
    if above:
        place, up = (x, y, float(levels[2].max(initial=-np.inf))), (0.0, 1.0, 0.0)
    else:
        place, up = (x, float(levels[1].min(initial=np.inf)), z), (0.0, 0.0, 1.0)
    if not np.isfinite(place).all():
        place = (x, y, float(high[2])) if above else (x, float(low[1]), z)
    room = _room(body, place, 2 if above else 1)
    # What is round is made of faces, which are flat as well.
    room = None if room is None or room < _LEAST_ROOM * side else room
    return Suits(width, place, up, room, (x, y, z))


def _room(body: Mesh, place: Place, axis: int) -> float | None:
    """How far around a place the face across an axis is flat, mm; None where it is not."""
    if len(body.faces) > _MOST_LOOKED_AT:
        return None
    near = 1e-4 * float(np.ptp(body.vertices, axis=0).max(initial=0.0))
    level = np.abs(body.vertices[:, axis] - place[axis]) <= near
    flat = body.faces[level[body.faces].all(axis=1)]
    if not len(flat):
        return None
    across = [other for other in range(3) if other != axis]
    spot = np.array(place)[across]
    places = body.vertices[:, across].astype(np.float64) - spot
    a, b, c = (places[flat[:, k]] for k in range(3))
    sides = [p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0] for p, q in ((a, b), (b, c), (c, a))]
    slack = 1e-9 * np.abs(places).max() ** 2
    inside = np.all([side >= -slack for side in sides], axis=0)
    inside |= np.all([side <= slack for side in sides], axis=0)
    if not inside.any():
        return None
    ends = np.sort(flat[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    edges, uses = np.unique(ends, axis=0, return_counts=True)
    start, end = (places[edges[uses == 1, k]] for k in (0, 1))
    along = end - start
    share = -np.einsum("ij,ij->i", start, along) / np.maximum((along**2).sum(axis=1), 1e-300)
    away = np.linalg.norm(start + np.clip(share, 0, 1)[:, None] * along, axis=1)
    found = float(away.min(initial=np.inf))
    return found if near < found < np.inf else None


def _levels(body: Mesh, place: Place, axis: int) -> NDArray[np.float64]:
    """Where the line through a place along an axis meets the surface, along that."""
    across = [other for other in range(3) if other != axis]
    corners = body.vertices[:, across].astype(np.float64) - np.array(place)[across]
    corners -= 1e-6 * np.array([1.0, 0.7]) * np.abs(corners).max()  # not along an edge
    a, b, c = (corners[body.faces[:, k]] for k in range(3))
    doubles = [p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0] for p, q in ((b, c), (c, a), (a, b))]
    met = np.all([one > 0 for one in doubles], axis=0) | np.all(
        [one < 0 for one in doubles], axis=0
    )
    shares = np.stack([one[met] for one in doubles], axis=1)
    shares /= shares.sum(axis=1, keepdims=True)
    found: NDArray[np.float64] = (body.vertices[body.faces[met], axis] * shares).sum(axis=1)
    return found.round(6)


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


def on_its_ground(art: Art, seen: Seen) -> Art:
    """Art of a picture without the plain ground that it is on: its own shape is laid on the body.

    What is one flat dark shape is laid as that; of all else the ground is isolated. Where there
    is no such ground, the same.
    """
    own = art.tones
    if own is None or art.picture is None or seen.ground is None:
        return art
    if seen.ground <= DARK:  # no height: it lies in the surface, and nothing of it is seen
        return art
    if len(seen.tones) == 2 and seen.of == "dark":
        level = min(max(sum(seen.tones) / 2, 0.05), 0.95)
        tones = own.model_copy(update=flat_shape(level, own.depth.mm))
        return art.model_copy(update={"build_up": [tones]})
    steps = [] if seen.of == "kept" else [Isolate(name=GROUND)]
    picture = art.picture.model_copy(update={"corrections": [*art.picture.corrections, *steps]})
    kept = own.model_copy(update={"cut_dropped": True})
    return art.model_copy(update={"picture": picture, "build_up": [kept]})


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
