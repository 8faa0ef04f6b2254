"""Links of decorations: art of its own, laid on the body before it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any, Literal

import numpy as np

from nebrel.core.data import Mesh, Picture
from nebrel.core.errors import NotSolid
from nebrel.core.forms.lying import Lying
from nebrel.core.kernel import Solid, mesh_of
from nebrel.core.links import picture, relief
from nebrel.core.links.finish import MOST_COLOURED
from nebrel.core.links.link import RUN, Link, file, later
from nebrel.core.links.picture import Corrected
from nebrel.core.links.pictured import coloured
from nebrel.core.links.relief import Quality, heights
from nebrel.core.links.shape import Lain, Shape
from nebrel.core.mesh.painted import painted
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.smooth import Stroke
from nebrel.core.mesh.textured import Region, Tile, textured
from nebrel.core.recipe.decoration import Decoration, FadeStroke, TextureDecoration
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import Recipe, ReliefBegin
from nebrel.core.solid.decorate import Does, Mirrored, decorate, lying_of
from nebrel.core.solid.edges import edge_under
from nebrel.core.solid.shaped import FadeTo, faded, parted, with_fillet
from nebrel.core.solid.spread import Placing, Room, evened_for, reach_known_again, spread

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
    whole = closed_body(begun)
    for one in on_body(recipe):
        before = found[-1] if found else whole
        if isinstance(one, TextureDecoration):
            found.append(_texture(one, before, quality))
        else:
            found.append(_decoration(recipe, one, whole, before, quality))
    return found


def _texture(one: TextureDecoration, before: Link[Shape], quality: Quality) -> Link[Shape]:
    shown: Link[Picture] = file("picture", one.file.sha256)
    given = before, shown, one, quality.draft
    return Link(_textured, given, "texturing it", 4, refused="as before")


def _decoration(
    recipe: Recipe, one: Decoration, whole: Link[Shape], before: Link[Shape], quality: Quality
) -> Link[Shape]:
    alone = as_relief(recipe, one)
    places, size = _lying(recipe, one, whole, quality)
    if one.does == "colour":
        picture_of = alone.relief.art.pictured
        shown = picture.corrected(picture_of, quality.longest_px)
        mirror = one.art.mirror
        own = before, shown, picture.original(picture_of), later(places), later(size)
        given: tuple[Any, ...] = *own, mirror, quality.draft, RUN
        return Link(_painted, given, "colouring it", 3, refused="as before")
    level_mm = alone.relief.art.backing.mm * one.deep_times - one.lift.mm
    fades = one.fade_to, one.fade.mm, _of_spots(one.fade_strokes if one.fade_to == "brush" else ())
    parts = one.parts if one.does in ("raise", "sink", "both") else []
    alone_in_it = tuple((part.spot, part.depth.mm) for part in parts)
    shape = one.times, one.deep_times, level_mm, fades, one.fillet.mm, alone_in_it
    # Only what is pointed at in the art is told in shares of its size.
    sized: tuple[Link[tuple[float, float]], ...] = (size,) if alone_in_it or fades[2] else ()
    bare = relief.flat(alone, quality)
    flat: Link[Shaped] = Link(_shaped, (bare, *shape, sized), "shaping it", 0.3)
    given = before, later(flat), later(places), later(size), level_mm, one.does
    return Link(
        _decorated,
        (*given, one.clearance.mm, quality.draft, RUN),
        "decorating it",
        3,
        refused="as before",
    )


def _lying(
    recipe: Recipe,
    one: Decoration,
    whole: Link[Shape],
    quality: Quality,
    refused: Literal["raised", "nothing"] = "raised",
) -> tuple[Link[Places], Link[tuple[float, float]]]:
    """The surface around each place of a decoration, and how large it is, mm."""
    size: Link[tuple[float, float]] = heights(as_relief(recipe, one), quality).extent
    if one.times != 1:
        size = Link(_sized, (size, one.times), "sizing", 0.01)
    # Each lies on the body alone, not on those before it: over their edges nothing lies well.
    flat = () if one.does == "colour" else (relief.flat(as_relief(recipe, one), quality),)
    room: Link[Room] = Link(_room, (size, flat, one.times, one.fillet.mm), "sizing", 0.01)
    lying = whole, placing(one), size, quality.draft, room, later(whole), RUN
    return Link(_spread, lying, "unrolling its surface", 1, refused=refused), size


def lying_on(
    begun: Link[Shape], recipe: Recipe, quality: Quality
) -> list[tuple[Link[Places], Link[tuple[float, float]]]]:
    """How each decoration that is switched on lies, and its size; none where it is refused."""
    whole = closed_body(begun)
    laid = [one for one in on_body(recipe) if isinstance(one, Decoration)]
    return [_lying(recipe, one, whole, quality, "nothing") for one in laid]


def lying_of_one(
    begun: Link[Shape], recipe: Recipe, one: Decoration, quality: Quality
) -> tuple[Link[Places], Link[tuple[float, float]]]:
    """How one decoration lies, and its size."""
    whole = closed_body(begun)
    return _lying(recipe, one, whole, quality)


def placing(one: Decoration) -> Placing:
    """How a decoration is placed."""
    names = "at", "up", "turn", "lie", "level", "layout", "repeat", "rows", "line"
    own = {name: getattr(one, name) for name in names}
    return Placing(**own, gap_mm=one.gap.mm, row_gap_mm=one.row_gap.mm, axis="xyz".index(one.axis))


def on_body(recipe: Recipe) -> list[Decoration | TextureDecoration]:
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


def closed_body(begun: Link[Shape]) -> Link[Shape]:
    """The body, closed; it says what had to be mended for that."""
    return Link(_closed, (begun,), "making sure it is closed", 1, refused="as before")


def _closed(begun: Shape) -> Shape:
    if begun.report.manifold:
        return begun
    mended = repair(begun.mesh)
    return begun.become(mended.mesh, mended.report, mended.done)


def _sized(size_mm: tuple[float, float], times: float) -> tuple[float, float]:
    return size_mm[0] * times, size_mm[1] * times


Spots = tuple[tuple[float, float], ...]
Shaped = tuple[Solid, tuple[tuple[Solid, Does], ...]]
"""Flat art, and those of its parts that are laid in another way."""


def _of_spots(strokes: Iterable[FadeStroke]) -> tuple[tuple[Spots, float], ...]:
    return tuple((tuple(stroke.spots), stroke.wide) for stroke in strokes)


def _shaped(
    art: Solid,
    times: float,
    deep_times: float,
    level_mm: float,
    fades: tuple[FadeTo, float, tuple[tuple[Spots, float], ...]],
    fillet_mm: float,
    parts: tuple[tuple[tuple[float, float], float], ...],
    sized: tuple[tuple[float, float], ...],
) -> Shaped:
    """Art as it is laid: as large as wanted, fading, rounded where it meets the surface."""
    wide, tall = sized[0] if sized else (0.0, 0.0)
    whole = art if times == deep_times == 1 else art.scale((times, times, deep_times))
    at = tuple((((u + 0.5) * wide, (v + 0.5) * tall), deep) for (u, v), deep in parts)
    left, own = parted(whole, at, level_mm) if parts else (whole, [])
    fade_to, fade_mm, strokes = fades
    runs = [((np.array(spots) + 0.5) * (wide, tall), share * wide) for spots, share in strokes]

    def finished(solid: Solid) -> Solid:
        if fade_to != "none" and (runs or fade_to != "brush") and not solid.is_empty():
            solid = faded(solid, fade_to, fade_mm, level_mm, runs)
        return with_fillet(solid, fillet_mm, level_mm) if fillet_mm > 0 else solid

    laid: list[tuple[Solid, Does]] = [
        (finished(part), "raise" if deep > 0 else "sink") for part, deep in own
    ]
    return finished(left), tuple(laid)


def _textured(before: Shape, shown: Picture, one: TextureDecoration, draft: bool) -> Shape:
    tones = shown.tone if one.raised == "light" else 1 - shown.tone
    beyond = ("xyz".index(one.beyond_axis), one.beyond.mm, one.keep == "above")
    strokes = [Stroke(np.asarray(s.places), s.size.mm, s.strength.mm) for s in one.strokes]
    region = Region(
        facing=(one.facing, one.aside) if one.where == "facing" else None,
        beyond=beyond if one.where == "beyond" else None,
        strokes=strokes if one.where == "brush" else None,
        fade_mm=one.fade.mm,
    )
    detail = None if one.detail is None else one.detail.mm
    made = textured(
        before.mesh,
        Tile(tones, one.tile.mm),
        one.depth.mm,
        one.way,
        region,
        one.lie,
        "xyz".index(one.axis),
        one.turn,
        detail,
        draft,
    )
    return before.become(made)


def _painted(
    before: Shape,
    shown: Corrected,
    original: Picture,
    places: Callable[[float], Link[Places]],
    size: Callable[[float], Link[tuple[float, float]]],
    mirror: bool,
    draft: bool,
    run: Callable[[Link[Any]], Any],
) -> Shape:
    size_mm, lain = run(size(0.0)), run(places(0.0))
    colours = coloured(shown, original)
    kept = shown.work.alpha
    alpha = np.ones(colours.shape[:2], np.float32) if kept is None else kept
    pixels = np.dstack([colours, alpha]).astype(np.float32)
    mesh = before.mesh
    fine, most = (1.0, 60_000) if draft else (0.15, MOST_COLOURED)
    for place in lain:
        mirrored = mirror != isinstance(place, Mirrored)
        own = lying_of(place).place
        mesh = painted(mesh, own, size_mm, pixels, mirrored, fine, most + len(before.mesh.faces))
    return replace(before.become(mesh), laid=_laid(lain, size_mm))


def _laid(places: Places, size_mm: tuple[float, float]) -> Lain:
    least, most = zip(*(lying_of(place).stretch for place in places), strict=True)
    first = lying_of(places[0])
    wide, tall = size_mm
    sides = np.array([(0.0, 0.0, 0.0), (wide / 2, 0.0, 0.0), (0.0, tall / 2, 0.0)])
    grips = tuple((x, y, z) for x, y, z in np.round(first.place(sides), 4).tolist())
    return Lain((min(least), max(most)), first.round_mm, grips)


def _room(
    size_mm: tuple[float, float], flat: tuple[Solid, ...], times: float, fillet_mm: float
) -> Room:
    """Where there is any art: what is round needs no room for corners."""
    half = np.array(size_mm) / 2
    off = np.array([-half, half])
    if flat and not flat[0].is_empty():
        off = mesh_of(flat[0]).vertices[:, :2].astype(np.float64) * times - half
    return Room.of(off, size_mm, fillet_mm)


def _evened(before: Shape, reach_mm: float) -> Mesh | None:
    return evened_for(before.mesh, reach_mm)


def _spread(
    before: Shape,
    how: Placing,
    size_mm: tuple[float, float],
    draft: bool,
    room: Room,
    body: Callable[[float], Link[Shape]],
    run: Callable[[Link[Any]], Any],
) -> Places:
    """The surface around each place that it is laid on."""

    def coarse() -> Mesh | None:
        reach = reach_known_again(room.reach_mm)
        found: Mesh | None = run(Link(_evened, (body(0.0), reach), "evening it", 1))
        return found

    return spread(before.mesh, how, size_mm, draft, coarse if draft else None, room)


def _decorated(
    before: Shape,
    art: Callable[[float], Link[Shaped]],
    places: Callable[[float], Link[Places]],
    size: Callable[[float], Link[tuple[float, float]]],
    level_mm: float,
    does: Does,
    clearance_mm: float,
    draft: bool,
    run: Callable[[Link[Any]], Any],
) -> Shape:
    size_mm, unrolled = run(size(0.0)), run(places(0.0))
    flat, besides = run(art(0.0))
    tolerance = _DRAWN_MM if draft else _TOLERANCE_MM
    try:
        given = before.mesh, flat, level_mm, unrolled, size_mm, does, tolerance
        mesh, report = decorate(*given, draft, clearance_mm, besides)
    except NotSolid:
        if draft:  # made lighter the body may have come open
            return before
        raise
    edge_deg = max(
        edge_under(flat, level_mm, size_mm, lying_of(place), isinstance(place, Mirrored))
        for place in unrolled
    )
    laid = replace(_laid(unrolled, size_mm), edge_deg=edge_deg)
    return replace(before.become(mesh, report), laid=laid)
