"""From the entries of a recipe to entries laid out in mm."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any

import cv2
import numpy as np

from nebrel.core.choices import ProfileKind
from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.formats.drawing import Drawing
from nebrel.core.heights.laid import Laid, Patch, measure_inwards, shape_edge
from nebrel.core.kernel import Region
from nebrel.core.lengths import LengthUnits
from nebrel.core.links.lay_shapes import shaped, sized, walled
from nebrel.core.outline import shapes
from nebrel.core.outline.lettering import letter
from nebrel.core.outline.outline import Outline, all_of, moved
from nebrel.core.outline.regions import outline_of, region_of, united
from nebrel.core.outline.trace import trace
from nebrel.core.outline.tracing import Traced
from nebrel.core.picture.tone import read_tone
from nebrel.core.recipe.build_up import (
    DrawingEntry,
    Ellipse,
    Entry,
    FrameEntry,
    GridLayout,
    Line,
    MotifEntry,
    MotifUnit,
    OutlineEntry,
    PatternEntry,
    Polygon,
    Rectangle,
    Ring,
    Star,
    TextEntry,
    TracedEntry,
)
from nebrel.core.recipe.placed import Outlined, Profile

PictureSource = Callable[[str], Picture]
_MOST_PLACES = 4000
_DRAFT_MM = 0.12
_DRAFT_STEPS = 700  # of a draft's width: its edges are no finer
_KNOWN_LETTERING = 200
_OVER_MM = 0.3


@dataclass(frozen=True)
class Sheet:
    """What entries are laid out on.

    Attributes
    ----------
    wide_mm, tall_mm : of the piece, flat
    backing_mm : where heights are measured from
    around : whether the piece goes once around, so that its left edge meets its right one
    round : whether only a round of it is kept
    outline : of what the picture leaves, or None when it is all of it
    units : the nozzle line and the print layer
    draft : whether coarser edges will do
    edge : where a backing ends that follows the shape; else None
    """

    wide_mm: float
    tall_mm: float
    backing_mm: float
    around: bool = False
    round: bool = False
    outline: Outline | None = None
    units: LengthUnits = field(default_factory=LengthUnits)
    draft: bool = False
    edge: Outline | None = None


def lay_out(
    entry: Entry,
    sheet: Sheet,
    pictures: PictureSource,
    given: Traced | Drawing | None = None,
) -> tuple[Laid | None, list[NebrelError]]:
    """An entry that is not the picture as it lies, and what of it will hardly print.

    Parameters
    ----------
    given : what its trace found, or its drawing, where it has one

    Raises
    ------
    NebrelError : it cannot be laid out
    """
    doubts: list[NebrelError] = []
    found = _lay(entry, sheet, pictures, given, doubts)
    if found is None:
        return None, []
    laid = _again(found, sheet) if sheet.around else found
    return laid, [*doubts, *_doubts(entry, found, sheet)]


def _lay(
    entry: Any,
    sheet: Sheet,
    pictures: PictureSource,
    given: Traced | Drawing | None,
    doubts: list[NebrelError],
) -> Laid | None:
    if isinstance(entry, FrameEntry):
        return _frame(entry, sheet)
    if isinstance(entry, MotifEntry):
        outline, relief = _motif(entry.motif, sheet, pictures)
        return _finish(entry, outline, relief, sheet)
    if isinstance(entry, PatternEntry):
        return _pattern(entry, sheet, pictures)
    if isinstance(entry, TextEntry):
        if not entry.text.strip():
            return None
        lines = _lettered(
            entry.text,
            entry.face,
            entry.capital.mm,
            entry.align,
            entry.spacing.mm,
            entry.leading,
            entry.arc.mm,
        )
    elif isinstance(entry, TracedEntry):
        if not isinstance(given, Traced):
            raise InvalidValue("trace", "there is no picture to trace in", "Bring a picture")
        doubts += [InvalidValue("nodes", note, "Undo it, or leave it") for note in given.notes]
        lines = given.outline.moved(-sheet.wide_mm / 2, -sheet.tall_mm / 2)
    elif isinstance(entry, DrawingEntry):
        assert isinstance(given, Drawing)
        lines = sized(given, entry, doubts)
    else:
        assert isinstance(entry, OutlineEntry)
        lines = plain_shape(entry.outline)
    found = shaped(entry, lines, sheet.units.line_mm, doubts)
    if entry.wall is None or not found:
        return _finish(entry, found, None, sheet)
    placed = found.moved(sheet.wide_mm / 2 + entry.x.mm, sheet.tall_mm / 2 + entry.y.mm, entry.turn)
    coarse = _coarse(sheet) if sheet.draft else 0.0
    return walled(entry, placed, sheet.backing_mm, sheet.units.line_mm, coarse)


def _pattern(entry: PatternEntry, sheet: Sheet, pictures: PictureSource) -> Laid | None:
    layout = entry.layout
    if isinstance(layout, GridLayout):
        if layout.columns * layout.rows > _MOST_PLACES:
            raise InvalidValue(
                "pattern",
                f"{layout.columns} × {layout.rows} places are too many",
                f"At most {_MOST_PLACES} can be laid",
            )
        places = shapes.grid_places(
            layout.columns, layout.rows, layout.across.mm, layout.up.mm, layout.staggered
        )
    else:
        places = shapes.ring_places(layout.count, layout.radius.mm, layout.turned)
    if isinstance(entry.unit, MotifUnit):
        unit, relief = _motif(entry.unit, sheet, pictures)
    else:
        unit, relief = plain_shape(entry.unit), None
    copies = [unit.moved(*place) for place in places]
    if relief is not None:
        relief = _repeated(relief, places)
    return _finish(entry, united(all_of(copies)), relief, sheet)


def plain_shape(shape: Any) -> Outline:
    """The outline of a plain shape about the origin."""
    if isinstance(shape, Rectangle):
        return shapes.rectangle(shape.wide.mm, shape.tall.mm, shape.corner.mm)
    if isinstance(shape, Ellipse):
        return shapes.ellipse(shape.wide.mm, shape.tall.mm)
    if isinstance(shape, Polygon):
        return shapes.polygon(shape.wide.mm, shape.sides)
    if isinstance(shape, Star):
        return shapes.star(shape.wide.mm, shape.points, shape.inner)
    if isinstance(shape, Line):
        thick = shape.tall.mm
        return shapes.rectangle(shape.wide.mm, thick, thick / 2)
    assert isinstance(shape, Ring)
    return shapes.ring(shape.wide.mm, shape.band.mm)


def _finish(entry: Any, outline: Outline, relief: Patch | None, sheet: Sheet) -> Laid | None:
    """An outline about the origin, put in its place and given its height and its edge."""
    if not outline:
        return None
    x, y = sheet.wide_mm / 2 + entry.x.mm, sheet.tall_mm / 2 + entry.y.mm
    placed = outline.moved(x, y, entry.turn)
    if entry.rule == "cut":
        return Laid("cut", placed, 0.0)
    base, top = _levels(entry, sheet)
    if relief is not None:
        patch = _placed_patch(relief, placed, x, y, entry.turn)
        mm = base + patch.mm * np.float32(top - base)
        return Laid(entry.rule, placed, top, Patch(mm, patch.x_mm, patch.y_mm, patch.pitch_mm))
    edge = _edge(placed, base, top, entry.profile, sheet)
    return Laid(entry.rule, placed, top, edge, below=_below(entry, top))


def _below(entry: Any, top: float) -> tuple[ProfileKind, float] | None:
    """How an entry ends below, where it has a shape there. Raises InvalidValue."""
    if not isinstance(entry, Outlined) or entry.below.kind == "sharp" or entry.rule == "add":
        return None
    reach = entry.below.reach.mm
    if reach <= 0:
        return None
    if reach >= top:
        raise InvalidValue(
            "edge below",
            f"{reach:g} mm does not go into a thickness of {top:g} mm",
            f"The nearest that works is {max(0.05, 0.8 * top):.2g} mm",
        )
    return entry.below.kind, reach


def _edge(
    outline: Outline, base: float, top: float, profile: Profile, sheet: Sheet
) -> Patch | None:
    coarse = _coarse(sheet) if sheet.draft else 0.0
    reach = profile.reach.mm
    return shape_edge(outline, base, top, profile.kind, reach, profile.softness, coarse)


def _coarse(sheet: Sheet) -> float:
    """The pitch that a draft's edges are drawn with."""
    return max(_DRAFT_MM, sheet.wide_mm / _DRAFT_STEPS)


