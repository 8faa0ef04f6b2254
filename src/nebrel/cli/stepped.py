"""Commands that do what a finish step of the bench does: with its limits, and its refusals."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

_MOST_BYTES = 50_000_000


def keep_stepped(options: argparse.Namespace, kind: str, **given: Any) -> None:
    """Write the mesh that an option names after one finish step.

    Parameters
    ----------
    kind : of the step, as a recipe calls it
    given : what it says; None where it is left to the step

    Raises
    ------
    InvalidRecipe, InvalidValue : a number is outside what the step takes
    """
    from pydantic import TypeAdapter, ValidationError

    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.links.finish import DO
    from nebrel.core.recipe.explain import explain
    from nebrel.core.recipe.finish import FinishStep

    said = {name: value for name, value in given.items() if value is not None}
    try:
        step = TypeAdapter(FinishStep).validate_python({"id": kind, "kind": kind, **said})
    except ValidationError as error:
        # Named as the option is: without which step it is.
        first: dict[str, Any] = dict(error.errors()[0])
        first["loc"] = tuple(part for part in first["loc"] if part != kind)
        raise explain([first], exact=True) from error
    mesh = mesh_from(options)
    found, _, done = DO[type(step)](mesh, step, False, lambda: None)
    keep_mesh(options, found, done=done)


def mm(value: float | None) -> dict[str, float] | None:
    """A length as a recipe has it."""
    return None if value is None else {"mm": value}


def strokes_of(path: Path) -> Any:
    """Strokes of a brush, as a recipe has them, from a JSON file.

    Raises
    ------
    UnreadableFile : it is not there, too large, or no JSON; what it says the step looks at
    """
    import json

    from nebrel.core.errors import UnreadableFile

    try:
        if path.stat().st_size > _MOST_BYTES:
            raise UnreadableFile(path.name, "it is too large for strokes", "Bring fewer of them")
        return json.loads(path.read_bytes())
    except OSError as error:
        why = (error.strerror or str(error)).lower()
        raise UnreadableFile(path.name, why, "Check the name of the file") from error
    except (ValueError, RecursionError) as error:
        remedy = 'Write it as in [{"places": [[0, 0, 5]], "size": 4, "strength": 0.5}]'
        raise UnreadableFile(path.name, "it is no JSON", remedy) from error
