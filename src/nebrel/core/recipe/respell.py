"""Lengths typed in nozzle lines and print layers, when these change their worth."""

from __future__ import annotations

import re
from typing import Any

from nebrel.core.lengths import LengthUnits, parse_length
from nebrel.core.recipe.models import Recipe, load_recipe

_OF_THE_PRINTER = re.compile(r"\b(lines?|layers?)\b", re.IGNORECASE)


def respell(recipe: Recipe) -> Recipe:
    """The same recipe, what was typed in lines or layers worth what the printer's are.

    Raises
    ------
    InvalidValue : a length is outside its range then
    """
    values = _respelled(recipe.model_dump(mode="json"), recipe.made_with.printer.units)
    return load_recipe(values)


def _respelled(value: Any, units: LengthUnits) -> Any:
    if isinstance(value, list):
        return [_respelled(item, units) for item in value]
    if not isinstance(value, dict):
        return value
    text = value.get("text")
    if set(value) == {"mm", "text"} and isinstance(text, str) and _OF_THE_PRINTER.search(text):
        return {"mm": parse_length(text, units), "text": text}
    return {name: _respelled(item, units) for name, item in value.items()}
