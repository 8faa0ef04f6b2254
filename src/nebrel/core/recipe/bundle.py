"""A piece in one file: its recipe with its pictures."""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Callable, Mapping
from pathlib import Path

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidRecipe, NotFound, TooLarge, UnreadableFile
from nebrel.core.picture.decode import decode
from nebrel.core.recipe.models import Recipe, load_recipe

_MOST_BYTES = 1_000_000_000


def picture_names(recipe: Recipe) -> list[str]:
    """SHA-256 of every picture that a recipe uses."""
    names = [recipe.picture.sha256]
    names += [step.sha256 for step in recipe.picture.corrections if step.kind == "overlay"]
    for entry in recipe.heights.build_up:
        if entry.kind == "motif":
            names.append(entry.motif.sha256)
        elif entry.kind == "pattern" and entry.unit.kind == "motif":
            names.append(entry.unit.sha256)
    return list(dict.fromkeys(names))


def write_bundle(recipe: Recipe, files: Mapping[str, bytes]) -> bytes:
    """A recipe and the files of its pictures as JSON."""
    pictures = {name: base64.b64encode(files[name]).decode() for name in picture_names(recipe)}
    document = {"recipe": recipe.model_dump(mode="json"), "pictures": pictures}
    return json.dumps(document).encode()


def read_bundle(path: Path) -> tuple[Recipe, Callable[[str], Picture]]:
    """A recipe, and what gives its decoded pictures.

    Raises
    ------
    UnreadableFile, TooLarge : the file cannot be read
    InvalidRecipe, InvalidValue : it is not a piece exported from the bench
    """
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise TooLarge(path.name, "it is larger than 1 GB", "Export it again")
        document = json.loads(path.read_bytes())
    except OSError as error:
        reason = (error.strerror or "").lower()
        raise UnreadableFile(
            path.name, f"it cannot be read ({reason})", "Check the name"
        ) from error
    except (ValueError, RecursionError) as error:
        raise InvalidRecipe(path.name, "it is not JSON", "Export it again") from error
    if not isinstance(document, dict) or not isinstance(document.get("recipe"), dict):
        raise InvalidRecipe(path.name, "it holds no recipe", "Export it again from the bench")
    recipe = load_recipe(document["recipe"])
    pictures = document.get("pictures")
    files = pictures if isinstance(pictures, dict) else {}

    def load(sha256: str) -> Picture:
        text = files.get(sha256)
        if not isinstance(text, str):
            raise NotFound(path.name, "a picture of the recipe is missing", "Export it again")
        try:
            data = base64.b64decode(text, validate=True)
        except ValueError as error:
            raise UnreadableFile(path.name, "a picture is damaged", "Export it again") from error
        if hashlib.sha256(data).hexdigest() != sha256:
            raise UnreadableFile(path.name, "a picture is not the one named", "Export it again")
        return decode(data, recipe.picture.filename or "picture")

    return recipe, load
