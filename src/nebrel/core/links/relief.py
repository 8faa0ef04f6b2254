"""Links of a relief: from the tones through the build-up to the solid on its form."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from nebrel.core.choices import MOST_TRIANGLES
from nebrel.core.data import Picture
from nebrel.core.errors import NebrelError, NotSolid
from nebrel.core.formats.drawing import Drawing
from nebrel.core.forms.maps import FormMap
from nebrel.core.heights.laid import Laid
from nebrel.core.heights.made import Machine, as_made
from nebrel.core.heights.relief import PictureRule, Relief
from nebrel.core.kernel import Solid
from nebrel.core.lengths import LengthUnits
from nebrel.core.links import picture
from nebrel.core.links.backing import (
    cut_at_edge,
    edge_around,
    ended,
    extent_of,
    giving_shape,
    moved_by_room,
    others,
    room_beside,
    where_it_ends,
    with_edge,
    with_room,
)
from nebrel.core.links.drawing import drawing
from nebrel.core.links.finishing import Finishing, finishing, within
from nebrel.core.links.fit_out import fit_out
from nebrel.core.links.lay_map import lay_map
from nebrel.core.links.lay_out import Sheet, lay_out
from nebrel.core.links.link import RUN, TELL, Family, Link, Noted, at_hand, file
from nebrel.core.links.raise_relief import (
    blank,
    built_up,
    edge_of,
    raise_relief,
    range_mm,
    sound_build_up,
    sound_picture,
)
from nebrel.core.links.shape import Shape
from nebrel.core.links.traced import traced
from nebrel.core.links.turn_out import Settled, settle, turn
from nebrel.core.mesh.measure import measure
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.tracing import Traced
from nebrel.core.recipe.art import Art, Edge
from nebrel.core.recipe.build_up import (
    DrawingEntry,
    Entry,
    FrameEntry,
    PictureEntry,
    TracedEntry,
)
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.traced import Trace
from nebrel.core.solid.build import (
    FEW_ENTRIES,
    Built,
    Flat,
    How,
    Tell,
    as_pixels,
    finish_solid,
    join_below,
    join_entries,
    raise_picture,
    solid_over_flat,
    turn_flat,
)
from nebrel.core.solid.fit import Fit, RingFit

_BLANK_PX = 2048  # of the longer side of an art without a picture


@dataclass(frozen=True)
class Quality:
    """How finely a piece is made.

    Attributes
    ----------
    longest_px : the most pixels along the longer side of its picture
    most_triangles : of the mesh
    draft : it is looked at while it is moved, and never saved
    """

    name: str
    longest_px: int | None
    most_triangles: int = MOST_TRIANGLES
    draft: bool = False


DRAFT = Quality("draft", 256, 16_000, draft=True)
SCREEN = Quality("screen", 1024)
FULL = Quality("full", None)


class Heights:
    """The links from an art to its heights.

    Parameters
    ----------
    around, round_edge : of the form
    units : the nozzle line and the print layer, for what hardly prints
    attenuation_per_mm : of the material, for heights that are made by light
    """

    def __init__(
        self,
        art: Art,
        around: bool,
        round_edge: bool,
        units: LengthUnits,
        attenuation_per_mm: float,
        quality: Quality,
    ) -> None:
        self._art, self._quality, self._units = art, quality, units
        self._around, self._round = around, round_edge
        self._attenuation = attenuation_per_mm

    @cached_property
    def size(self) -> Link[tuple[float, float]]:
        """Width and height, mm."""
        art = self._art
        if art.picture is not None:
            return picture.size_of(art.picture, self._quality.longest_px)
        assert art.extent is not None
        return Link(_extent, (art.extent.wide, art.extent.tall), "sizing", 0.01)

    @cached_property
    def tones(self) -> Link[Any] | None:
        """Those of the picture, where there is one."""
        own = self._art.picture
        return None if own is None else picture.tones(own, self._quality.longest_px)

    @cached_property
    def pictured(self) -> Link[Relief] | None:
        """What the picture alone becomes; None where it is left out."""
        entry = self._art.tones
        if entry is None or not entry.enabled or self.tones is None:
            return None
        light = self._attenuation if entry.mapping == "light" else 0.0
        given = self._art.backing, entry.model_copy(update={"rule": "replace"}), self.tones
        return Link(_raised, (*given, self.size, light), "raising the tones", 0.4)

    @cached_property
    def bare(self) -> Link[Relief]:
        """The picture alone, or the bare backing, as large as the picture."""
        if self.pictured is not None:
            return self.pictured
        given = () if self.tones is None else (self.tones,)
        longest = self._quality.longest_px or _BLANK_PX
        return Link(_bare, (given, self.size, longest, self._art.backing), "the backing", 0.05)

    @cached_property
    def plain(self) -> Link[Relief]:
        """The same with the room that a backing or an entry takes beside it."""
        if self._follows is None:
            return self.bare
        return Link(with_room, (self.bare, self._room), "making room", 0.05)

    @property
    def extent(self) -> Link[tuple[float, float]]:
        """Width and height of all of it, mm."""
        if self._follows is None:
            return self.size
        return Link(extent_of, (self.plain,), "sizing", 0.01)

    @property
    def _follows(self) -> Edge | None:
        """Where the backing ends, if it follows the shape."""
        return None if self._art.edge.around is None else self._art.edge

    @cached_property
    def edge(self) -> Link[Outline | None]:
        """Where that is, from the lower left of the picture; None where there is no shape."""
        assert self._follows is not None
        shape = [self._lay(entry, self.sheet) for entry in giving_shape(self._art.build_up)]
        kept = () if self.pictured is None or self.tones is None else (self.tones,)
        given = self._follows, tuple(shape), kept, self.size
        return Link(edge_around, given, "laying out the backing", 0.1)

    @property
    def ends(self) -> Link[Outline]:
        """Where the backing ends, whatever it is."""
        follows = () if self._follows is None else (self.edge,)
        return Link(
            where_it_ends, (follows, self.size, self._round), "laying out the backing", 0.01
        )

    @cached_property
    def _room(self) -> Link[tuple[int, int]]:
        """Pixels on each side that all of it takes beside the picture."""
        lean = math.tan(math.radians(self._art.draft)), self._art.backing
        given = self.edge, tuple(self.lain.values()), self.bare, self._around, lean
        return Link(room_beside, given, "making room", 0.01)

    @cached_property
    def sheet(self) -> Link[Sheet]:
        """What the entries are laid out on."""
        entry = self._art.tones
        whole = entry is None or not entry.enabled
        whole = whole or not (entry and (entry.mapping == "plateaus" or entry.cut_dropped))
        # What leaves all of the picture leaves the sheet alone, too.
        edge: tuple[Link[Any], ...] = ()
        if not whole:
            edge = (Link(edge_of, (self.bare,), "tracing the edge", 0.2),)
        settings = self._art.backing, self._around, self._round, self._units, self._quality.draft
        return Link(_sheet, (self.size, edge, *settings), "laying out the build-up", 0.01)

    @cached_property
    def lain(self) -> dict[str, Link[Laid | None]]:
        """Every entry that is switched on, by its id, from the lower left of the picture."""
        entries = others(self._art.build_up)
        found = {e.id: self._lay(e, self.sheet) for e in entries if not isinstance(e, FrameEntry)}
        frames = [entry for entry in entries if isinstance(entry, FrameEntry)]
        if frames:
            sheet = self.sheet
            if self._follows is not None:
                sheet = Link(with_edge, (sheet, self.edge), "laying out the build-up", 0.01)
            found = found | {entry.id: self._lay(entry, sheet) for entry in frames}
        return {entry.id: found[entry.id] for entry in entries}

    @cached_property
    def laid(self) -> dict[str, Link[Laid | None]]:
        """The same from the lower left of all of it."""
        if self._follows is None:
            return self.lain
        return {
            name: Link(moved_by_room, (one, self.plain), "laying out the build-up", 0.01)
            for name, one in self.lain.items()
        }

    def _lay(self, entry: Entry, sheet: Link[Sheet]) -> Link[Laid | None]:
        if isinstance(entry, DrawingEntry):
            given: tuple[Any, ...] = entry, sheet, (), drawing(entry)
        else:
            files = tuple(file("picture", name, told=True) for name in files_of(entry))
            given = entry, sheet, files
        if isinstance(entry, TracedEntry) and self.tones is not None:
            given = (*given, self.traced(entry.trace))
        return Link(_laid, given, "laying out the build-up", 0.1, refused="nothing")

    def traced(self, trace: Trace) -> Link[Traced | NebrelError]:
        """What a trace finds in the picture, which is looked at no coarser than on the screen."""
        own, longest = self._art.pictured, self._quality.longest_px
        longest = longest and max(longest, SCREEN.longest_px or 0)
        tones, whole = picture.tones(own, longest), picture.corrected(own, longest)
        return traced(trace, tones, self.size, whole)

    @cached_property
    def sides(self) -> tuple[list[Link[Laid | None]], list[Link[Laid | None]]]:
        """The entries below the picture, and those above it."""
        entries, own = self._art.build_up, self._art.tones
        at = 0 if own is None else entries.index(own)
        below = [self.laid[e.id] for e in entries[:at] if e.id in self.laid]
        above = [self.laid[e.id] for e in entries[at:] if e.id in self.laid]
        if self._follows is not None and self.ends_turned is None:
            # It ends the backing and the picture; what lies on them keeps its own outline.
            if self.pictured is not None:
                above = [self._cut, *above]
            elif self._art.backing.mm > 0:
                below = [self._cut, *below]
        return below, above

    @property
    def rule(self) -> PictureRule:
        """How the picture joins what lies below it."""
        own = self._art.tones
        return own.rule if own is not None and own.enabled else "replace"

    @property
    def replaces(self) -> bool:
        """Whether there is a picture, and nothing below it counts."""
        return self.pictured is not None and self.rule == "replace"

    @property
    def _only_picture(self) -> bool:
        return self.replaces and not self.laid and self._follows is None

    @cached_property
    def built(self) -> Link[Relief]:
        """The whole build-up."""
        if self._only_picture:
            return self.plain
        below, above = map(tuple, self.sides)
        return Link(built_up, (self.plain, below, above, self.rule), "joining the heights", 0.05)

    @cached_property
    def sound(self) -> Link[Relief]:
        """The same, where a solid can be made of it; only solids stand on this."""
        alone: tuple[Link[Any], ...] = ()
        if self.pictured is not None:
            given = self.plain, self._art.tones, self.tones
            alone = (Link(sound_picture, given, "checking it", 0.05),)
        if self._only_picture:
            return alone[0]
        return Link(_sound_build_up, (alone, self.built), "checking it", 0.2)

    @cached_property
    def settled(self) -> Link[Settled]:
        """With loose parts seen to and walls leaned."""
        art = self._art
        given = self.built, art.islands, art.hold, art.draft, self._around
        return Link(_settled, given, "looking for loose parts", 0.3)

    @cached_property
    def turned(self) -> Link[Relief]:
        """As it will be made."""
        given = self.settled, self._art.mirror, self._art.negative
        turned: Link[Relief] = Link(turn, given, "turning it out", 0.05)
        if self.ends_turned is None:
            return turned
        given_end = turned, self.ends_turned, self._art.mirror
        return Link(ended, given_end, "ending the backing", 0.05)

    @cached_property
    def ends_turned(self) -> Link[Laid | None] | None:
        """What is cut away from a negative at last; from others it was before the entries."""
        return self._cut if self._art.negative and self._follows is not None else None

    @property
    def _cut(self) -> Link[Laid | None]:
        return Link(cut_at_edge, (self.edge, self.plain), "ending the backing", 0.05)

    @cached_property
    def range_mm(self) -> Link[tuple[float, float]]:
        """Lowest and highest height, mm."""
        own = self._art.tones if self.pictured is not None else None
        given = own, self.tones, self.turned, self._art.draft > 0
        return Link(range_mm, given, "measuring the heights", 0.1)


def heights(recipe: Recipe, quality: Quality) -> Heights:
    """The heights of a recipe's relief."""
    begins, made_with = recipe.relief, recipe.made_with
    return Heights(
        begins.art,
        begins.form.around,
        begins.round,
        made_with.printer.units,
        made_with.material.attenuation_per_mm,
        quality,
    )


