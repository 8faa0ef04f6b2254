"""Starts: a piece that just arrived set up for a purpose, with good numbers for it."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Any, Literal

from nebrel.core.choices import StartName
from nebrel.core.data import Floats
from nebrel.core.picture.flat_tones import find_tones
from nebrel.core.questions.coin import Sized, coin
from nebrel.core.questions.suits import Seen, drawn_in
from nebrel.core.recipe.art import Art, Edge
from nebrel.core.recipe.build_up import (
    DrawingEntry,
    Entry,
    FrameEntry,
    PictureEntry,
    TonePin,
    TracedEntry,
)
from nebrel.core.recipe.figure import FigureBegin
from nebrel.core.recipe.fittings import Handle
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import Recipe, drawn_recipe
from nebrel.core.recipe.placed import Bridges, Outlined, Profile, Wall
from nebrel.core.recipe.traced import Trace


def start(
    recipe: Recipe, name: StartName, seen: Seen, tone: Callable[[], Floats], sized: Sized
) -> Recipe:
    """A recipe set up for a purpose; what is of the picture itself stays, but for a coin's.

    Parameters
    ----------
    tone : gives the corrected picture, where its tones are needed
    sized : gives the width and height in mm of the corrected picture of a recipe
    """
    art = recipe.relief.art
    if name == "coin":
        return coin(recipe, seen, sized)
    if name == "figure":
        begun = FigureBegin(picture=art.pictured)
        return Recipe.model_validate(
            recipe.model_copy(update={"begins": begun}).model_dump(mode="json")
        )
    own = art.tones or PictureEntry(id="picture")
    shape: Outlined = drawn_in(recipe) or TracedEntry(trace=Trace(of=seen.of))
    changed, fittings = _BEGIN[name](own, shape, seen, tone)
    begins = recipe.relief.model_copy(
        update={"art": art.model_copy(update=changed), "fittings": fittings}
    )
    document = recipe.model_copy(update={"begins": begins}).model_dump(mode="json")
    return Recipe.model_validate(document)


Changed = tuple[dict[str, Any], list[Any]]
"""Fields of the art, and the fittings."""


def _plain(own: PictureEntry, **more: Any) -> PictureEntry:
    """The picture's entry as a fresh one, but for what a start says."""
    return PictureEntry(id=own.id, name=own.name, **more)


def _off(own: PictureEntry) -> PictureEntry:
    return _plain(own).model_copy(update={"enabled": False})


def _art(backing_mm: float, build_up: list[Entry], **more: Any) -> dict[str, Any]:
    fresh = {"edge": Edge(), "mirror": False, "negative": False, "draft": 0.0, "islands": "keep"}
    return {**fresh, "backing": Length(mm=backing_mm), "build_up": build_up, **more}


def _along(margin_mm: float) -> Edge:
    return Edge(kind="along", margin=Length(mm=margin_mm))


def _only(shape: Outlined, **more: Any) -> Any:
    """The shape alone, as one that nothing was done to yet but where it is taken from."""
    fresh = {"grow": Length(mm=0.0), "wall": None, "bridges": None, "profile": Profile()}
    return shape.model_copy(update={**fresh, "rule": "highest", **more})


def _relief(own: PictureEntry, _: Outlined, __: Seen, ___: Any) -> Changed:
    return _art(1.0, [_plain(own)]), []


def _light_panel(own: PictureEntry, _: Outlined, __: Seen, ___: Any) -> Changed:
    lit = _plain(own, raised="dark", mapping="light", depth=Length(mm=2.4))
    rim = FrameEntry(name="Rim", wide=Length(mm=3.0), height=Length(mm=2.4))
    return _art(0.8, [lit, rim]), []


def _flat_tones(own: PictureEntry, _: Outlined, seen: Seen, tone: Callable[[], Floats]) -> Changed:
    tones = sorted(seen.tones or find_tones(tone(), 3), reverse=True)
    # The ground is the backing; every darker tone stands a step higher.
    pins = [TonePin(tone=t, mm=Length(mm=round(0.8 * k, 2))) for k, t in enumerate(tones)]
    return _art(1.6, [_plain(own, mapping="plateaus", pins=pins)]), []