def _levels(entry: Any, sheet: Sheet) -> tuple[float, float]:
    """Where an entry starts from and its top: above the underside, or what is added."""
    base = 0.0 if entry.rule == "add" else sheet.backing_mm
    top = base + entry.height.mm
    if entry.rule != "add" and top <= 0:
        raise InvalidValue(
            "height",
            f"{entry.height.mm:g} mm on a backing of {sheet.backing_mm:g} mm leaves no thickness",
            f"The nearest that works is {0.2 - sheet.backing_mm:g} mm",
        )
    return base, top


def _frame(entry: FrameEntry, sheet: Sheet) -> Laid:
    middle = sheet.wide_mm / 2, sheet.tall_mm / 2
    if sheet.edge is not None and not (entry.along == "outline" and sheet.outline is not None):
        outer = region_of(sheet.edge)
    elif entry.along == "outline" and sheet.outline is not None:
        outer = region_of(sheet.outline)
    elif sheet.round:
        side = min(sheet.wide_mm, sheet.tall_mm)
        outer = region_of(shapes.ellipse(side, side).moved(*middle))
    else:
        # Once around there are no ends: the frame is two bands.
        more = 3 * (entry.wide.mm + entry.inset.mm) + 1 if sheet.around else 0.0
        size = (sheet.wide_mm + 2 * more, sheet.tall_mm)
        outer = region_of(shapes.rectangle(*size).moved(*middle))
    outer = outer.offset(-entry.inset.mm) if entry.inset.mm else outer
    inner = outer.offset(-entry.wide.mm)
    if entry.inset.mm == 0 and entry.along == "edge" and not sheet.round and sheet.edge is None:
        # A little over the edge, so that the outermost pixels lie in it; the piece ends it.
        reach = (sheet.wide_mm + 4 * _OVER_MM, sheet.tall_mm + 2 * _OVER_MM)
        outer = outer if sheet.around else region_of(shapes.rectangle(*reach).moved(*middle))
    band = outline_of(outer - inner)
    if inner.is_empty() or not band:
        most = min(sheet.wide_mm, sheet.tall_mm) / 2
        raise InvalidValue(
            "frame",
            f"{entry.wide.mm:g} mm wide, {entry.inset.mm:g} mm from the edge, it leaves no opening",
            f"Together they may be {0.8 * most:.1f} mm at most",
        )
    if entry.rule == "cut":
        return Laid("cut", band, 0.0)
    base, top = _levels(entry, sheet)
    if entry.section == "square":
        return Laid(entry.rule, band, top)
    opening = outline_of(inner)
    if not opening:
        return Laid(entry.rule, band, top)
    # Measured from the inner border outwards: the opening's own distance, turned about.
    pitch = max(entry.wide.mm / 40, _DRAFT_MM if sheet.draft else 0.02)
    pitch = max(pitch, max(sheet.wide_mm, sheet.tall_mm) / 1600)
    return Laid(entry.rule, band, top, _across(entry, band, opening, base, top, pitch))


