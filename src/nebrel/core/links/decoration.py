"""Links of decorations: art of its own, laid on the body before it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.forms.lying import Lying
from nebrel.core.kernel import Solid
from nebrel.core.links import relief
from nebrel.core.links.link import RUN, Link, later
from nebrel.core.links.relief import Quality, heights
from nebrel.core.links.shape import Shape
from nebrel.core.mesh.repair import repair
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import Recipe, ReliefBegin
from nebrel.core.solid.decorate import Does, Mirrored, decorate, lying_of
from nebrel.core.solid.spread import Placing, evened_for, spread

_TOLERANCE_MM, _DRAWN_MM = 0.004, 0.06
Places = tuple[Lying | Mirrored, ...]


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
        size: Link[tuple[float, float]] = heights(alone, quality).extent
        flat: Link[Any] = relief.flat(alone, quality)
        if one.times != 1 or one.deep_times != 1:
            size = Link(_sized, (size, one.times), "sizing", 0.01)
            flat = Link(_scaled, (flat, one.times, one.deep_times), "sizing", 0.1)
        # Each lies on the body alone, not on those before it: over their edges nothing lies well.
        coarse: tuple[Link[Mesh | None], ...] = ()
        if quality.draft and one.lie == "surface":
            coarse = (Link(_evened, (whole, size), "evening it", 1),)
        lying = whole, placing(one), size, quality.draft, coarse
        places: Link[Places] = Link(_spread, lying, "unrolling its surface", 1)
        given: tuple[Any, ...] = before, later(flat), later(places), later(size)
        level_mm = alone.relief.art.backing.mm * one.deep_times - one.lift.mm
        given = *given, level_mm, one.does, quality.draft, RUN
        found.append(Link(_decorated, given, "decorating it", 3, refused="as before"))
    return found


def placing(one: Decoration) -> Placing:
    """How a decoration is placed."""
    names = "at", "up", "turn", "lie", "level", "layout", "repeat", "rows"
    own = {name: getattr(one, name) for name in names}
    return Placing(**own, gap_mm=one.gap.mm, row_gap_mm=one.row_gap.mm, axis="xyz".index(one.axis))


def on_body(recipe: Recipe) -> list[Decoration]:
    """The decorations that are switched on."""
    return [] if recipe.body is None else [d for d in recipe.body.decorations if d.enabled]


def as_relief(recipe: Recipe, decoration: Decoration) -> Recipe:
    """The art of a decoration as a piece of its own."""
    art = decoration.art
    if decoration.lift.mm > 0:  # its plate, and what reaches into the body below that
        backing = Length(mm=art.backing.mm + decoration.lift.mm)
        art = art.model_copy(update={"backing": backing})
    begins = ReliefBegin(art=art)
    return recipe.model_copy(update={"begins": begins, "finish": []})


def _closed(begun: Shape) -> Shape:
    return begun if begun.report.manifold else begun.become(repair(begun.mesh).mesh)


def _sized(size_mm: tuple[float, float], times: float) -> tuple[float, float]:
    return size_mm[0] * times, size_mm[1] * times


def _scaled(art: Solid, times: float, deep_times: float) -> Solid:
    return art.scale((times, times, deep_times))


def _evened(before: Shape, size_mm: tuple[float, float]) -> Mesh | None:
    return evened_for(before.mesh, size_mm)


def _spread(
    before: Shape,
    how: Placing,
    size_mm: tuple[float, float],
    draft: bool,
    coarse: tuple[Mesh | None, ...],
) -> Places:
    """The surface around each place that it is laid on."""
    return spread(before.mesh, how, size_mm, draft, coarse[0] if coarse else None)


def _decorated(
    before: Shape,
    art: Callable[[float], Link[Solid]],
    places: Callable[[float], Link[Places]],
    size: Callable[[float], Link[tuple[float, float]]],
    level_mm: float,
    does: Does,
    draft: bool,
    run: Callable[[Link[Any]], Any],
) -> Shape:
    size_mm, flat, unrolled = run(size(0.0)), run(art(0.0)), run(places(0.0))
    tolerance = _DRAWN_MM if draft else _TOLERANCE_MM
    try:
        given = before.mesh, flat, level_mm, unrolled, size_mm, does, tolerance
        mesh, report = decorate(*given, draft)
    except NotSolid:
        if draft:  # made lighter the body may have come open
            return before
        raise
    least, most = zip(*(lying_of(place).stretch for place in unrolled), strict=True)
    round_mm = lying_of(unrolled[0]).round_mm
    stretch = min(least), max(most)
    return replace(before.become(mesh, report), stretch=stretch, round_mm=round_mm)
