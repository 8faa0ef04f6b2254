"""What the routes share: the store, the drafts, the jobs and the cache of finished files."""

from __future__ import annotations

from collections import OrderedDict
from pathlib import Path
from typing import Annotated, Literal

from fastapi import Depends, Request

from nebrel.core.errors import NebrelError
from nebrel.core.formats.files import writing
from nebrel.core.formats.png import encode_png
from nebrel.core.picture.report import Finding, Printing, report
from nebrel.core.recipe.evaluation import Corrected, shown_glb
from nebrel.core.recipe.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe
from nebrel.store import Store
from nebrel.store.store import Card
from nebrel.web import work
from nebrel.web.jobs import Job, JobBoard
from nebrel.web.schemas import Figures

_CACHE_BYTES = 4_000_000_000
_KEPT_REPORTS = 6


class Desk:
    """One per application."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.jobs = JobBoard(store.folder)
        self.drafts = Evaluator(store.load_picture, cache_bytes=300_000_000)
        # Apart from the drafts, so that a piece follows while its picture is worked on.
        self.screens = Evaluator(store.load_picture, cache_bytes=300_000_000)
        self.originals = Evaluator(store.load_picture, cache_bytes=700_000_000)
        self._reports: OrderedDict[str, list[Finding]] = OrderedDict()
        self._prune()

    def close(self) -> None:
        """End the workers and let go of the database."""
        self.jobs.close()
        self.store.close()

    def draft_glb(self, recipe: Recipe) -> tuple[str, bytes]:
        """Key and GLB of a recipe at draft quality."""
        result = self.drafts.evaluate(recipe, "draft")
        return result.key, shown_glb(recipe, result)

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

            standing = recipe.form.kind in ("arc", "tube", "globe")
            image = render(self.drafts.evaluate(recipe, "draft").mesh, standing=standing)
            with writing(path, "card") as file:
                file.write(image)
        return path

    def size_of(self, piece: Card) -> tuple[float, float] | None:
        """Width and height after corrections, or None when these leave them alone."""
        if piece.recipe is None or not any(c.enabled for c in piece.recipe.picture.corrections):
            return None
        try:
            return self.drafts.correct(piece.recipe, "draft").size_mm
        except NebrelError:
            return None  # the card says what the recipe says; the bench says what is wrong

    def corrected(
        self, recipe: Recipe, quality: Literal["screen", "full"], upto: int | None = None
    ) -> Corrected:
        """The picture of a recipe after its corrections."""
        evaluator = self.screens if quality == "screen" else self.originals
        return evaluator.correct(recipe, quality, upto)

    def report(self, recipe: Recipe) -> list[Finding]:
        """What of the corrected picture will not print as meant; kept for a while."""
        corrected = self.originals.correct(recipe, "full")
        depth = recipe.heights.depth.mm
        units = recipe.printer.units
        key = f"{corrected.key}:{corrected.work.pitch_mm}:{depth}:{units}"
        if key not in self._reports:
            self._reports[key] = report(
                corrected.work,
                Printing(
                    depth_mm=depth,
                    line_mm=units.line_mm,
                    layer_mm=units.layer_mm,
                ),
            )
            while len(self._reports) > _KEPT_REPORTS:
                self._reports.popitem(last=False)
        return self._reports[key]

    def corrected_png(self, recipe: Recipe) -> bytes:
        """The corrected picture as a 16-bit PNG with its resolution."""
        work = self.originals.correct(recipe, "full").work
        return encode_png(work.tone, work.alpha, 25.4 / work.pitch_mm)

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


def file_name(name: str) -> str:
    """A name that any file system takes."""
    return "".join("-" if c in '<>:"/\\|?*' else c for c in name).strip(". ") or "piece"


def attachment(name: str) -> dict[str, str]:
    """The header that has a browser save an answer under a name."""
    plain = file_name(name).encode("ascii", "replace").decode().replace("?", "-")
    return {"Content-Disposition": f'attachment; filename="{plain}"'}


def _desk(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


OnDesk = Annotated[Desk, Depends(_desk)]
