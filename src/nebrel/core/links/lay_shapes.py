"""What becomes of an outline of the build-up: moved, thickened, bridged, or a wall along it."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import numpy as np

from nebrel.core.data import Loop
from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.formats.drawing import Drawing
from nebrel.core.heights.laid import Laid, show_stacks
from nebrel.core.kernel import non_zero
from nebrel.core.outline.bridges import bridged
from nebrel.core.outline.offsets import moved_out, thickened
from nebrel.core.outline.outline import Outline, all_of, moved
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.recipe.build_up import DrawingEntry
from nebrel.core.recipe.placed import Outlined, Wall
from nebrel.core.solid.cutter import Cutter, check, cutter_stacks, is_open, opening_of

_SHOWN_MM = 0.1  # the finest pitch that walls are shown with
_MOST_KNOWN = 40
Place = tuple[float, float]


def sized(drawing: Drawing, entry: DrawingEntry, doubts: list[NebrelError]) -> Outline:
    """A drawing about the origin, in its own size or in that of its entry.

    Parameters
    ----------
    doubts : what of it stays open is added to it
    """
    if entry.side is not None:
        drawing = drawing.scaled(entry.side.mm, entry.along)
    low, high = drawing.outline.bounds
    middle = (low + high) / 2
    if drawing.open_ends:
        ends = Outline((np.array(drawing.open_ends) - middle,))
        count = (len(drawing.open_ends) + 1) // 2
        doubts.append(
            InvalidValue(
                "drawing",
                "one line stays open and is left out"
                if count == 1
                else f"{count} lines stay open and are left out",
                "Join ends that are further apart, or close them where it was drawn",
            ).at(_in_place(entry, ends.loops[0]))
        )
    return drawing.outline.moved(*-middle)


def _in_place(entry: Outlined, places: Sequence[tuple[float, float]] | Loop) -> list[Place]:
    """Places about the origin where their entry lies, from the middle of the piece."""
    found = moved(np.asarray(places, np.float64), entry.x.mm, entry.y.mm, entry.turn)
    return [(float(x), float(y)) for x, y in found]


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
        found, places = _thickened_once(found, entry.least.mm)
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


def _thickened(entry: Outlined, places: list[Place]) -> NebrelError:
    count = "one place was" if len(places) == 1 else f"{len(places)} places were"
    return InvalidValue(
        "thinnest",
        f"{count} thinner than {entry.least.mm:g} mm and made as wide, marked in the picture",
        "Nothing is to be done, unless it should stay fine",
    ).at(_in_place(entry, places))


def _thickened_once(outline: Outline, least_mm: float) -> tuple[Outline, list[Place]]:
    """As `thickened`, known while the entry is moved about."""
    content = hashlib.sha256(str(least_mm).encode())
    for loop in outline.loops:
        content.update(loop.tobytes() + b"/")
    key = content.hexdigest()
    if key not in _known:
        if len(_known) >= _MOST_KNOWN:
            _known.clear()
        _known[key] = thickened(outline, least_mm)
    return _known[key]


_known: dict[str, tuple[Outline, list[Place]]] = {}


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
    if is_open(placed, sizes):
        whole = whole - region_of(opening_of(placed, sizes.gap))
    shown = show_stacks(stacks, max(_SHOWN_MM, coarse_mm))
    return Laid("highest", outline_of(whole), backing_mm + sizes.high, shown, stacks)
