"""Pieces that others begin with, or are joined with: looked at anew whenever those are."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.recipe.body import LinkedPiece
from nebrel.core.recipe.finish import JoinStep
from nebrel.core.recipe.models import Recipe, load_recipe

_MARK = '"piece_id"'
_DEEPEST = 6  # pieces within pieces

Look = Callable[[str], tuple[str, str] | None]
"""From the id of a piece to its name and its recipe as it is kept; None where it is gone."""


def linked_ids(text: str | None) -> list[str]:
    """The pieces that a recipe as it is kept is joined with, through others, too; each once."""
    if not text or _MARK not in text:
        return []
    try:
        return list(dict.fromkeys(_walk(json.loads(text))))
    except (ValueError, RecursionError):
        return []


def _walk(document: Any) -> Iterator[str]:
    if isinstance(document, dict):
        if isinstance(document.get("piece_id"), str):
            yield document["piece_id"]
        for part in document.values():
            yield from _walk(part)
    elif isinstance(document, list):
        for part in document:
            yield from _walk(part)


def looked_at(recipe: Recipe, own_id: str, look: Look) -> Recipe:
    """The same with the recipes of linked pieces as they are by now; of those gone, as before.

    Raises
    ------
    InvalidValue : a piece is made of itself, or pieces lie too deep within each other
    """
    return _looked_at(recipe, (own_id,), look)


def _looked_at(recipe: Recipe, within: tuple[str, ...], look: Look) -> Recipe:
    changed: dict[str, Any] = {}
    finish = [_step(step, within, look) for step in recipe.finish]
    if not all(new is old for new, old in zip(finish, recipe.finish, strict=True)):
        changed["finish"] = finish
    begins = recipe.body
    if begins is not None and isinstance(begins.body, LinkedPiece):
        linked = _linked(begins.body, within, look)
        if linked is not begins.body:
            changed["begins"] = begins.model_copy(update={"body": linked})
    return recipe.model_copy(update=changed) if changed else recipe


def _step(step: Any, within: tuple[str, ...], look: Look) -> Any:
    if not isinstance(step, JoinStep) or not isinstance(step.other, LinkedPiece):
        return step
    linked = _linked(step.other, within, look)
    return step if linked is step.other else step.model_copy(update={"other": linked})


def _linked(linked: LinkedPiece, within: tuple[str, ...], look: Look) -> LinkedPiece:
    """The same with its recipe as it is by now; itself where nothing has changed."""
    if linked.piece_id in within:
        raise InvalidValue("piece", "it cannot be made of itself", "Choose another piece")
    if len(within) > _DEEPEST:
        raise InvalidValue(
            "piece", f"over {_DEEPEST} pieces lie within each other", "Choose another piece"
        )
    found = look(linked.piece_id)
    if found is None:
        return linked
    name, text = found
    try:
        recipe = _looked_at(load_recipe(text), (*within, linked.piece_id), look)
    except InvalidValue:
        raise
    except NebrelError:  # it cannot be read: as it was
        return linked
    fresh = linked.model_copy(update={"name": name, "recipe": recipe.model_dump(mode="json")})
    return linked if fresh == linked else fresh
