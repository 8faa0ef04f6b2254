"""Links of a whole piece: what it begins as, and its finish steps."""

from __future__ import annotations

from nebrel.core.errors import NebrelError, NotFound
from nebrel.core.forms.on_picture import OnPicture
from nebrel.core.links import body, figure, relief
from nebrel.core.links.decoration import decorated
from nebrel.core.links.finish import finished
from nebrel.core.links.link import Link
from nebrel.core.links.pictured import on_picture
from nebrel.core.links.relief import Quality
from nebrel.core.links.retriangulate import again
from nebrel.core.links.shape import Shape
from nebrel.core.recipe.body import ImportedBody, LinkedPiece
from nebrel.core.recipe.finish import JoinStep, SimplifyStep
from nebrel.core.recipe.models import Recipe, ReliefBegin, load_recipe
from nebrel.core.recipe.ready import ReadyBody
from nebrel.core.solid.build import Built


def begun(recipe: Recipe, quality: Quality) -> Link[Shape]:
    """The mesh before any decoration and finish step."""
    if recipe.body is not None:
        return body.moved(other(recipe.body.body, quality), recipe.body)
    if recipe.figure is not None:
        return figure.begun(recipe.figure, quality)
    return relief.shape(recipe, quality)


def other(source: ImportedBody | LinkedPiece | ReadyBody, quality: Quality) -> Link[Shape]:
    """A body by what it is: from a file, of the shelf, or a ready shape."""
    if isinstance(source, ImportedBody):
        return body.begun(source, quality.draft)
    if not isinstance(source, LinkedPiece):
        return body.ready(source, quality.draft)
    try:
        found = shape(recipe_of(source), quality)
    except NebrelError as error:  # said where it is asked for: all else goes on
        return Link(_refuse, (error.what, error.why, error.remedy), "reading the piece", 0.01)
    return Link(_alone, (found,), "reading the piece", 0.01)


def _alone(found: Shape) -> Shape:
    """A piece as a body: nothing of how it was made is asked for any more."""
    return Shape(Built(found.mesh, report=found.report), found.report)


def stages(recipe: Recipe, quality: Quality) -> list[Link[Shape]]:
    """The mesh with its decorations, and after each finish step that is switched on."""

    def joined(step: JoinStep) -> Link[Shape]:
        """What a step joins with."""
        return other(step.other, quality)

    bare = begun(recipe, quality)
    first = [bare, *decorated(bare, recipe, quality)][-1]

    def picture() -> Link[OnPicture]:
        """Where it lies on its picture."""
        return on_picture(recipe, quality, first)

    steps = [step for step in recipe.finish if step.enabled]
    heights = isinstance(recipe.begins, ReliefBegin) and not quality.draft
    if not steps or not isinstance(steps[0], SimplifyStep) or not heights:
        return [first, *finished(first, steps, quality.draft, joined, picture)]
    # Heights are made into triangles again: better than taking away from those there are.
    fewer = again(first, recipe, steps[0], quality)
    return [first, fewer, *finished(fewer, steps[1:], False, joined, picture)]


def _refuse(what: str, why: str, remedy: str) -> Shape:
    raise NotFound(what, why, remedy)


def recipe_of(linked: LinkedPiece) -> Recipe:
    """The recipe of a linked piece.

    Raises
    ------
    NotFound : it was never looked at
    InvalidRecipe : it cannot be read
    """
    if linked.recipe is None:
        raise NotFound(linked.name or "piece", "it is not on this shelf", "Choose another piece")
    return load_recipe(linked.recipe)


def shape(recipe: Recipe, quality: Quality) -> Link[Shape]:
    """The finished mesh."""
    return stages(recipe, quality)[-1]
