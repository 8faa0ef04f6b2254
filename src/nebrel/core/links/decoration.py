"""Links of decorations: art of its own, laid on the body before it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from math import hypot
from typing import Any

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.forms.unrolled import Unrolled, evened, unroll
from nebrel.core.kernel import Solid
from nebrel.core.links import relief
from nebrel.core.links.link import RUN, Link, later
from nebrel.core.links.relief import Quality, heights
from nebrel.core.links.shape import Shape
from nebrel.core.mesh.place import about, middle_of
from nebrel.core.mesh.repair import repair
from nebrel.core.recipe.decoration import Decoration, Place
from nebrel.core.recipe.models import Recipe, ReliefBegin
from nebrel.core.solid.decorate import Does, decorate

_TOLERANCE_MM, _DRAWN_MM = 0.004, 0.06
_BEYOND = 1.02  # of what is needed around the middle


def decorated(begun: Link[Shape], recipe: Recipe, quality: Quality) -> list[Link[Shape]]:
    """The body after each decoration that is switched on; one that is refused leaves it as it was.

    Parameters
    ----------
    begun : the body alone
    """
    found: list[Link[Shape]] = []
    # What is laid on must be closed; what was brought may not be, and is mended first.
    whole: Link[Shape] = Link(_closed, (begun,), "repairing it", 1, refused="as before")
    for one in on_body(recipe):
        before = found[-1] if found else whole
        alone = as_relief(recipe, one)
        size = heights(alone, quality).extent
        flat = relief.flat(alone, quality)
        # Each lies on the body alone, not on those before it: over their edges nothing lies well.
        coarse: tuple[Link[Mesh | None], ...] = ()
        if quality.draft:
            coarse = (Link(_evened, (whole, size), "evening it", 1),)
        lying = one.at, one.up, one.turn, one.repeat, one.axis, size, quality.draft, coarse
        places: Link[tuple[Unrolled, ...]] = Link(
            _unrolled, (whole, *lying), "unrolling its surface", 1
        )
        given: tuple[Any, ...] = before, later(flat), later(places), later(size)
        given = *given, one.art.backing, one.does, quality.draft, RUN
        found.append(Link(_decorated, given, "decorating it", 3, refused="as before"))
    return found


def on_body(recipe: Recipe) -> list[Decoration]:
    """The decorations that are switched on."""
    return [] if recipe.body is None else [d for d in recipe.body.decorations if d.enabled]


def as_relief(recipe: Recipe, decoration: Decoration) -> Recipe:
    """The art of a decoration as a piece of its own."""
    begins = ReliefBegin(art=decoration.art)
    return recipe.model_copy(update={"begins": begins, "finish": []})


def _closed(begun: Shape) -> Shape:
    return begun if begun.report.manifold else begun.become(repair(begun.mesh).mesh)


def _evened(before: Shape, size_mm: tuple[float, float]) -> Mesh | None:
    return evened(before.mesh, _reach(size_mm))


def _reach(size_mm: tuple[float, float]) -> float:
    return hypot(*size_mm) / 2 * _BEYOND


def _unrolled(
    before: Shape,
    at: Place,
    up: Place,
    turn: float,
    repeat: int,
    axis: str,
    size_mm: tuple[float, float],
    draft: bool,
    coarse: tuple[Mesh | None, ...],
) -> tuple[Unrolled, ...]:
    """The surface around each place that it is laid on."""
    found = coarse[0] if coarse else None
    middle = np.array(middle_of(before.mesh))
    places = []
    for number in range(repeat):
        round_ = about("xyz".index(axis), 360 * number / repeat)
        there = tuple((round_ @ (np.array(at) - middle) + middle).tolist())
        ahead = tuple((round_ @ np.array(up)).tolist())
        places.append(unroll(before.mesh, there, ahead, turn, _reach(size_mm), draft, found))
    return tuple(places)


def _decorated(
    before: Shape,
    art: Callable[[float], Link[Solid]],
    places: Callable[[float], Link[tuple[Unrolled, ...]]],
    size: Callable[[float], Link[tuple[float, float]]],
    backing: Any,
    does: Does,
    draft: bool,
    run: Callable[[Link[Any]], Any],
) -> Shape:
    size_mm, flat, unrolled = run(size(0.0)), run(art(0.0)), run(places(0.0))
    tolerance = _DRAWN_MM if draft else _TOLERANCE_MM
    try:
        given = before.mesh, flat, backing.mm, unrolled, size_mm, does, tolerance
        mesh, report = decorate(*given, draft)
    except NotSolid:
        if draft:  # made lighter the body may have come open
            return before
        raise
    least, most = zip(*(place.stretch for place in unrolled), strict=True)
    return replace(before.become(mesh, report), stretch=(min(least), max(most)))
