"""What the routes share: the store, the drafts, the jobs and the cache of finished files."""

from __future__ import annotations

from pathlib import Path

from nebrel.core.errors import NebrelError
from nebrel.core.formats.files import writing
from nebrel.core.formats.glb import encode_glb
from nebrel.core.mesh.shade import split_creases
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe
from nebrel.store import Store
from nebrel.web import work
from nebrel.web.jobs import Job, JobBoard
from nebrel.web.schemas import Figures

_CACHE_BYTES = 4_000_000_000


class Desk:
    """One per application."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.jobs = JobBoard(store.folder)
        self.drafts = Evaluator(store.load_picture, cache_bytes=300_000_000)
        self._prune()

    def close(self) -> None:
        """End the workers and let go of the database."""
        self.jobs.close()
        self.store.close()

    def draft_glb(self, recipe: Recipe) -> tuple[str, bytes]:
        """Key and GLB of a recipe at draft quality."""
        result = self.drafts.evaluate(recipe, "draft")
        shown, normals = split_creases(result.mesh)
        return result.key, encode_glb(shown, normals, result.figures())

    def start_full(self, piece_id: str, recipe: Recipe) -> Job:
        """Have a recipe made at full quality."""
        key = self.drafts.key_of(recipe, "full")
        return self.jobs.start(
            f"full:{key}", piece_id, work.make_full, recipe.model_dump(mode="json")
        )

    def full_path(self, recipe: Recipe) -> Path:
        """Where the full-quality GLB of a recipe lies once it is made."""
        return self.store.cache / f"{self.drafts.key_of(recipe, 'full')}.glb"

    def full_glb(self, piece_id: str, recipe: Recipe) -> Path:
        """The same, made first when it is not there."""
        path = self.full_path(recipe)
        if not path.exists():
            _wait(self.start_full(piece_id, recipe))
        return path

    def full_figures(self, recipe: Recipe) -> Figures | None:
        """Figures at full quality, when they are known."""
        path = self.full_path(recipe).with_suffix(".json")
        return Figures.model_validate_json(path.read_bytes()) if path.exists() else None

    def stl(self, piece_id: str, recipe: Recipe) -> Path:
        """The STL of a recipe, made first when it is not there."""
        path = self.full_path(recipe).with_suffix(".stl")
        if not path.exists():
            key = self.drafts.key_of(recipe, "full")
            _wait(
                self.jobs.start(
                    f"export:{key}", piece_id, work.export_stl, recipe.model_dump(mode="json")
                )
            )
        return path

    def thumbnail(self, recipe: Recipe) -> Path:
        """A rendered PNG of the recipe, made first when it is not there."""
        path = self.store.cache / f"{self.drafts.key_of(recipe, 'draft')}.png"
        if not path.exists():
            from nebrel.core.mesh.render import render

            image = render(self.drafts.evaluate(recipe, "draft").mesh)
            with writing(path, "card") as file:
                file.write(image)
        return path

    def _prune(self) -> None:
        """Drop the oldest finished files when the cache has grown too heavy."""
        files = sorted(
            (f for f in self.store.cache.iterdir() if f.is_file()),
            key=lambda f: f.stat().st_mtime,
            reverse=True,
        )
        weight = 0
        for file in files:
            weight += file.stat().st_size
            if weight > _CACHE_BYTES or file.suffix == ".part":
                file.unlink(missing_ok=True)


def _wait(job: Job) -> None:
    try:
        job.future.result()
    except NebrelError:
        raise
    except Exception as error:
        raise job.error() or error from error