def _cut_out(own: PictureEntry, shape: Outlined, _: Seen, __: Any) -> Changed:
    broken = Profile(kind="chamfer", reach=Length(mm=0.4))
    return _art(
        0.0, [_off(own), _only(shape, height=Length(mm=3.0), profile=broken)], edge=_along(0.0)
    ), []


def _cutter(own: PictureEntry, shape: Outlined, _: Seen, __: Any) -> Changed:
    wall = Wall(details=Length(mm=5.0))
    walled = _only(shape, height=Length(mm=14.0), wall=wall)
    # It stands blade upwards: pressed from above it cuts what is seen in a mirror.
    return _art(0.0, [_off(own), walled], edge=_along(0.0), mirror=True), []


def _stamp(own: PictureEntry, shape: Outlined, _: Seen, __: Any) -> Changed:
    raised = _only(shape, height=Length(mm=1.6))
    return _art(3.0, [_off(own), raised], edge=_along(2.0), mirror=True), [Handle()]


def _stencil(own: PictureEntry, shape: Outlined, _: Seen, __: Any) -> Changed:
    opening = _only(shape, rule="cut", bridges=Bridges())
    plate = Edge(kind="plate", margin=Length(mm=10.0), corner=Length(mm=3.0))
    return _art(0.8, [_off(own), opening], edge=plate), []


# A new start is a function here, a line in this table, and its name in `core/choices.py`. A figure
# is no relief, and begins by itself.
_BEGIN: dict[str, Callable[[PictureEntry, Outlined, Seen, Any], Changed]] = {
    "relief": _relief,
    "light panel": _light_panel,
    "flat tones": _flat_tones,
    "cut-out": _cut_out,
    "cutter": _cutter,
    "stamp": _stamp,
    "stencil": _stencil,
}


def trace_tones(recipe: Recipe, seen: Seen, tone: Callable[[], Floats]) -> Recipe:
    """A recipe with an entry for each of its picture's flat tones but the ground's, lowest first.

    Each takes in all that is further from the ground, so that no seam is left where two meet.
    """
    art = recipe.relief.art
    of: Literal["dark", "light"] = "light" if seen.of == "light" else "dark"
    tones = sorted(seen.tones or find_tones(tone(), 3), reverse=of == "dark")
    entries = [
        TracedEntry(
            name=f"Tone {number}",
            rule="highest",
            height=Length(mm=round(0.8 * number, 2)),
            trace=Trace(of=of, level=round((before + own) / 2, 4)),
        )
        for number, (before, own) in enumerate(pairwise(tones), 1)
    ]
    build_up = [*art.build_up, *entries]
    begins = recipe.relief.model_copy(update={"art": art.model_copy(update={"build_up": build_up})})
    changed = recipe.model_copy(update={"begins": begins})
    return Recipe.model_validate(changed.model_dump(mode="json"))


def is_untouched(recipe: Recipe) -> bool:
    """Whether nothing of a recipe was set up yet but its picture or drawing, and its size."""
    art, begins = recipe.relief.art, recipe.relief
    if art.picture is None or begins.fittings or begins.form.kind != "panel" or art.tones is None:
        return False
    own = _plain(art.tones)
    drawn = drawn_in(recipe)
    if drawn is not None:
        kept = {name: getattr(drawn, name) for name in ("unit", "along", "side", "layers", "join")}
        shape = DrawingEntry(id=drawn.id, name=drawn.name, file=drawn.file, **kept)
        fresh = drawn_recipe(art.picture.file, 1.0, shape).relief.art
        own = own.model_copy(update={"enabled": False})
        return art == fresh.model_copy(
            update={"picture": art.picture, "build_up": [own, *fresh.build_up[1:]]}
        )
    if art.picture.corrections:
        return False
    return art == Art(picture=art.picture, build_up=[own])
