"""A picture set up as a coin or a medal: round, with a rim, and with words around it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any

import numpy as np

from nebrel.core.choices import Face
from nebrel.core.errors import InvalidValue
from nebrel.core.outline.lettering import letter
from nebrel.core.questions.suits import Seen, drawn_in
from nebrel.core.recipe.art import Edge, Pictured
from nebrel.core.recipe.build_up import (
    Ellipse,
    Entry,
    FrameEntry,
    OutlineEntry,
    PictureEntry,
    TextEntry,
    TracedEntry,
)
from nebrel.core.recipe.corrections import Crop, Isolate
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.placed import Profile
from nebrel.core.recipe.traced import Trace

_ACROSS_MM, _BACKING_MM, _FIELD_MM = 50.0, 1.8, 0.2
_RIM_MM, _RIM_HIGH_MM = 2.4, 1.6
_CAPITAL_MM, _WORDS_HIGH_MM = 4.2, 1.0
_OVER_MM = 0.6  # that words stand over a picture
_ROOM_MM = 1.2  # between rim, words and what is on it
_DEPTH_MM, _SHAPE_HIGH_MM = 1.4, 1.0
_MOST_LETTERS = 20
_LEAST_MM = 0.1  # of a picture
_FACE: Face = "plain_heavy"  # thin ones do not print so small

Sized = Callable[[Recipe], tuple[float, float]]
"""Width and height in mm of the corrected picture of a recipe."""


def coin(recipe: Recipe, seen: Seen, sized: Sized) -> Recipe:
    """A recipe set up as a coin; a plain ground of its picture is left out, and its size follows.

    Parameters
    ----------
    seen : what its picture is like
    sized : gives the width and height in mm of the corrected picture of a recipe
    """
    art = recipe.relief.art
    own, pictured, shape = art.tones, art.pictured, drawn_in(recipe)
    words = _words(pictured.file.filename)
    alone = shape is None and seen.ground is not None
    if alone:
        cut = [] if seen.of == "kept" else [Isolate(name="Ground")]
        steps = [*pictured.corrections, *cut, Crop(name="Around it", by="content")]
        pictured = pictured.model_copy(update={"corrections": steps})
    wide, tall = sized(_with(recipe, picture=pictured))
    whole = shape is None and not alone and not _flat(seen)
    # What has no plain ground fills the coin; all else lies within the words.
    inner = _ACROSS_MM / 2 - _RIM_MM - _ROOM_MM - (_CAPITAL_MM + _ROOM_MM if words else 0.0)
    scale = _ACROSS_MM / min(wide, tall) if whole else 2 * inner / math.hypot(wide, tall)
    pictured = _scaled(pictured, scale)
    field = OutlineEntry(
        name="Field",
        outline=Ellipse(wide=Length(mm=_ACROSS_MM), tall=Length(mm=_ACROSS_MM)),
        height=Length(mm=_FIELD_MM),
    )
    tones = PictureEntry(
        id=own.id if own else "picture",
        name=own.name if own else "",
        rule="replace" if whole else "add",
        depth=Length(mm=_DEPTH_MM),
        enabled=shape is None and not _flat(seen),
    )
    build_up: list[Entry] = [tones] if whole else [field, tones]
    if shape is not None:
        side = Length(mm=round(wide * scale, 3))
        changed = {"along": "wide", "side": side, "rule": "add", "profile": Profile()}
        plain = {"height": Length(mm=_SHAPE_HIGH_MM), "wall": None, "bridges": None}
        build_up.append(shape.model_copy(update={**changed, **plain}))
    elif _flat(seen):
        raised = Length(mm=_SHAPE_HIGH_MM)
        build_up.append(TracedEntry(trace=Trace(of=seen.of), rule="add", height=raised))
    build_up.append(FrameEntry(name="Rim", wide=Length(mm=_RIM_MM), height=Length(mm=_RIM_HIGH_MM)))
    if words:
        over = _around(words)
        if whole:  # plain letters over a picture, not letters of its tones
            high = Length(mm=_DEPTH_MM + _OVER_MM)
            over = over.model_copy(update={"rule": "highest", "height": high})
        build_up.append(over)
    edge = Edge(kind="round") if whole else Edge(kind="circle", margin=Length(mm=0.0))
    return _with(
        recipe,
        picture=pictured,
        build_up=build_up,
        edge=edge,
        backing=Length(mm=_BACKING_MM),
        mirror=False,
        negative=False,
    )


def _flat(seen: Seen) -> bool:
    """Whether a shape is raised, not tones."""
    return len(seen.tones) == 2


def _with(recipe: Recipe, **changed: Any) -> Recipe:
    art = recipe.relief.art.model_copy(update=changed)
    begins = recipe.relief.model_copy(update={"art": art})
    document = recipe.model_copy(update={"begins": begins}).model_dump(mode="json")
    return Recipe.model_validate(document)


def _scaled(pictured: Pictured, scale: float) -> Pictured:
    side = Length(mm=max(_LEAST_MM, round(pictured.side.mm * scale, 3)))
    return pictured.model_copy(update={"side": side})


def _words(filename: str) -> str:
    """What a coin begins with: the name of its picture, where that can be set."""
    plain = re.sub(r"[\W_]+", " ", filename.rsplit(".", 1)[0]).strip().upper()
    plain = plain[:_MOST_LETTERS].strip()
    try:
        return plain if letter(plain, _FACE, _CAPITAL_MM) else ""
    except InvalidValue:
        return ""


def _around(words: str) -> TextEntry:
    """Words along the rim, above."""
    radius = _ACROSS_MM / 2 - _RIM_MM - _ROOM_MM - _CAPITAL_MM
    loops = letter(words, _FACE, _CAPITAL_MM, arc_mm=radius)
    # Lettering lies about the middle of its own box; the circle it follows is about that of the
    # coin.
    top = float(np.concatenate(loops)[:, 1].max())
    return TextEntry(
        name="Words",
        text=words,
        face=_FACE,
        capital=Length(mm=_CAPITAL_MM),
        arc=Length(mm=radius),
        y=Length(mm=round(radius + _CAPITAL_MM - top, 3)),
        height=Length(mm=_WORDS_HIGH_MM),
        rule="add",
    )
