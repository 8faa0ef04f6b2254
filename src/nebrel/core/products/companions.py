"""The pieces that go with a recipe's piece, each a mesh of its own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from nebrel.core.choices import Part
from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.relief import Relief
from nebrel.core.kernel import Region, Solid, non_zero, solid_of
from nebrel.core.links.finishing import finishing
from nebrel.core.links.lay_map import lay_map
from nebrel.core.links.lay_shapes import cutter_of
from nebrel.core.links.runner import Progress
from nebrel.core.mesh.writable import from_manifold
from nebrel.core.outline.lettering import letter
from nebrel.core.outline.outline import Outline
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.fittings import Fitting, Holder, Lantern, Tabs
from nebrel.core.recipe.forms import Form, called_so
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.placed import Outlined, Wall
from nebrel.core.solid import parts
from nebrel.core.solid.build import build
from nebrel.core.solid.lay import lay
from nebrel.core.solid.stamp import stamp_for


@dataclass(frozen=True)
class Company:
    """What the pieces that go with a piece are made by.

    Attributes
    ----------
    mirror : the piece is turned left for right, and what fits it as well
    wall, wall_mm : of the first cutter in its build-up, and how high that is
    """

    form: Form
    round_edge: bool
    fittings: Sequence[Fitting]
    holder: Holder
    lantern: Lantern
    tolerance_mm: float
    mirror: bool = False
    wall: Wall | None = None
    wall_mm: float = 0.0


def company_of(recipe: Recipe) -> Company:
    """What a recipe says of them."""
    own = recipe.relief
    cutter = cutter_in(recipe)
    return Company(
        own.form,
        own.round,
        own.fittings,
        own.holder,
        own.lantern,
        finishing(recipe).tolerance_mm,
        own.art.mirror,
        None if cutter is None else cutter.wall,
        0.0 if cutter is None else cutter.height.mm,
    )


def cutter_in(recipe: Recipe) -> Outlined | None:
    """The first entry of the build-up that is a cutter's wall, and switched on."""
    walls = (
        entry
        for entry in recipe.relief.art.build_up
        if isinstance(entry, Outlined) and entry.enabled and entry.wall is not None
    )
    return next(walls, None)


def without_wall(recipe: Recipe, entry: Outlined) -> Recipe:
    """A recipe whose cutter is the shape that it cuts."""
    plain = entry.model_copy(update={"wall": None})
    art = recipe.relief.art
    build_up = [plain if one.id == entry.id else one for one in art.build_up]
    changed = art.model_copy(update={"build_up": build_up})
    begins = recipe.relief.model_copy(update={"art": changed})
    return recipe.model_copy(update={"begins": begins})


def part_of(evaluator: Evaluator, recipe: Recipe, part: Part, tell: Progress | None = None) -> Mesh:
    """One of the pieces that go with that of a recipe, at full quality.

    Raises
    ------
    NebrelError : as `companion`, and whatever the recipe itself refuses
    """
    own, cutter = company_of(recipe), cutter_in(recipe)
    if part == "stamp" and cutter is not None:
        shape = evaluator.outline(without_wall(recipe, cutter), cutter.id, tell)
        return companion(own, None, part, shape)
    return companion(own, evaluator.relief(recipe, tell), part)


def companion(own: Company, relief: Relief | None, part: Part, cut: Outline | None = None) -> Mesh:
    """One of the pieces that go with the piece, standing on z = 0.

    Parameters
    ----------
    relief : of the piece, at the quality that is wanted; a stamp needs none
    cut : what its cutter cuts out, where it has one

    Raises
    ------
    InvalidValue : the piece has no tabs for a holder, its form is no side of a lantern, or there
        is no cutter for a stamp
    """
    if part == "stamp":
        solid = _of_cutter(own, cut)
    elif relief is None:
        raise InvalidValue("part", f"a {part} needs the piece's heights", "Give them")
    elif part in ("holder", "cap"):
        solid = _of_holder(own, relief, part)
    elif part in ("side", "base", "lid"):
        solid = _of_lantern(own, relief, part)
    else:
        raise InvalidValue("part", f"a {part} is not made apart", "Choose holder, cap or a side")
    solid = solid.translate((0, 0, -solid.bounding_box()[2]))
    return from_manifold(solid, own.tolerance_mm)[0]


def _of_cutter(own: Company, cut: Outline | None) -> Solid:
    if own.wall is None or cut is None:
        raise InvalidValue(
            "stamp", "there is no cutter that it could slide in", "Begin as a cutter first"
        )
    sizes = cutter_of(own.wall, own.wall_mm)
    return stamp_for(cut.mirrored(0.0) if own.mirror else cut, sizes, own.wall.clearance.mm)


def _slots(own: Company, relief: Relief) -> parts.Slots:
    tabs = next((f for f in own.fittings if isinstance(f, Tabs) and f.enabled), None)
    if tabs is None:
        raise InvalidValue("holder", "the piece has no tabs to hold it by", "Add tabs first")
    if own.round_edge or not own.form.slides:
        called = called_so(own.form, own.round_edge)
        raise InvalidValue(
            "holder", f"a {called} does not slide into one", "Choose a panel or an arc"
        )
    frame, field = own.holder, relief.field
    gap = tabs.clearance.mm
    return parts.Slots(
        field.wide_mm,
        field.tall_mm,
        tabs.wide.mm,
        tabs.slot.mm - gap,
        gap,
        frame.wall.mm,
        frame.base.mm,
        frame.deep.mm,
    )


def _of_holder(own: Company, relief: Relief, part: Part) -> Solid:
    slots = _slots(own, relief)
    if part == "holder":
        flat = parts.holder(slots)
    else:
        flat = parts.cap(slots, own.holder.cap.mm, _letters(own.holder, slots))
    bent = lay_map(own.form, relief)
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
    return solid_of(lay(flat, bent, own.tolerance_mm * 0.5))


def _letters(holder: Holder, slots: parts.Slots) -> Region | None:
    text = holder.lettering.strip()
    if not text:
        return None
    capital = 0.45 * holder.cap.mm
    loops = letter(text, "plain_heavy", capital)
    region = non_zero(loops)
    low_x, _, high_x, _ = region.bounds()
    most = 0.9 * slots.wide_mm
    if high_x - low_x > most:
        region = region.scale((most / (high_x - low_x),) * 2)
    return region


def _of_lantern(own: Company, relief: Relief, part: Part) -> Solid:
    if own.round_edge or not own.form.flat:
        called = called_so(own.form, own.round_edge)
        raise InvalidValue("lantern", f"a {called} is no side of one", "Choose a panel")
    lantern, wide, thick = own.lantern, relief.field.wide_mm, relief.top_mm
    if part == "side":
        flat = solid_of(build(relief, None, own.tolerance_mm).mesh)
        return parts.lantern_side(flat, wide, thick, lantern.sides)
    hole = lantern.vent.mm if part == "lid" else _socket(own.fittings)
    return parts.lantern_end(
        wide, thick, lantern.sides, lantern.thick.mm, lantern.lip.mm, lantern.clearance.mm, hole
    )


def _socket(fittings: Sequence[Fitting]) -> float:
    """The hole in the base: that of a socket among the fittings, or none."""
    found = next((f for f in fittings if f.kind == "socket"), None)
    return 0.0 if found is None else found.lamp.mm + found.clearance.mm