def _across(
    entry: FrameEntry, band: Outline, opening: Outline, base: float, top: float, pitch: float
) -> Patch:
    (low, high), (inner_low, inner_high) = band.bounds, opening.bounds
    box = np.minimum(low, inner_low), np.maximum(high, inner_high)
    inwards, x, y = measure_inwards(opening, pitch, box)
    share = np.clip(-inwards / np.float32(entry.wide.mm), 0, 1)
    if entry.section == "chamfered":
        rise = np.clip(share * 2, 0, 1)
    elif entry.section == "rounded":
        rise = np.sqrt(np.maximum(0, 1 - (2 * share - 1) ** 2))
    else:
        rise = np.where(share < 0.5, np.float32(0.5), np.float32(1))
    return Patch((base + rise * np.float32(top - base)).astype(np.float32), x, y, pitch)


def _motif(unit: MotifUnit, sheet: Sheet, pictures: PictureSource) -> tuple[Outline, Patch | None]:
    """A motif's outline about the origin, and the share of the height that its tones reach."""
    picture = pictures(unit.sha256)
    tone = read_tone(picture)
    if sheet.draft and max(tone.shape) > 256:
        scale = 256 / max(tone.shape)
        size = (max(2, round(tone.shape[1] * scale)), max(2, round(tone.shape[0] * scale)))
        tone = cv2.resize(tone, size, interpolation=cv2.INTER_AREA)
        alpha = picture.alpha
        alpha = None if alpha is None else cv2.resize(alpha, size, interpolation=cv2.INTER_AREA)
    else:
        alpha = picture.alpha
    share = tone if unit.raised == "light" else 1 - tone
    if alpha is not None:
        share = share * alpha
    rows, cols = share.shape
    pitch = unit.wide.mm / (cols - 1)
    if unit.by == "tones":
        wide, tall = (cols - 1) * pitch, (rows - 1) * pitch
        outline = shapes.rectangle(wide, tall)
        if alpha is not None:
            outline = _traced(alpha, pitch)
        return outline, Patch(share.astype(np.float32), -wide / 2, -tall / 2, pitch)
    outline = _traced(share.astype(np.float32), pitch)
    if not outline:
        other = "light" if unit.raised == "dark" else "dark"
        raise InvalidValue(
            "motif",
            f"it has no {unit.raised} part to take the outline of",
            f"Take the {other} part",
        )
    return outline, None


