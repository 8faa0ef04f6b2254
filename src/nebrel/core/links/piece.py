"""Links of a whole piece: what it begins as, and its finish steps."""

from __future__ import annotations

from nebrel.core.links import body, relief
from nebrel.core.links.finish import finished
from nebrel.core.links.link import Link
from nebrel.core.links.relief import Quality
from nebrel.core.links.retriangulate import again
from nebrel.core.links.shape import Shape
from nebrel.core.recipe.finish import SimplifyStep
from nebrel.core.recipe.models import Recipe


def begun(recipe: Recipe, quality: Quality) -> Link[Shape]:
    """The mesh before any finish step."""
    if recipe.body is not None:
        return body.begun(recipe.body.body, quality.draft)
    return relief.shape(recipe, quality)


def stages(recipe: Recipe, quality: Quality) -> list[Link[Shape]]:
    """The mesh as it begins, and after each finish step that is switched on."""
    first = begun(recipe, quality)
    steps = [step for step in recipe.finish if step.enabled]
    if not steps or not isinstance(steps[0], SimplifyStep) or recipe.body or quality.draft:
        return [first, *finished(first, steps, quality.draft)]
    # Heights are made into triangles again: better than taking away from those there are.
    fewer = again(first, recipe, steps[0], quality)
    return [first, fewer, *finished(fewer, steps[1:], False)]


def shape(recipe: Recipe, quality: Quality) -> Link[Shape]:
    """The finished mesh."""
    return stages(recipe, quality)[-1]
