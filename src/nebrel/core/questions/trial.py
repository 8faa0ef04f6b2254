"""A strength trial: the same decoration in several depths or sizes, as one test plate."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from nebrel.core.errors import InvalidValue
from nebrel.core.recipe.art import Art, Edge, Extent
from nebrel.core.recipe.body import BodyBegin
from nebrel.core.recipe.build_up import PictureEntry, TextEntry
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import MadeWith, Recipe
from nebrel.core.recipe.ready import PlateBody

Over = Literal["depth", "size"]
MOST_TRIED = 12
_GAP_MM, _EDGE_MM = 4.0, 3.0
_CAPITAL_MM, _ENGRAVED_MM, _LEFT_MM = 4.0, 0.5, 1.6


def trial_recipe(
    decoration: Decoration,
    over: Over,
    values: Sequence[float],
    size_mm: tuple[float, float],
    made_with: MadeWith,
) -> Recipe:
    """A plate with a decoration several times side by side, its value engraved below each.

    Parameters
    ----------
    values : depths, or widths, mm
    size_mm : width and height of the art as the decoration has it

    Raises
    ------
    InvalidValue : too few or too many values, or one that is not above 0
    """
    if not 2 <= len(values) <= MOST_TRIED:
        raise InvalidValue("values", f"there are {len(values)}", f"Try 2 to {MOST_TRIED}")
    if min(values) <= 0:
        raise InvalidValue("values", f"{min(values):g} mm is not above 0", "Use larger ones")
    wide, tall = size_mm
    tried = variants(decoration, over, values, wide)
    scales = [value / wide if over == "size" else 1.0 for value in values]
    label = {value: f"{value:.3g} mm" for value in values}
    room = [
        max(wide * s, 0.8 * _CAPITAL_MM * len(label[v]))
        for s, v in zip(scales, values, strict=True)
    ]
    high = tall * max(scales)
    whole = sum(room) + _GAP_MM * (len(values) - 1) + 2 * _EDGE_MM
    deep = high + _CAPITAL_MM + 2 * _EDGE_MM + _GAP_MM
    deepest = max(values) if over == "depth" else decoration.art.depth_mm
    plate_mm = max(3.0, deepest + decoration.art.backing.mm + _LEFT_MM)
    decorations: list[Decoration] = []
    at = -whole / 2 + _EDGE_MM
    for value, one, own in zip(values, tried, room, strict=True):
        middle = at + own / 2
        at += own + _GAP_MM
        place = (middle, deep / 2 - _EDGE_MM - high / 2, plate_mm)
        changed: dict[str, Any] = {"id": "", "at": place, "up": (0.0, 1.0, 0.0), "lie": "straight"}
        changed |= {"repeat": 1, "rows": 1, "layout": "around"}
        decorations.append(one.model_copy(update=changed))
        below = (middle, -deep / 2 + _EDGE_MM + _CAPITAL_MM / 2, plate_mm)
        decorations.append(_engraved(label[value], below))
    sides = {"wide": whole, "deep": deep, "tall": plate_mm, "corner": 1.0}
    plate = PlateBody(**{name: Length(mm=mm) for name, mm in sides.items()})
    begins = BodyBegin(body=plate, decorations=[*decorations])
    recipe = Recipe(begins=begins, made_with=made_with)
    return Recipe.model_validate(recipe.model_dump(mode="json"))


def variants(
    decoration: Decoration, over: Over, values: Sequence[float], wide_mm: float
) -> list[Decoration]:
    """A decoration at several depths, or widths, mm.

    Parameters
    ----------
    wide_mm : of its art as it is laid
    """
    changes: list[dict[str, Any]]
    if over == "size":
        changes = [{"times": decoration.times * value / wide_mm} for value in values]
    else:
        depth = decoration.deep_times
        changes = [{"art": _as_deep(decoration.art, value / depth)} for value in values]
    return [decoration.model_copy(update=change) for change in changes]


def _as_deep(art: Art, mm: float) -> Art:
    """The same art so deep: its picture, or its highest entry, and all else in proportion."""
    times = mm / art.depth_mm
    entries = []
    for entry in art.build_up:
        if isinstance(entry, PictureEntry):
            pins = [
                pin.model_copy(update={"mm": None if pin.mm is None else _times(pin.mm, times)})
                for pin in entry.pins
            ]
            changed = {"depth": _times(entry.depth, times), "pins": pins}
        else:
            changed = {"height": _times(entry.height, times)}
        entries.append(entry.model_copy(update=changed))
    return art.model_copy(update={"build_up": entries})


def _times(length: Length, factor: float) -> Length:
    return Length(mm=length.mm * factor)


def _engraved(text: str, at: tuple[float, float, float]) -> Decoration:
    words = TextEntry(
        id="",
        text=text,
        face="plain_heavy",
        capital=Length(mm=_CAPITAL_MM),
        rule="highest",
        height=Length(mm=_ENGRAVED_MM),
    )
    side = Length(mm=0.8 * _CAPITAL_MM * len(text))
    art = Art(
        extent=Extent(wide=side, tall=Length(mm=_CAPITAL_MM * 1.6)),
        backing=Length(mm=0.3),
        build_up=[words],
        edge=Edge(kind="along", margin=Length(mm=0.0)),
    )
    return Decoration(id="", art=art, at=at, up=(0.0, 1.0, 0.0), lie="straight", does="sink")
