"""What the worker processes do: all that makes solids, so that the server never stands still.

Long work leaves its results as files; what is asked while something is moved is answered at once.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from contextlib import suppress
from ctypes import c_char, c_double
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from nebrel.core.data import Mesh, Picture
from nebrel.core.errors import Cancelled, InvalidValue
from nebrel.core.formats.files import writing
from nebrel.core.formats.stl import write_stl
from nebrel.core.picture.decode import decode
from nebrel.core.products import PRODUCTS
from nebrel.core.recipe.evaluation import shown_glb
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.files import lost, names_of
from nebrel.core.recipe.models import Recipe, Triangles, load_recipe, picture_path

STEPS_LENGTH = 160
MOST_DRAWN = 1_200_000  # triangles that a browser draws as it is turned
_BEHIND = 10
_MESH = "full-quality mesh"
_LONG_BYTES, _MOVING_BYTES = 600_000_000, 300_000_000  # that a process keeps
_COARSE = 0.25  # of a screen pixel, as outlines are drawn about 1000 px wide


class Slots:
    """Shared memory between server and workers: share done, step and a wish to stop, per job."""

    def __init__(self, context: Any, count: int = 512) -> None:
        self.count = count
        # Without locks: a worker that is ended while it holds one would hold it for ever.
        self.done: Any = context.RawArray(c_double, count)
        self.stop: Any = context.RawArray(c_double, count)
        self.step: Any = context.RawArray(c_char, count * STEPS_LENGTH)

    def tell(self, slot: int, done: float, words: str) -> None:
        """Worker: report progress. Raises Cancelled when the server asked to stop."""
        if self.stop[slot]:
            raise Cancelled("work", "it was called off", "Start it again")
        self.done[slot] = done
        text = words.encode()[: STEPS_LENGTH - 1].ljust(STEPS_LENGTH, b"\0")
        self.step[slot * STEPS_LENGTH : (slot + 1) * STEPS_LENGTH] = text

    def words(self, slot: int) -> str:
        """Server: the step a job is at."""
        whole: bytes = self.step[slot * STEPS_LENGTH : (slot + 1) * STEPS_LENGTH]
        # Cut to its room, or read while it is written, it may end inside a letter.
        return whole.split(b"\0", 1)[0].decode("utf-8", "ignore")

    def clear(self, slot: int) -> None:
        """Server: make a slot ready for its next job."""
        self.done[slot] = self.stop[slot] = 0.0
        self.step[slot * STEPS_LENGTH] = b"\0"


class _Worker:
    """Lives as long as the process; keeps the evaluator's cache from job to job."""

    def __init__(self, folder: Path, slots: Slots | None) -> None:
        self.folder = folder
        self.slots = slots
        self.evaluator = Evaluator(self._load, _LONG_BYTES if slots else _MOVING_BYTES)
        self._names: dict[str, str] = {}

    def read(self, document: dict[str, Any]) -> Recipe:
        """A recipe; its files are called as it calls them from now on."""
        recipe = load_recipe(document)
        self._names |= names_of(recipe)
        return recipe

    def _load(self, sha256: str) -> Picture:
        path = picture_path(self.folder / "pictures", sha256)
        if not path.is_file():
            raise lost(self._names.get(sha256, "picture"))
        return decode(path, self._names.get(sha256, "picture"))


_worker: _Worker | None = None


def start(folder: Path, slots: Slots | None) -> None:
    """Initializer of a worker process.

    Parameters
    ----------
    slots : of long work; None where what is moved is answered
    """
    # What is moved under somebody's hand comes first; what it will be at rest can wait for it.
    if slots is not None:
        with suppress(OSError, AttributeError):
            os.nice(_BEHIND)
    global _worker  # noqa: PLW0603  one per process, the executor offers no other place
    _worker = _Worker(folder, slots)


def warm() -> None:
    """Load the heavy modules before somebody waits for them."""
    import manifold3d  # noqa: F401
    import pydelatin  # noqa: F401

    import nebrel.core.mesh.compiled  # noqa: F401
    from nebrel.core.solid import triangulate

    triangulate.warm()


def preview(document: dict[str, Any]) -> tuple[str, bytes]:
    """Key and GLB of a recipe at draft quality."""
    worker = _here()
    recipe = worker.read(document)
    result = worker.evaluator.evaluate(recipe, "draft")
    return result.key, shown_glb(recipe, result)


