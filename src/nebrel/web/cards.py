"""The rendered pictures on the shelf's cards, made one after another behind everything else."""

from __future__ import annotations

import threading
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from nebrel.core.errors import Cancelled
from nebrel.core.formats.files import writing
from nebrel.core.recipe.correct import PictureSource
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe

_CACHE_BYTES = 100_000_000


class Cards:
    """Makes the cards that are wanted and not there.

    Parameters
    ----------
    pictures : gives the decoded picture by the SHA-256 of its file
    folder : where finished cards lie
    """

    def __init__(self, pictures: PictureSource, folder: Path) -> None:
        self._folder = folder
        # Apart from the drafts of the bench, which would have to wait for it.
        self._evaluator = Evaluator(pictures, cache_bytes=_CACHE_BYTES)
        self._pool = ThreadPoolExecutor(1, "cards")
        self._wanted: dict[str, Future[None]] = {}
        self._failed: set[str] = set()
        self._lock = threading.Lock()
        self._closing = False

    def key_of(self, recipe: Recipe) -> str:
        """Changes with whatever the card shows."""
        return self._evaluator.key_of(recipe, "draft")

    def path(self, recipe: Recipe) -> Path | None:
        """Where the finished card lies; None while it is not there."""
        path = self._folder / f"{self.key_of(recipe)}.png"
        return path if path.exists() else None

    def want(self, recipe: Recipe) -> bool:
        """Have a card made when it is not there; whether it is still to come."""
        key = self.key_of(recipe)
        with self._lock:
            if self._closing or key in self._failed or (self._folder / f"{key}.png").exists():
                return False
            if key not in self._wanted:
                self._wanted[key] = self._pool.submit(self._make, key, recipe)
        return True

    def close(self) -> None:
        """Make no more of them."""
        self._closing = True
        self._pool.shutdown(wait=True, cancel_futures=True)

    def _make(self, key: str, recipe: Recipe) -> None:
        from nebrel.core.mesh.render import render

        try:
            mesh = self._evaluator.evaluate(recipe, "draft", self._going_on).mesh
            image = render(mesh, standing=recipe.begins.form.standing)
            with writing(self._folder / f"{key}.png", "card") as file:
                file.write(image)
        except Exception:  # whatever the reason: the bench says it, the card shows the picture
            self._failed.add(key)
        finally:
            with self._lock:
                self._wanted.pop(key, None)

    def _going_on(self, _done: float, _words: str) -> None:
        if self._closing:
            raise Cancelled("card", "the server stops", "Start it again")
