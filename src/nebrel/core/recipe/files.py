"""The files that a recipe names."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel

from nebrel.core.errors import InvalidRecipe, NotFound
from nebrel.core.formats.files import is_sha256


def files_of(recipe: BaseModel | Any) -> list[str]:
    """SHA-256 of every file that a recipe or its document uses, in order, each once.

    Nothing else in a recipe is called `sha256`, so no new kind of file can be forgotten.

    Raises
    ------
    InvalidRecipe : what is named is no SHA-256; recipes within a recipe are plain documents
    """
    document = recipe.model_dump(mode="json") if isinstance(recipe, BaseModel) else recipe
    found = list(dict.fromkeys(_walk(document)))
    wrong = [name for name in found if not is_sha256(name)]
    if wrong:
        raise InvalidRecipe(
            "recipe",
            f"it names a file “{wrong[0][:80]}”, which is no SHA-256",
            "Bring the file, and begin with that",
        )
    return found


def names_of(recipe: BaseModel) -> dict[str, str]:
    """What each file of a recipe was called when it was brought, by its SHA-256."""
    found: dict[str, str] = {}

    def walk(value: Any) -> None:
        if isinstance(value, dict):
            if isinstance(value.get("sha256"), str) and value.get("filename"):
                found.setdefault(value["sha256"], value["filename"])
            for part in value.values():
                walk(part)
        elif isinstance(value, list):
            for part in value:
                walk(part)

    walk(recipe.model_dump(mode="json"))
    return found


def kinds_of(recipe: BaseModel) -> dict[str, str]:
    """What each file of a recipe is, by its SHA-256: a picture, a drawing or a mesh.

    A linked piece names its files as plain values: there they are told apart by what is beside.
    """
    found: dict[str, str] = {}

    def walk(value: Any, within: str) -> None:
        if isinstance(value, dict):
            if isinstance(value.get("sha256"), str):
                found.setdefault(value["sha256"], _KINDS.get(within, "picture"))
            kind = value.get("kind") if isinstance(value.get("kind"), str) else ""
            for part in value.values():
                walk(part, str(kind))
        elif isinstance(value, list):
            for part in value:
                walk(part, within)

    walk(recipe.model_dump(mode="json"), "")
    return found


_KINDS = {"mesh": "mesh", "drawing": "drawing", "network": "network"}  # what a file lies in


def lost(filename: str) -> NotFound:
    """A kept file is not there."""
    return NotFound(
        filename,
        "its file is missing from the data folder, or cut short",
        "Bring the same file again, and every piece made from it is whole again",
    )


def _walk(document: Any) -> Iterator[str]:
    if isinstance(document, dict):
        for key, value in document.items():
            if key == "sha256" and isinstance(value, str):
                yield value
            else:
                yield from _walk(value)
    elif isinstance(document, list):
        for value in document:
            yield from _walk(value)