def _traced(cover: Floats, pitch_mm: float) -> Outline:
    middle = (np.array(cover.shape[::-1]) - 1) / 2
    found = ((loop - middle) * (pitch_mm, -pitch_mm) for loop in trace(cover))
    return Outline(tuple(loop[::-1] for loop in found))


def _placed_patch(relief: Patch, placed: Outline, x: float, y: float, turn: float) -> Patch:
    """A patch about the origin turned and moved; sampled anew when it is turned."""
    if turn % 360 == 0:
        return Patch(relief.mm, relief.x_mm + x, relief.y_mm + y, relief.pitch_mm)
    low, high = placed.bounds
    cols, rows = (int(n) for n in np.ceil((high - low) / relief.pitch_mm) + 1)
    across, down = np.meshgrid(np.arange(cols), np.arange(rows))
    points = np.column_stack(
        [
            (low[0] + across * relief.pitch_mm).ravel() - x,
            (low[1] + (rows - 1 - down) * relief.pitch_mm).ravel() - y,
        ]
    )
    back = moved(points, 0, 0, -turn)
    mm = relief.at(back[:, 0], back[:, 1]).reshape(rows, cols).astype(np.float32)
    return Patch(mm, float(low[0]), float(low[1]), relief.pitch_mm)


def _repeated(relief: Patch, places: Sequence[tuple[float, float, float]]) -> Patch:
    """One patch drawn at many places; where two meet the higher stands."""
    corners = [relief.x_mm, relief.y_mm]
    corners += [
        relief.x_mm + relief.field.wide_mm,
        relief.y_mm + relief.field.tall_mm,
    ]
    reach = float(np.abs(corners).max()) * 1.5
    spots = np.array([place[:2] for place in places])
    low, high = spots.min(axis=0) - reach, spots.max(axis=0) + reach
    pitch = max(relief.pitch_mm, float((high - low).max()) / 2048)
    cols, rows = (int(n) for n in np.ceil((high - low) / pitch) + 1)
    whole = np.zeros((rows, cols), np.float32)
    span = int(np.ceil(2 * reach / pitch)) + 1
    for x, y, turn in places:
        left = int((x - reach - low[0]) / pitch)
        up = rows - 1 - int((y - reach - low[1]) / pitch)
        across = np.arange(left, min(cols, left + span))
        down = np.arange(max(0, up - span), up + 1)
        px = low[0] + across * pitch - x
        py = low[1] + (rows - 1 - down) * pitch - y
        points = np.column_stack([np.tile(px, len(py)), np.repeat(py, len(px))])
        back = moved(points, 0, 0, -turn)
        within = (back[:, 0] >= corners[0]) & (back[:, 0] <= corners[2])
        within &= (back[:, 1] >= corners[1]) & (back[:, 1] <= corners[3])
        own = np.where(within, relief.at(back[:, 0], back[:, 1]), 0)
        box = np.ix_(down, across)
        whole[box] = np.maximum(whole[box], own.reshape(len(down), len(across)))
    return Patch(whole, float(low[0]), float(low[1]), pitch)