def outlines(document: dict[str, Any]) -> list[tuple[str, list[list[tuple[float, float]]]]]:
    """Where the entries of a build-up lie, by their ids, in shares of the piece."""
    worker = _here()
    size, laid = worker.evaluator.outlines(worker.read(document))
    found = []
    for entry_id, entry in laid.items():
        loops = []
        for loop in entry.outline.loops:
            shares = (loop / np.array(size) * (1, -1) + (0, 1)).astype(np.float32)
            simple = cv2.approxPolyDP(shares[:, None] * 1000, _COARSE, True)[:, 0] / 1000
            loops.append([(float(x), float(y)) for x, y in np.round(simple, 5)])
        found.append((entry_id, loops))
    return found


def draw_card(document: dict[str, Any], key: str) -> tuple[float, float]:
    """Leave the card of a recipe as `<key>.png` in the cache; its width and height, mm."""
    from nebrel.core.mesh.render import render

    worker = _here()
    recipe = worker.read(document)
    found = worker.evaluator.evaluate(recipe, "draft")
    image = render(found.mesh, standing=recipe.begins.form.standing)
    with writing(worker.folder / "cache" / f"{key}.png", "card") as file:
        file.write(image)
    return found.heights.wide_mm, found.heights.tall_mm


def wedge_stl(steps: int, thickest_mm: float, material: str) -> bytes:
    """A step wedge to print, as STL."""
    from nebrel.core.formats.stl import encode_stl
    from nebrel.core.proof.wedge import Wedge, make_wedge

    return encode_stl(make_wedge(Wedge(steps, thickest_mm, material)))


def make_full(document: dict[str, Any], slot: int) -> dict[str, Any]:
    """Evaluate at full quality; leaves `<key>.glb`, `<key>.npz` and `<key>.json` in the cache."""
    worker = _here()
    tell = _teller(slot)
    recipe = worker.read(document)
    result = worker.evaluator.evaluate(recipe, "full", tell)
    tell(0.88, "preparing the view")
    figures = result.figures()
    drawn = result
    if result.report.triangles > MOST_DRAWN:
        lighter = Triangles(detail="made", method="auto", most_triangles=MOST_DRAWN)
        shown = recipe.model_copy(update={"triangles": lighter})
        try:
            drawn = worker.evaluator.evaluate(shown, "full", tell)
        except InvalidValue:  # so rough that no tolerance keeps the limit: as it is while moved
            drawn = worker.evaluator.evaluate(recipe, "draft", tell)
        view = drawn.figures()
        figures["view"] = {"triangles": drawn.report.triangles, "finish": view["finish"]}
    base = worker.folder / "cache" / result.key
    with writing(base.with_suffix(".glb"), _MESH) as file:
        file.write(shown_glb(recipe, drawn, figures))
    tell(0.95, "keeping the mesh")
    with writing(base.with_suffix(".npz"), _MESH) as file:
        np.savez(file, vertices=result.mesh.vertices, faces=result.mesh.faces)
    with writing(base.with_suffix(".json"), _MESH) as file:
        file.write(json.dumps(figures).encode())
    return figures


def export(document: dict[str, Any], product: str, key: str, slot: int) -> dict[str, Any]:
    """Make a product of a recipe and leave it as `<key>` and its ending in the cache.

    Parameters
    ----------
    product : a name of PRODUCTS
    """
    worker = _here()
    recipe = worker.read(document)
    made = PRODUCTS[product]
    tell = _teller(slot)
    tell(0.0, f"making {made.called}")
    path = worker.folder / "cache" / f"{key}{made.ending}"
    if product == "piece.stl":
        _write_stl(worker, recipe, path, slot)
    else:
        made.write(worker.evaluator, recipe, path, tell)
    return {"key": key}


def _write_stl(worker: _Worker, recipe: Recipe, path: Path, slot: int) -> None:
    """From what the bench has made already, where it has."""
    base = worker.folder / "cache" / worker.evaluator.key_of(recipe, "full")
    if not base.with_suffix(".npz").exists():
        make_full(recipe.model_dump(mode="json"), slot)
    with np.load(base.with_suffix(".npz")) as kept:
        mesh = Mesh(kept["vertices"], kept["faces"])
    write_stl(mesh, path, "STL")


def _teller(slot: int) -> Callable[[float, str], None]:
    slots = _here().slots
    assert slots is not None

    def tell(done: float, words: str) -> None:
        slots.tell(slot, done, words)

    return tell


def _here() -> _Worker:
    if _worker is None:
        raise RuntimeError("not in a worker process")
    return _worker
