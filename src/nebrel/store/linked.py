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
_MOST_LETTERS = 4_000_000
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

    Each piece is looked at once, however often it lies in others.

    Raises
    ------
    InvalidValue : a piece is made of itself, pieces lie too deep within each other, or come to
        too much
    """
    return _Looking(look).at(recipe, (own_id,))


class _Looking:
    """What was seen of pieces while one recipe is looked at."""

    def __init__(self, look: Look) -> None:
        self._look = look
        # By their ids: name, recipe as a document, and the letters of that.
        self._seen: dict[str, tuple[str, dict[str, Any], int] | None] = {}

    def at(self, recipe: Recipe, within: tuple[str, ...]) -> Recipe:
        """A recipe with those of its linked pieces; `within` which others it lies."""
        changed: dict[str, Any] = {}
        finish = [self._step(step, within) for step in recipe.finish]
        if not all(new is old for new, old in zip(finish, recipe.finish, strict=True)):
            changed["finish"] = finish
        begins = recipe.body
        if begins is not None and isinstance(begins.body, LinkedPiece):
            linked = self._linked(begins.body, within)
            if linked is not begins.body:
                changed["begins"] = begins.model_copy(update={"body": linked})
        found = recipe.model_copy(update=changed) if changed else recipe
        self._check_size(found)
        return found

    def _check_size(self, recipe: Recipe) -> None:
        """Pieces in pieces grow with every level: they are counted before they are written."""
        others = [step.other for step in recipe.finish if isinstance(step, JoinStep)]
        if recipe.body is not None:
            others.append(recipe.body.body)  # type: ignore[arg-type]
        letters = 0
        for other in others:
            if isinstance(other, LinkedPiece) and other.recipe is not None:
                seen = self._seen.get(other.piece_id)
                letters += seen[2] if seen else len(json.dumps(other.recipe))
        if letters > _MOST_LETTERS:
            raise InvalidValue(
                "piece",
                f"with all pieces that lie within it, it comes to {letters / 1e6:.1f} MB",
                f"Join it with fewer, or with simpler ones: at most {_MOST_LETTERS / 1e6:g} MB "
                "are kept of one",
            )

    def _step(self, step: Any, within: tuple[str, ...]) -> Any:
        if not isinstance(step, JoinStep) or not isinstance(step.other, LinkedPiece):
            return step
        linked = self._linked(step.other, within)
        return step if linked is step.other else step.model_copy(update={"other": linked})

    def _linked(self, linked: LinkedPiece, within: tuple[str, ...]) -> LinkedPiece:
        """The same with its recipe as it is by now; itself where nothing has changed."""
        if linked.piece_id in within:
            raise InvalidValue("piece", "it cannot be made of itself", "Choose another piece")
        if len(within) > _DEEPEST:
            raise InvalidValue(
                "piece", f"over {_DEEPEST} pieces lie within each other", "Choose another piece"
            )
        if linked.piece_id not in self._seen:
            self._seen[linked.piece_id] = self._see(linked.piece_id, within)
        seen = self._seen[linked.piece_id]
        if seen is None:
            return linked
        fresh = linked.model_copy(update={"name": seen[0], "recipe": seen[1]})
        return linked if fresh == linked else fresh

    def _see(
        self, piece_id: str, within: tuple[str, ...]
    ) -> tuple[str, dict[str, Any], int] | None:
        found = self._look(piece_id)
        if found is None:
            return None
        name, text = found
        try:
            recipe = self.at(load_recipe(text), (*within, piece_id))
        except InvalidValue:
            raise
        except NebrelError:  # it cannot be read: as it was
            return None
        document = recipe.model_dump(mode="json")
        return name, document, len(json.dumps(document))
