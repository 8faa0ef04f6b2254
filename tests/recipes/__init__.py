"""Where things lie in a recipe as it is sent and kept."""

from typing import Any


def art_of(recipe: dict[str, Any]) -> dict[str, Any]:
    """What is laid on the form."""
    found: dict[str, Any] = recipe["begins"]["art"]
    return found


def pictured(recipe: dict[str, Any]) -> dict[str, Any]:
    """Its picture, with the size and the corrections."""
    found: dict[str, Any] = art_of(recipe)["picture"]
    return found


def tones_of(recipe: dict[str, Any]) -> dict[str, Any]:
    """The entry that says what the tones become."""
    entries: list[dict[str, Any]] = art_of(recipe)["build_up"]
    return next(entry for entry in entries if entry["kind"] == "picture")