def fitted(recipe: Recipe, quality: Quality) -> dict[str, Link[list[Fit] | RingFit | None]]:
    """Every fitting that is switched on, by its id."""
    begins = recipe.relief
    relief = heights(recipe, quality).turned
    return {
        one.id: Link(
            fit_out,
            (one, begins.form, relief, begins.art.edge.kind),
            "fitting it out",
            0.05,
            refused="nothing",
        )
        for one in begins.fittings
        if one.enabled
    }


def shape(recipe: Recipe, quality: Quality) -> Link[Shape]:
    """The solid of a relief, within its limit of triangles."""
    asked = finishing(recipe, quality.draft)
    if asked.most is None:
        return _Solid(recipe, quality, asked).shape

    def of(tolerance_mm: float) -> Link[Shape]:
        return _Solid(recipe, quality, replace(asked, tolerance_mm=tolerance_mm)).shape

    tolerance = asked.tolerance_mm
    coarsest = max(recipe.relief.art.depth_mm / 2, 2 * tolerance)
    given = Family(of, tolerance), asked.most, tolerance, coarsest, RUN
    return Link(_within_limit, given, "making the solid", 10)


def flat(recipe: Recipe, quality: Quality) -> Link[Solid]:
    """What the art of a relief comes to over its flat extent, its underside on z = 0."""
    asked = finishing(recipe, quality.draft)
    found = _Solid(recipe, quality, asked).flat
    return Link(solid_over_flat, (found,), "closing it", 0.5)


