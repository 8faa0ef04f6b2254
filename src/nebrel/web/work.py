"""What the worker process does: long evaluations and exports, results left as files."""

from __future__ import annotations

import json
from collections.abc import Callable
from ctypes import c_char, c_double
from multiprocessing.sharedctypes import Synchronized, SynchronizedArray
from pathlib import Path
from typing import Any

import numpy as np

from nebrel.core.data import Mesh, Picture
from nebrel.core.errors import Cancelled
from nebrel.core.formats.files import writing
from nebrel.core.formats.stl import write_stl
from nebrel.core.picture.decode import decode
from nebrel.core.recipe.evaluation import shown_glb
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe, picture_path

STEPS_LENGTH = 40
_MESH = "full-quality mesh"


class Slots:
    """Shared memory between server and workers: share done, step and a wish to stop, per job."""

    def __init__(self, context: Any, count: int = 64) -> None:
        self.count = count
        self.done: SynchronizedArray[float] = context.Array(c_double, count)
        self.stop: SynchronizedArray[float] = context.Array(c_double, count)
        self.step: Synchronized[bytes] = context.Array(c_char, count * STEPS_LENGTH)

    def tell(self, slot: int, done: float, words: str) -> None:
        """Worker: report progress. Raises Cancelled when the server asked to stop."""
        if self.stop[slot]:
            raise Cancelled("work", "it was called off", "Start it again")
        self.done[slot] = done
        text = words.encode()[: STEPS_LENGTH - 1].ljust(STEPS_LENGTH, b"\0")
        self.step.get_obj()[slot * STEPS_LENGTH : (slot + 1) * STEPS_LENGTH] = text  # type: ignore[index]

    def words(self, slot: int) -> str:
        """Server: the step a job is at."""
        whole: bytes = self.step.get_obj()[slot * STEPS_LENGTH : (slot + 1) * STEPS_LENGTH]  # type: ignore[index]
        return whole.rstrip(b"\0").decode()

    def clear(self, slot: int) -> None:
        """Server: make a slot ready for its next job."""
        self.done[slot] = self.stop[slot] = 0.0


class _Worker:
    """Lives as long as the process; keeps the evaluator's cache from job to job."""

    def __init__(self, folder: Path, slots: Slots) -> None:
        self.folder = folder
        self.slots = slots
        self.evaluator = Evaluator(self._load)

    def _load(self, sha256: str) -> Picture:
        return decode(picture_path(self.folder / "pictures", sha256), "picture")


_worker: _Worker | None = None


def start(folder: Path, slots: Slots) -> None:
    """Initializer of the worker process."""
    global _worker  # noqa: PLW0603  one per process, the executor offers no other place
    _worker = _Worker(folder, slots)


def warm() -> None:
    """Load the heavy modules before somebody waits for them."""
    import manifold3d  # noqa: F401
    import pydelatin  # noqa: F401


def make_full(document: dict[str, Any], slot: int) -> dict[str, Any]:
    """Evaluate at full quality; leaves `<key>.glb`, `<key>.npz` and `<key>.json` in the cache."""
    worker = _here()
    tell = _teller(slot)
    recipe = load_recipe(document)
    result = worker.evaluator.evaluate(recipe, "full", tell)
    tell(0.9, "preparing the view")
    figures = result.figures()
    base = worker.folder / "cache" / result.key
    with writing(base.with_suffix(".glb"), _MESH) as file:
        file.write(shown_glb(recipe, result))
    with writing(base.with_suffix(".npz"), _MESH) as file:
        np.savez(file, vertices=result.mesh.vertices, faces=result.mesh.faces)
    with writing(base.with_suffix(".json"), _MESH) as file:
        file.write(json.dumps(figures).encode())
    return figures


def export_stl(document: dict[str, Any], slot: int) -> dict[str, Any]:
    """Write `<key>.stl` in the cache, evaluating first when that was not done yet."""
    worker = _here()
    key = worker.evaluator.key_of(load_recipe(document), "full")
    base = worker.folder / "cache" / key
    if not base.with_suffix(".npz").exists():
        make_full(document, slot)
    with np.load(base.with_suffix(".npz")) as kept:
        mesh = Mesh(kept["vertices"], kept["faces"])
    write_stl(mesh, base.with_suffix(".stl"), "STL")
    return {"key": key}


def _teller(slot: int) -> Callable[[float, str], None]:
    worker = _here()

    def tell(done: float, words: str) -> None:
        worker.slots.tell(slot, done, words)

    return tell


def _here() -> _Worker:
    if _worker is None:
        raise RuntimeError("not in a worker process")
    return _worker