def _again(laid: Laid, sheet: Sheet) -> Laid:
    """An entry that crosses the seam of a piece going around, on both sides of it."""
    low, high = laid.outline.bounds
    copies = [laid]
    if low[0] < 0:
        copies.append(laid.shifted(sheet.wide_mm))
    if high[0] > sheet.wide_mm or low[0] < 1:
        copies.append(laid.shifted(sheet.wide_mm if low[0] >= 0 else 2 * sheet.wide_mm))
    if high[0] > sheet.wide_mm:
        copies.append(laid.shifted(-sheet.wide_mm))
    if len(copies) == 1:
        return laid
    outline = united(all_of([copy.outline for copy in copies]))
    patch = laid.patch and _around_patch(laid.patch, copies, sheet)
    return replace(laid, outline=outline, patch=patch)


def _around_patch(patch: Patch, copies: Sequence[Laid], sheet: Sheet) -> Patch:
    """A patch that holds its copies too, where they reach over the piece."""
    found = [copy.patch for copy in copies if copy.patch]
    low = min(p.x_mm for p in found)
    high = max(p.x_mm + p.field.wide_mm for p in found)
    low, high = max(low, -2.0), min(high, sheet.wide_mm + 4.0)
    cols = max(2, int((high - low) / patch.pitch_mm) + 1)
    rows = patch.mm.shape[0]
    x = np.tile(low + np.arange(cols) * patch.pitch_mm, (rows, 1))
    y = np.repeat(patch.y_mm + np.arange(rows)[::-1, None] * patch.pitch_mm, cols, axis=1)
    mm = found[0].at(x, y)
    for other in found[1:]:
        within = (x >= other.x_mm) & (x <= other.x_mm + other.field.wide_mm)
        mm = np.where(within, other.at(x, y), mm)
    return Patch(mm.astype(np.float32), low, patch.y_mm, patch.pitch_mm)


def _doubts(entry: Any, laid: Laid, sheet: Sheet) -> list[NebrelError]:
    """What will hardly print."""
    found: list[NebrelError] = []
    line, layer = sheet.units.line_mm, sheet.units.layer_mm
    if entry.rule != "cut" and 0 < abs(entry.height.mm) < layer:
        found.append(
            InvalidValue(
                "height",
                f"{abs(entry.height.mm):g} mm is less than one print layer of {layer:g} mm",
                f"The nearest that prints is {layer:g} mm",
            )
        )
    if isinstance(entry, FrameEntry) and entry.wide.mm < line:
        found.append(
            InvalidValue(
                "width",
                f"{entry.wide.mm:g} mm is less than one nozzle line of {line:g} mm",
                f"The nearest that prints is {line:g} mm",
            )
        )
    if isinstance(entry, TextEntry):
        capital = entry.capital.mm
        least = _printing_share(entry, laid.outline, line)
        if least > 1:
            found.append(
                InvalidValue(
                    "text",
                    f"at {capital:g} mm its strokes are thinner than two nozzle lines "
                    f"({2 * line:g} mm)",
                    f"The nearest that prints is {capital * least:.1f} mm, or a heavier typeface",
                )
            )
    return found


def _printing_share(entry: TextEntry, outline: Outline, line_mm: float) -> float:
    """How many times larger lettering must be for its strokes to take two lines; 1 when it is.

    Wherever it lies: so it is worked out once while lettering is moved about.
    """
    moving = {"id", "name", "x", "y", "turn", "height", "rule", "profile"}
    key = entry.model_dump_json(exclude=moving), line_mm
    if key not in _lettering:
        if len(_lettering) >= _KNOWN_LETTERING:
            _lettering.clear()
        _lettering[key] = _least_share(region_of(outline), line_mm)
    return _lettering[key]


_lettering: dict[tuple[str, float], float] = {}


def _least_share(region: Region, line_mm: float) -> float:
    area = region.area()
    kept = 0.8

    def prints(times: float) -> bool:
        width = line_mm / times * 0.98
        opened = region.offset(-width).offset(width)
        return bool(opened.area() >= kept * area)

    if prints(1.0):
        return 1.0
    low, high = 1.0, 16.0
    for _ in range(7):
        middle = (low + high) / 2
        low, high = (low, middle) if prints(middle) else (middle, high)
    return high


@lru_cache(64)
def _lettered(*words: Any) -> Outline:
    """As `letter`, not overlapping; known while the entry is moved about."""
    return united(letter(*words))
