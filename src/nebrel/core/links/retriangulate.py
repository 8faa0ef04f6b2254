"""A relief with fewer triangles: its heights are made into triangles again, more coarsely."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from nebrel.core.errors import InvalidValue
from nebrel.core.formats.meshes import write_mesh
from nebrel.core.links import relief
from nebrel.core.links.link import RUN, Family, Link
from nebrel.core.links.relief import Quality
from nebrel.core.links.shape import Shape
from nebrel.core.recipe.finish import SimplifyStep
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import Recipe

_LEAST = 100  # triangles that a limit may ask for
_TRIES = 6


def again(before: Link[Shape], recipe: Recipe, step: SimplifyStep, quality: Quality) -> Link[Shape]:
    """The shape of a relief, as one step after it asks for fewer triangles.

    Parameters
    ----------
    before : the shape without that step, which stays where it is refused
    """

    def within(tolerance_mm: float) -> Link[Shape]:
        changed = {"tolerance": Length(mm=tolerance_mm), "most_triangles": None, "most_mb": None}
        return relief.shape(_with(recipe, changed), quality)

    def no_more(count: float) -> Link[Shape]:
        own = recipe.triangles.most
        most = int(count) if own is None else min(int(count), own)
        return relief.shape(_with(recipe, {"most_triangles": most, "most_mb": None}), quality)

    family = Family(within, 0.1) if step.to == "deviation" else Family(no_more, 100_000)
    given = before, family, step, RUN
    return Link(_again, given, "simplifying it", 5, refused="as before")


def _with(recipe: Recipe, changed: dict[str, Any]) -> Recipe:
    triangles = recipe.triangles.model_copy(update=changed)
    return recipe.model_copy(update={"triangles": triangles, "finish": []})


def _again(
    before: Shape,
    of: Callable[[float], Link[Shape]],
    step: SimplifyStep,
    run: Callable[[Link[Shape]], Shape],
) -> Shape:
    count, own_mm = before.report.triangles, before.built.tolerance_mm
    if step.to == "deviation":
        # What it is already off counts, too.
        allowed = step.deviation.mm - own_mm
        return _fewer(before, run(of(allowed))) if allowed > own_mm else before
    if step.to != "size":
        most = step.triangles if step.to == "triangles" else max(4, int(count * step.share))
        return before if most >= count else _fewer(before, run(of(most)))
    with TemporaryDirectory() as folder:
        path = Path(folder) / f"tried.{step.format}"
        most_bytes, found = int(step.mb * 1e6), before
        for _ in range(_TRIES):
            there = write_mesh(found.mesh, path)
            if there <= most_bytes:
                return found
            fewer = int(found.report.triangles * min(0.98, most_bytes / there * 0.995))
            if fewer < _LEAST:
                break
            found = run(of(fewer))
    raise InvalidValue(
        "size", f"no mesh of it is as small as {step.mb:g} MB as {step.format}", "Allow more"
    )


def _fewer(before: Shape, found: Shape) -> Shape:
    return found if found.report.triangles < before.report.triangles else before
