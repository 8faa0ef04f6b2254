"""A backing that follows a shape: where it ends, and the room that takes beside the picture."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from nebrel.core.errors import TooLarge
from nebrel.core.heights.laid import Laid
from nebrel.core.heights.relief import Relief
from nebrel.core.links.lay_out import Sheet
from nebrel.core.links.raise_relief import Tones, picture_outline
from nebrel.core.outline.backings import backing_around
from nebrel.core.outline.outline import Outline, all_of
from nebrel.core.outline.regions import outline_of, region_of, united
from nebrel.core.outline.shapes import ellipse, rectangle
from nebrel.core.recipe.art import Edge
from nebrel.core.recipe.build_up import Entry, FrameEntry, PictureEntry, TextEntry
from nebrel.core.recipe.length import Length

_MOST_PX = 200_000_000  # with the room beside the picture


def others(entries: Sequence[Entry]) -> list[Any]:
    """What is switched on and not the picture, nor lettering without a letter."""
    return [
        entry
        for entry in entries
        if entry.enabled
        and not isinstance(entry, PictureEntry)
        and not (isinstance(entry, TextEntry) and not entry.text.strip())
    ]


def giving_shape(entries: Sequence[Entry]) -> list[Any]:
    """What a backing that follows the shape goes around: what stands, or openings alone."""
    found = [entry for entry in others(entries) if not isinstance(entry, FrameEntry)]
    standing = [entry for entry in found if entry.rule in ("replace", "highest", "add")]
    return standing or [entry for entry in found if entry.rule == "cut"]


def edge_around(
    edge: Edge,
    laid: tuple[Laid | None, ...],
    kept: tuple[Tones, ...],
    size: tuple[float, float],
) -> Outline | None:
    """Where a backing ends that follows a shape, from the lower left of the picture.

    Parameters
    ----------
    laid : entries that give the shape
    kept : tones of the picture, where it counts
    size : of the picture, mm
    """
    outlines = [one.outline for one in laid if one is not None]
    outlines += [picture_outline(tones, size) for tones in kept]
    loops = all_of([outline for outline in outlines if outline])
    if not loops or edge.around is None:
        return None
    return backing_around(
        united(loops),
        edge.around,
        edge.margin.mm,
        edge.corner.mm,
        edge.gap.mm,
        edge.sides,
        edge.turn,
    )


def where_it_ends(
    follows: tuple[Outline | None, ...], size: tuple[float, float], round_edge: bool
) -> Outline:
    """Where the backing ends, whatever it is; `follows` is that of one that follows a shape."""
    found = follows[0] if follows else None
    if found is not None:
        return found
    wide, tall = size
    side = min(size)
    whole = ellipse(side, side) if round_edge else rectangle(wide, tall)
    return whole.moved(wide / 2, tall / 2)


def room_beside(
    edge: Outline | None,
    lain: tuple[Laid | None, ...],
    bare: Relief,
    around: bool,
    lean: tuple[float, Length],
) -> tuple[int, int]:
    """Pixels on each side, across and up, that all of it takes beside the picture.

    Parameters
    ----------
    lean : tangent of the draft, and the backing: leaning walls reach further at their foot
    """
    if around:
        return 0, 0
    tops = [one.mm for one in lain if one is not None and one.rule != "cut"]
    foot = lean[0] * max([lean[1].mm, *tops])
    outlines = [one.outline for one in lain if one is not None and one.rule != "cut"]
    outlines += [] if edge is None else [edge]
    bounds = [outline.bounds for outline in outlines if outline]
    found = []
    for axis, (side, pitch) in enumerate(zip(bare.size_mm, bare.field.pitch_mm, strict=True)):
        beyond = [max(-float(low[axis]), float(high[axis]) - side) for low, high in bounds]
        most = max([0.0, *(reach + foot for reach in beyond)])
        found.append(math.ceil(most / pitch) + 1 if most > 1e-6 else 0)
    return found[0], found[1]


def with_room(bare: Relief, room: tuple[int, int]) -> Relief:
    """A picture with that room beside it. Raises TooLarge."""
    rows, cols = bare.field.mm.shape
    pixels = (rows + 2 * room[1]) * (cols + 2 * room[0])
    if pixels > max(_MOST_PX, rows * cols):
        raise TooLarge(
            "backing",
            "it reaches so far beyond the picture that there is no memory for it",
            "Choose a smaller margin, or make the shape smaller",
        )
    return bare.with_room(*room)


def extent_of(plain: Relief) -> tuple[float, float]:
    """Width and height of all of it, mm."""
    return plain.size_mm


def with_edge(sheet: Sheet, edge: Outline | None) -> Sheet:
    """A sheet that ends where the backing does."""
    return replace(sheet, edge=edge)


def moved_by_room(laid: Laid | None, plain: Relief) -> Laid | None:
    """An entry from the lower left of all of it, not of the picture."""
    return laid if laid is None else laid.shifted(*plain.room_mm)


def cut_at_edge(edge: Outline | None, plain: Relief) -> Laid | None:
    """What is cut away beyond the edge; None where there is no shape to follow."""
    if edge is None:
        return None
    wide, tall = plain.size_mm
    whole = rectangle(wide + 20, tall + 20).moved(wide / 2, tall / 2)
    left = region_of(whole) - region_of(edge.moved(*plain.room_mm))
    return Laid("cut", outline_of(left), 0.0)


def ended(relief: Relief, cut: Laid | None, mirror: bool) -> Relief:
    """A relief that ends at an edge once it is turned over."""
    if cut is None:
        return relief
    return replace(relief, ends=cut.mirrored(relief.field.wide_mm) if mirror else cut)
