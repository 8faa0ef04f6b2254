"""The pieces that go with a recipe's piece, each a mesh of its own."""

from __future__ import annotations

from typing import Any

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.relief import Relief
from nebrel.core.outline.lettering import letter
from nebrel.core.recipe.evaluation import form_spec
from nebrel.core.recipe.finishing import finishing
from nebrel.core.recipe.fittings import Part, Tabs
from nebrel.core.recipe.models import Recipe
from nebrel.core.solid import parts
from nebrel.core.solid.build import FormSpec, build, form_map
from nebrel.core.solid.cut import from_manifold, to_manifold
from nebrel.core.solid.lay import lay


def companion(recipe: Recipe, relief: Relief, part: Part) -> Mesh:
    """One of the pieces that go with the piece, standing on z = 0.

    Parameters
    ----------
    relief : of the recipe, at the quality that is wanted

    Raises
    ------
    InvalidValue : the recipe has no tabs for a holder, or its form is no side of a lantern
    """
    tolerance = finishing(recipe).tolerance_mm
    if part in ("holder", "cap"):
        solid = _of_holder(recipe, relief, part, tolerance)
    elif part in ("side", "base", "lid"):
        solid = _of_lantern(recipe, relief, part, tolerance)
    else:
        raise InvalidValue("part", f"a {part} is not made apart", "Choose holder, cap or a side")
    solid = solid.translate((0, 0, -solid.bounding_box()[2]))
    return from_manifold(solid, tolerance)[0]


def _slots(recipe: Recipe, relief: Relief) -> parts.Slots:
    tabs = next((f for f in recipe.fittings if isinstance(f, Tabs) and f.enabled), None)
    if tabs is None:
        raise InvalidValue("holder", "the piece has no tabs to hold it by", "Add tabs first")
    if recipe.form.kind not in ("panel", "arc"):
        raise InvalidValue(
            "holder", f"a {recipe.form.kind} does not slide into one", "Choose a panel or an arc"
        )
    own, field = recipe.holder, relief.field
    gap = tabs.clearance.mm
    return parts.Slots(
        field.wide_mm,
        field.tall_mm,
        tabs.wide.mm,
        tabs.slot.mm - gap,
        gap,
        own.wall.mm,
        own.base.mm,
        own.deep.mm,
    )


def _of_holder(recipe: Recipe, relief: Relief, part: Part, tolerance: float) -> Any:
    slots = _slots(recipe, relief)
    if part == "holder":
        flat = parts.holder(slots)
    else:
        flat = parts.cap(slots, recipe.holder.cap.mm, _letters(recipe, slots))
    bent = form_map(form_spec(recipe), relief)
    if bent is None:
        # Upright, as it stands.
        return flat.rotate((90, 0, 0))
    reach = max(slots.deep_mm + slots.wall_mm + slots.clearance_mm, 1)
    if reach >= bent.radius_mm:
        raise InvalidValue(
            "holder",
            f"a plate reaching {reach:g} mm back would pass the axis of the bend",
            f"The nearest that works is {max(1.0, 0.8 * bent.radius_mm - slots.wall_mm):.0f} mm",
        )
    return to_manifold(lay(flat, bent, tolerance * 0.5))


def _letters(recipe: Recipe, slots: parts.Slots) -> Any:
    from manifold3d import CrossSection, FillRule

    text = recipe.holder.lettering.strip()
    if not text:
        return None
    capital = 0.45 * recipe.holder.cap.mm
    loops = letter(text, "plain_heavy", capital)
    region = CrossSection(loops, FillRule.NonZero)
    low_x, _, high_x, _ = region.bounds()
    most = 0.9 * slots.wide_mm
    if high_x - low_x > most:
        region = region.scale((most / (high_x - low_x),) * 2)
    return region


def _of_lantern(recipe: Recipe, relief: Relief, part: Part, tolerance: float) -> Any:
    if recipe.form.kind != "panel":
        raise InvalidValue("lantern", f"a {recipe.form.kind} is no side of one", "Choose a panel")
    own, wide, thick = recipe.lantern, relief.field.wide_mm, relief.top_mm
    if part == "side":
        flat = to_manifold(build(relief, FormSpec(), tolerance).mesh)
        return parts.lantern_side(flat, wide, thick, own.sides)
    hole = own.vent.mm if part == "lid" else _socket(recipe)
    return parts.lantern_end(
        wide, thick, own.sides, own.thick.mm, own.lip.mm, own.clearance.mm, hole
    )


def _socket(recipe: Recipe) -> float:
    """The hole in the base: that of a socket among the fittings, or none."""
    found = next((f for f in recipe.fittings if f.kind == "socket"), None)
    return 0.0 if found is None else found.lamp.mm + found.clearance.mm
