"""The rendered pictures on the shelf's cards, made one after another behind everything else."""

from __future__ import annotations

import threading
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from pathlib import Path

from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.models import Recipe, ReliefBegin
from nebrel.store import Store
from nebrel.store.store import CardFacts, Piece
from nebrel.work.depot import FolderDepot
from nebrel.work.run import run
from nebrel.work.tasks import Task


class Cards:
    """Makes the cards that are wanted and not there, and keeps the sizes that they come to.

    Parameters
    ----------
    lane : where they are drawn; one at a time, so that all else comes in between
    """

    def __init__(self, store: Store, lane: Executor, depot: FolderDepot) -> None:
        self._store, self._folder, self._lane, self._depot = store, store.cache, lane, depot
        self._pool = ThreadPoolExecutor(1, "cards")
        self._wanted: dict[str, Future[None]] = {}
        self._failed: set[str] = set()
        self._lock = threading.Lock()
        self._closing = False

    def key_of(self, recipe: Recipe) -> str:
        """Changes with whatever the card shows."""
        from nebrel.core.questions.evaluator import key_of

        return key_of(recipe, "draft")

    def facts(self, of: str, piece: Piece) -> CardFacts:
        """What the shelf shows of a piece, as far as it is known without evaluating anything."""
        recipe, (wide, tall) = piece.recipe, piece.uncorrected_mm
        sized = not recipe.finish and wide > 0
        if isinstance(recipe.begins, ReliefBegin):
            # What follows a shape is as large as that turns out to be.
            art = recipe.begins.art
            sized = sized and not art.corrected and art.edge.around is None
        return CardFacts(
            of=of,
            key=self.key_of(piece.recipe),
            form=piece.recipe.form_kind,
            wide_mm=wide,
            tall_mm=tall,
            sized=sized,
            files=files_of(piece.recipe),
        )

    def path(self, recipe: Recipe) -> Path | None:
        """Where the finished card lies; None while it is not there."""
        path = self._folder / f"{self.key_of(recipe)}.png"
        return path if path.exists() else None

    def want(self, piece_id: str, facts: CardFacts) -> bool:
        """Have a card made when it is not there; whether it is still to come."""
        key = facts.key
        there = facts.sized and (self._folder / f"{key}.png").exists()
        with self._lock:
            if self._closing or key in self._failed or there:
                return False
            if key not in self._wanted:
                self._wanted[key] = self._pool.submit(self._make, key, piece_id)
        return True

    def close(self) -> None:
        """Make no more of them; the one under way ends with its lane."""
        self._closing = True
        self._pool.shutdown(wait=False, cancel_futures=True)

    def _make(self, key: str, piece_id: str) -> None:
        try:
            recipe = self._store.piece(piece_id).recipe
            if self.key_of(recipe) != key:
                return  # changed meanwhile: its new card is asked for by itself
            task = Task("card", {"recipe": recipe.model_dump(mode="json"), "key": key})
            size = self._lane.submit(run, self._depot, task).result()
            if not self._closing:
                self._store.keep_size(key, *size)
        except Exception:  # whatever the reason: the bench says it, the card shows the picture
            self._failed.add(key)
        finally:
            with self._lock:
                self._wanted.pop(key, None)