def _within_limit(
    of: Callable[[float], Link[Shape]],
    most: int,
    tolerance_mm: float,
    coarsest_mm: float,
    run: Callable[[Link[Shape]], Shape],
) -> Shape:
    def count(found: Shape) -> int:
        return len(found.built.mesh.faces)

    return within(most, tolerance_mm, lambda t: run(of(t)), count, coarsest_mm)[1]


class _Solid:
    """The links from the heights to the solid."""

    def __init__(self, recipe: Recipe, quality: Quality, asked: Finishing) -> None:
        self._begins, self._quality, self._asked = recipe.relief, quality, asked
        self._fits = tuple(fitted(recipe, quality).values())
        self._heights = heights(recipe, quality)
        form = self._begins.form
        art = self._begins.art
        drawn = quality.draft and art.draft == 0 and _count(art) > FEW_ENTRIES
        self._drawn = drawn  # as pixels
        self._how = How(
            asked.tolerance_mm,
            2 * quality.most_triangles if drawn else quality.most_triangles,
            quality.draft,
            asked.method,
            bent=not form.flat,
            around=form.around,
            pole=form.pole,
        )

    @cached_property
    def alone(self) -> Link[Relief]:
        """The picture alone without what the machine cannot make."""
        given = self._heights.plain, self._asked.machine, self._begins.form.around
        return Link(_made, given, "leaving out what is too fine", 0.5)

    @cached_property
    def fine(self) -> Link[Relief]:
        """The same of the whole build-up, before it is turned; and sound."""
        sound, settled = self._heights.sound, self._heights.settled
        if self._begins.art.draft == 0:
            return Link(_with_alone, (sound, settled, self.alone), "joining the heights", 0.05)
        made = self._asked.machine, self._begins.form.around
        return Link(_leaned, (sound, settled, *made), "leaving out what is too fine", 0.5)

    @cached_property
    def turned(self) -> Link[Relief]:
        """The same as it will be made."""
        given = self.fine, self._heights.turned, self._begins.art.mirror
        return Link(_turned, given, "turning it out", 0.05)

    @cached_property
    def drawn(self) -> Link[Relief]:
        """The same as it is drawn while it is moved."""
        if not self._drawn:
            return self.turned
        return Link(as_pixels, (self.turned,), "drawing the build-up", 0.1)

    @cached_property
    def flat(self) -> Link[Flat]:
        """Over its flat extent, turned, without fittings."""
        art, how = self._begins.art, self._how
        if self._drawn:
            return Link(raise_picture, (self.drawn, how, TELL), "raising the picture", 0.5)
        found = self._leaning if art.draft > 0 else self._joined
        if not (art.mirror or art.negative):
            return found
        given = found, self.fine, art.mirror, self._heights.turned, how, TELL
        turned: Link[Flat] = Link(_turn_flat, given, "turning it out", 1)
        if self._heights.ends_turned is None:
            return turned
        given_end = turned, self._heights.turned, how
        return Link(_end_flat, given_end, "ending the backing", 0.2)

    @property
    def _leaning(self) -> Link[Flat]:
        given = self.fine, self._how, TELL
        raised: Link[Flat] = Link(raise_picture, given, "raising the picture", 5)
        return Link(_join_rest, (raised, self.fine, (), self._how), "joining the build-up", 0.2)

    @property
    def _joined(self) -> Link[Flat]:
        """The picture, and one boolean an entry: each stands on those before it alone."""
        how, size = self._how, self._heights.extent
        below, above = map(tuple, self._heights.sides)
        given = self.alone, how, TELL
        found: Link[Flat] = Link(raise_picture, given, "raising the picture", 5)
        if below or not self._heights.replaces:
            under = Link[Relief](
                built_up, (self.alone, below, (), self._heights.rule), "joining the heights", 0.05
            )
            found = Link(join_below, (found, under, how), "joining the build-up", 1)
        for entry in above:
            found = Link(_join_one, (found, entry, size, how), "joining the build-up", 1)
        if self._begins.art.islands != "keep":
            found = Link(_join_rest, (found, self.fine, above, how), "joining the build-up", 0.2)
        return found

    @cached_property
    def shape(self) -> Link[Shape]:
        """The solid on its form."""
        form, how = self._begins.form, self._how
        bent: Link[FormMap | None] = Link(
            lay_map, (form, self._heights.turned), "laying it on its form", 0.05
        )
        flat = None if how.last_resort else self.flat
        given = flat, self.drawn, bent, how, self._fits, self._begins.round, TELL
        built: Link[Built] = Link(_finished, given, "laying it on its form", 3)
        return Link(_measured, (built, self._quality.draft), "measuring it", 1)


