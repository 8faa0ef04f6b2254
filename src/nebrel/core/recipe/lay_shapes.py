"""What becomes of an outline of the build-up: moved, thickened, bridged, or a wall along it."""

from __future__ import annotations

from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.formats.drawing import Drawing
from nebrel.core.heights.laid import Laid, show_stacks
from nebrel.core.kernel import non_zero, outline_of, region_of
from nebrel.core.outline.bridges import bridged
from nebrel.core.outline.offsets import moved_out, thickened
from nebrel.core.outline.outline import Outline, all_of
from nebrel.core.recipe.build_up import DrawingEntry
from nebrel.core.recipe.placed import Outlined, Wall
from nebrel.core.solid.cutter import Cutter, check, cutter_stacks, opening_of

_SHOWN_MM = 0.1  # the finest pitch that walls are shown with
_NAMED = 4  # places of what is thin that a remark names


def sized(drawing: Drawing, entry: DrawingEntry) -> Outline:
    """A drawing about the origin, in its own size or in that of its entry."""
    outline = drawing.outline
    if entry.side is not None:
        outline = drawing.scaled(entry.side.mm, entry.along).outline
    low, high = outline.bounds
    return outline.moved(*(-(low + high) / 2))


def shaped(entry: Outlined, outline: Outline, line_mm: float, doubts: list[NebrelError]) -> Outline:
    """An outline about the origin after all that its entry does to it.

    Parameters
    ----------
    doubts : what was mended, or will hardly print, is added to it

    Raises
    ------
    InvalidValue : nothing is left
    """
    found = moved_out(outline, entry.grow.mm, entry.corners, entry.band)
    if entry.least.mm > 0:
        found, places = thickened(found, entry.least.mm)
        if places:
            doubts.append(_thickened(entry, places))
    if entry.bridges is not None and entry.rule == "cut":
        width = entry.bridges.wide.mm
        found = bridged(found, entry.bridges.count, width).outline
        if width < 2 * line_mm:
            doubts.append(
                InvalidValue(
                    "bridges",
                    f"{width:g} mm is less than two nozzle lines ({2 * line_mm:g} mm)",
                    f"The nearest that holds is {2 * line_mm:g} mm",
                )
            )
    return found


def _thickened(entry: Outlined, places: list[tuple[float, float]]) -> InvalidValue:
    """Where it was thin, in mm from the middle of the piece."""
    x, y = entry.x.mm, entry.y.mm
    named = [f"{a + x:.1f} right, {b + y:.1f} up" for a, b in places[:_NAMED]]
    more = f", and {len(places) - _NAMED} more" if len(places) > _NAMED else ""
    count = "one place was" if len(places) == 1 else f"{len(places)} places were"
    return InvalidValue(
        "thinnest",
        f"{count} thinner than {entry.least.mm:g} mm and made as wide: "
        f"{'; '.join(named)}{more} (mm from the middle)",
        "Nothing is to be done, unless it should stay fine",
    )


def cutter_of(wall: Wall, high_mm: float) -> Cutter:
    """Its sizes as a wall says."""
    return Cutter(
        wall.thick.mm,
        high_mm,
        wall.blade.mm,
        wall.blade_high.mm,
        wall.rim.mm,
        wall.rim_thick.mm,
        None if wall.details is None else wall.details.mm,
        wall.gap.mm,
    )


def walled(
    entry: Outlined, placed: Outline, backing_mm: float, line_mm: float, coarse_mm: float
) -> Laid:
    """A wall along an outline that lies in its place.

    Raises
    ------
    InvalidValue : it cannot be a cutter, or is to cut or to be added itself
    """
    assert entry.wall is not None
    if entry.rule not in ("replace", "highest"):
        raise InvalidValue(
            "wall", "it stands on its own, and cannot be cut or added", "Let it join by highest"
        )
    sizes = cutter_of(entry.wall, entry.height.mm)
    check(sizes, line_mm)
    stacks = cutter_stacks(placed, sizes, backing_mm)
    parts = [stack.contours[0][0] for stack in stacks]
    # All that stands around the opening, and what is carried within it.
    whole = non_zero(all_of(parts))
    if sizes.details is None:
        whole = whole - region_of(opening_of(placed, sizes.gap))
    shown = show_stacks(stacks, max(_SHOWN_MM, coarse_mm))
    return Laid("highest", outline_of(whole), backing_mm + sizes.high, shown, stacks)
