"""The flat sheets that a build-up comes to, for a laser, an inlay, or several materials."""

from __future__ import annotations

from nebrel.core.choices import SheetWay
from nebrel.core.data import Mesh
from nebrel.core.errors import NotFound
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.writable import from_manifold
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import region_of
from nebrel.core.outline.sheets import as_sheets
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.build_up import FrameEntry, PictureEntry
from nebrel.core.recipe.models import Recipe

_TOLERANCE_MM = 0.01


def sheets_of(
    evaluator: Evaluator, recipe: Recipe, tell: Progress | None = None
) -> list[tuple[str, Outline]]:
    """Names and outlines of the sheets, from the lowest up: the backing, then every entry.

    Raises
    ------
    NebrelError : as `Evaluator.outline`; or nothing is left of any
    """
    art, sheets = recipe.relief.art, recipe.relief.sheets
    names, outlines = [], []
    if art.backing.mm > 0:
        names.append("backing")
        outlines.append((evaluator.backing(recipe), False))
    for entry in art.build_up:
        if not entry.enabled or isinstance(entry, PictureEntry):
            continue
        try:
            outline = evaluator.outline(recipe, entry.id, tell)
        except NotFound:  # lettering without a letter
            continue
        cuts = entry.rule == "cut"
        if not cuts:
            own = "frame" if isinstance(entry, FrameEntry) else entry.kind
            names.append(entry.name or own)
        outlines.append((outline, cuts))
    way: SheetWay = sheets.way
    found = as_sheets(outlines, way, sheets.clearance.mm)
    left = [(name, one) for name, one in zip(names, found, strict=True) if one is not None]
    return [(f"{number} {name}", one) for number, (name, one) in enumerate(left, 1)]


def sheet(found: list[tuple[str, Outline]], number: int) -> Outline:
    """The sheet of a number, from 1. Raises NotFound."""
    if not 1 <= number <= len(found):
        raise NotFound("sheet", f"there is no sheet {number}", f"There are {len(found)}")
    return found[number - 1][1]


def solid_sheet(outline: Outline, thick_mm: float) -> Mesh:
    """A sheet with its thickness. Raises NotSolid."""
    return from_manifold(region_of(outline).extrude(thick_mm), _TOLERANCE_MM)[0]