def _count(art: Art) -> int:
    """How many solids are joined to that of the picture, about."""
    own = art.tones
    shaped = own is not None and own.mapping == "plateaus" and own.profile.kind != "sharp"
    steps = sum(pin.mm is not None for pin in own.pins) if own is not None and shaped else 0
    return steps + len(others(art.build_up))


def _extent(wide: Any, tall: Any) -> tuple[float, float]:
    return wide.mm, tall.mm


def _raised(
    backing: Any, entry: PictureEntry, tones: Any, size: tuple[float, float], light: float
) -> Relief:
    return raise_relief(backing.mm, entry, tones, size, light)


def _bare(
    tones: tuple[Any, ...], size: tuple[float, float], longest_px: int, backing: Any
) -> Relief:
    if tones:
        return blank(tones[0].tone.shape, size, backing.mm)
    pitch = max(size) / (longest_px - 1)
    cols, rows = (max(2, math.ceil(side / pitch) + 1) for side in size)
    return blank((rows, cols), size, backing.mm)


def _sheet(
    size: tuple[float, float],
    edge: tuple[Outline | None, ...],
    backing: Any,
    around: bool,
    round_edge: bool,
    units: LengthUnits,
    draft: bool,
) -> Sheet:
    outline = edge[0] if edge else None
    return Sheet(*size, backing.mm, around, round_edge, outline, units, draft)


