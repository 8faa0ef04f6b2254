"""Long work: it leaves files in the depot."""

from __future__ import annotations

import json
from contextlib import suppress
from functools import partial
from typing import Any

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import NotFound
from nebrel.core.formats.files import writing
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.render import render
from nebrel.core.products.table import Making, product_of, seen_standing
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import key_of
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker

_MESH = "full-quality mesh"


def card(worker: Worker, tell: Progress, *, recipe: Recipe, key: str) -> tuple[float, float]:
    """Leave the shelf's picture of a recipe as `<key>.png`; its width and height, mm."""
    found = worker.evaluator.evaluate(recipe, "draft", tell)
    if found.raised is None:
        wide, tall, _ = found.report.size_mm
    else:
        begins = recipe.relief
        if recipe.finish or (begins.form.flat and begins.art.edge.around is not None):
            wide, tall, _ = found.report.size_mm
        else:
            wide, tall = found.heights.wide_mm, found.heights.tall_mm
    image = render(found.mesh, standing=seen_standing(recipe, found.mesh))
    with worker.depot.put(f"{key}.png") as path, writing(path, "card") as file:
        file.write(image)
    return float(wide), float(tall)


def product(
    worker: Worker, tell: Progress, *, recipe: Recipe, name: str, key: str, called: str = ""
) -> dict[str, Any] | None:
    """Leave a product of a recipe as its key and ending; figures, where it has some.

    Parameters
    ----------
    name : as `product_of`
    called : the piece's name
    """
    made = product_of(name)
    tell(0.0, f"making {made.called}")
    making = _Making(worker, recipe, tell, called)
    with worker.depot.put(f"{key}{made.ending}") as path:
        figures = made.write(making, path)
    if figures is not None:
        with worker.depot.put(f"{key}.json") as path, writing(path, _MESH) as file:
            file.write(json.dumps(figures).encode())
    return figures


class _Making(Making):
    """What one process made of a mesh, the other need not make again."""

    def __init__(self, worker: Worker, recipe: Recipe, tell: Progress, called: str) -> None:
        file = partial(worker.depot.load, "picture")
        super().__init__(recipe, worker.evaluator, file, tell, called)
        self._depot = worker.depot
        self._name = f"{key_of(recipe, 'full')}.npz"

    def evaluation(self) -> Evaluation:
        """As Making; its mesh is kept."""
        found = super().evaluation()
        self.tell(0.87, "keeping the mesh")
        with self._depot.put(self._name) as path, writing(path, _MESH) as file:
            mesh = found.mesh
            none = np.zeros((0, 4), np.uint8)
            colours = none if mesh.colours is None else mesh.colours
            np.savez(file, vertices=mesh.vertices, faces=mesh.faces, colours=colours)
        return found

    def mesh(self) -> Mesh:
        """As Making."""
        with suppress(NotFound), np.load(self._depot.load("result", self._name)) as kept:
            colours = kept["colours"] if len(kept["colours"]) else None
            return Mesh(kept["vertices"], kept["faces"], colours=colours)
        return self.evaluation().mesh
