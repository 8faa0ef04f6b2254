"""What is asked of the finished mesh of a recipe."""

from __future__ import annotations

from contextlib import suppress
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import NotFound
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.section import cut_by_plane
from nebrel.core.questions.evaluator import key_of
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

_MOST_POINTS = 6000


def cut(
    worker: Worker,
    tell: Progress,
    *,
    recipe: Recipe,
    across: Literal["x", "y"],
    at_mm: float,
    before: str | None,
) -> dict[str, Any]:
    """Where an upright plane cuts the mesh: as it was made last at full quality, or a draft.

    Parameters
    ----------
    before : a finish step; what was there before it is cut, too
    """
    mesh, full = _mesh(worker, recipe, tell)
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    was: list[Any] = []
    if before is not None:
        with suppress(NotFound):
            earlier = worker.evaluator.around(recipe, before, tell, "draft")[0]
            was = _plain(cut_by_plane(earlier, across, at_mm))
            low = np.minimum(low, earlier.vertices.min(axis=0))
            high = np.maximum(high, earlier.vertices.max(axis=0))
    return {
        "lines": _plain(cut_by_plane(mesh, across, at_mm)),
        "before": was,
        "low_mm": [round(float(side), 4) for side in low],
        "high_mm": [round(float(side), 4) for side in high],
        "line_mm": recipe.made_with.printer.line_mm,
        "layer_mm": recipe.made_with.printer.layer_mm,
        "quality": "full" if full else "draft",
    }


def _mesh(worker: Worker, recipe: Recipe, tell: Progress) -> tuple[Mesh, bool]:
    name = f"{key_of(recipe, 'full')}.npz"
    if worker.seen is not None and worker.seen[0] == name:
        return worker.seen[1], True
    with suppress(NotFound, OSError, ValueError):
        with np.load(worker.depot.load("result", name)) as kept:
            found = Mesh(kept["vertices"], kept["faces"])
        worker.seen = name, found
        return found, True
    return worker.evaluator.evaluate(recipe, "draft", tell).mesh, False


def _plain(lines: list[NDArray[np.float64]]) -> list[list[list[float]]]:
    """Lines for the screen: of very many places every second, or fewer."""
    step = 1 + sum(map(len, lines)) // _MOST_POINTS
    thinned = (np.concatenate([line[:-1:step], line[-1:]]) for line in lines)
    return [line.round(4).tolist() for line in thinned]
