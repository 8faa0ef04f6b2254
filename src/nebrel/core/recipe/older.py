"""Recipes of older schemas made into those of today: plain documents, before they are read.

What an upgrade does not know it passes on, so that the models refuse it by its name instead of
losing it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Document = dict[str, Any]

_OF_THE_PICTURE = ("sha256", "filename")
_OF_ITS_TONES = (
    "raised",
    "depth",
    "mapping",
    "pins",
    "smooth",
    "keep_edges",
    "compression",
    "profile",
    "cut_dropped",
)
_OF_THE_RELIEF = ("fittings", "holder", "lantern")
_MADE_WITH = ("printer", "material")
_FIRST = ("picture", "heights", "form", "finish", "light", *_OF_THE_RELIEF, *_MADE_WITH)


def upgrade(document: Document, to: int) -> Document:
    """The same recipe in a later schema.

    Parameters
    ----------
    document : of any schema; one that says nothing is of the first, unless it reads like a later
    to : the schema that is wanted
    """
    version = document.get("schema_version", to if "begins" in document else 1)
    while isinstance(version, int) and version in _UPGRADES and version < to:
        document = _UPGRADES[version](document)
        version = document["schema_version"]
    return document


def _from_1(old: Document) -> Document:
    """One picture on a form, in one chain."""
    picture, heights, form = (old.get(name, {}) for name in ("picture", "heights", "form"))
    art: Document = {"picture": picture}
    if isinstance(picture, dict) and picture:
        rest = _without(picture, _OF_THE_PICTURE)
        art["picture"] = {"file": _only(picture, _OF_THE_PICTURE), **rest}
    if isinstance(heights, dict):
        tones = _only(heights, _OF_ITS_TONES)
        entries = heights.get("build_up", [{"kind": "picture", "id": "picture"}])
        if isinstance(entries, list):
            entries = [_entry_from_1(entry, tones) for entry in entries]
        art |= _without(heights, (*_OF_ITS_TONES, "build_up")) | {"build_up": entries}
    else:
        art["build_up"] = heights
    begins: Document = {"kind": "relief", "art": art, **_only(old, _OF_THE_RELIEF)}
    if isinstance(form, dict) and form.get("kind") == "disc":
        art["edge"] = {"kind": "round"}
        form = form | {"kind": "panel"}
    if "form" in old:
        begins["form"] = form
    new: Document = {"schema_version": 2, "begins": begins}
    if "finish" in old:
        new["triangles"] = _triangles_from_1(old["finish"])
    if "light" in old:
        new["proof"] = {"light": old["light"]}
    made = _only(old, _MADE_WITH)
    if made:
        new["made_with"] = made
    return new | _without(old, (*_FIRST, "schema_version"))


def _entry_from_1(entry: Any, tones: Document) -> Any:
    if not isinstance(entry, dict):
        return entry
    if entry.get("kind") == "picture":
        return entry | tones
    if entry.get("kind") == "shape":
        rest = _without(entry, ("kind", "shape"))
        shape = {"outline": entry["shape"]} if "shape" in entry else {}
        return {"kind": "outline", **rest, **shape}
    return entry


def _triangles_from_1(finish: Any) -> Any:
    """A tolerance by itself, as it was written at first, means what it meant then."""
    if isinstance(finish, dict) and "tolerance" in finish and "detail" not in finish:
        return {"method": "greedy", **finish, "detail": "picture"}
    return finish


def _only(values: Document, names: tuple[str, ...]) -> Document:
    return {name: values[name] for name in names if name in values}


def _without(values: Document, names: tuple[str, ...]) -> Document:
    return {name: value for name, value in values.items() if name not in names}


_UPGRADES: dict[int, Callable[[Document], Document]] = {1: _from_1}