def _laid(
    entry: Entry,
    sheet: Sheet,
    files: Sequence[Picture | NebrelError],
    found_in_it: Traced | Drawing | NebrelError | None = None,
) -> Noted[Laid | None]:
    by_name = dict(zip(files_of(entry), map(at_hand, files), strict=bool(files)))
    found, doubts = lay_out(entry, sheet, by_name.__getitem__, at_hand(found_in_it))
    return Noted(found, tuple(doubts))


def _sound_build_up(_alone: tuple[Relief, ...], relief: Relief) -> Relief:
    return sound_build_up(relief)


def _settled(relief: Relief, islands: Any, hold: Any, draft: float, around: bool) -> Settled:
    return settle(relief, islands, hold.mm, draft, around)


def _made(relief: Relief, machine: Machine | None, around: bool) -> Relief:
    return relief if machine is None else as_made(relief, machine, around)


def _leaned(_sound: Relief, settled: Settled, machine: Machine | None, around: bool) -> Relief:
    return _made(settled.relief, machine, around)


def _with_alone(_sound: Relief, settled: Settled, alone: Relief) -> Relief:
    return replace(settled.relief, field=alone.field, cover=alone.cover)


def _turned(fine: Relief, turned: Relief, mirror: bool) -> Relief:
    found = fine.mirrored() if mirror else fine
    return replace(found, negative_mm=turned.negative_mm, ends=turned.ends)


def _join_one(flat: Flat, entry: Laid | None, size: tuple[float, float], how: How) -> Flat:
    return flat if entry is None else join_entries(flat, [entry], size, how)


def _join_rest(flat: Flat, relief: Relief, joined: Sequence[Laid | None], how: How) -> Flat:
    """What was found to drop or hold, after the entries."""
    done = sum(entry is not None for entry in joined)
    size = relief.field.wide_mm, relief.field.tall_mm
    return join_entries(flat, relief.above[done:], size, how)


def _turn_flat(
    flat: Flat, fine: Relief, mirror: bool, turned: Relief, how: How, tell: Tell
) -> Flat:
    return turn_flat(flat, fine, mirror, turned.negative_mm, how, tell)


def _end_flat(flat: Flat, relief: Relief, how: How) -> Flat:
    return flat if relief.ends is None else join_entries(flat, [relief.ends], relief.size_mm, how)


def _finished(
    flat: Flat | None,
    relief: Relief,
    bent: FormMap | None,
    how: How,
    fittings: tuple[list[Fit] | RingFit | None, ...],
    round_edge: bool,
    tell: Tell,
) -> Built:
    rings = tuple(one for one in fittings if isinstance(one, RingFit))
    fits = tuple(fit for one in fittings if isinstance(one, list) for fit in one)
    return finish_solid(flat, relief, bent, how, fits, rings, round_edge, tell)


def _measured(built: Built, draft: bool) -> Shape:
    report = built.report or measure(built.mesh)
    if not report.manifold and not draft:
        raise NotSolid("piece", "its mesh came out open", "Change the size or the depth a little")
    return Shape(built, report)
