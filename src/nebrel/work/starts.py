"""What is asked of starts: which suits a picture, and a recipe set up for one."""

from __future__ import annotations

from typing import Any

from nebrel.core.choices import StartName
from nebrel.core.links.runner import Progress
from nebrel.core.questions.fresh_art import on_its_ground as without_ground
from nebrel.core.questions.starts import is_untouched, start, trace_tones
from nebrel.core.questions.suits import DRAWN, Seen, drawn_in, look_at, ranked
from nebrel.core.recipe.models import Recipe
from nebrel.work.worker import Worker


def suggest(worker: Worker, _: Progress, *, recipe: Recipe) -> dict[str, Any]:
    """The starts that suit a recipe, and why; only where nothing is set up yet."""
    if not is_untouched(recipe):
        return {"untouched": False, "suited": []}
    if drawn_in(recipe) is not None:
        found = DRAWN
    else:
        found = ranked(_seen(worker, recipe))
    suited = [{"start": name, "why": why} for name, why in found]
    return {"untouched": True, "suited": suited}


def begin(worker: Worker, _: Progress, *, recipe: Recipe, purpose: StartName) -> dict[str, Any]:
    """The document of a recipe set up for a purpose."""
    evaluator = worker.evaluator
    seen = _seen(worker, recipe)
    found = start(
        recipe,
        purpose,
        seen,
        lambda: evaluator.correct(recipe, "screen").work.tone,
        lambda one: evaluator.correct(one, "screen").work.size_mm,
    )
    return found.model_dump(mode="json")


def on_its_ground(worker: Worker, _: Progress, *, recipe: Recipe) -> dict[str, Any]:
    """The document of the art of a recipe, without the plain ground of its picture."""
    found = without_ground(recipe.relief.art, _seen(worker, recipe))
    return found.model_dump(mode="json")


def tones_traced(worker: Worker, _: Progress, *, recipe: Recipe) -> dict[str, Any]:
    """The document of a recipe with an entry for each flat tone of its picture."""
    evaluator = worker.evaluator
    seen = _seen(worker, recipe)
    found = trace_tones(recipe, seen, lambda: evaluator.correct(recipe, "screen").work.tone)
    return found.model_dump(mode="json")


def _seen(worker: Worker, recipe: Recipe) -> Seen:
    work = worker.evaluator.correct(recipe, "screen").work
    colours = work.pixels if work.pixels.ndim == 3 else None
    return look_at(work.tone, work.alpha, colours)
