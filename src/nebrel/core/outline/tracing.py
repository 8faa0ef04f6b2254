"""From a picture to the outline of a shape in mm: traced, tidied and fitted with curves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from nebrel.core.data import Floats, Loop
from nebrel.core.errors import InvalidValue
from nebrel.core.outline.fit_curves import CORNER_DEG, Fitted, crossing_loops, fit_curves
from nebrel.core.outline.fit_kernels import flatten
from nebrel.core.outline.isolines import isolines
from nebrel.core.outline.outline import Cubics, Outline, area_of
from nebrel.core.outline.tidy import Choice, Tidy
from nebrel.core.picture.flat_tones import otsu

Of = Literal["dark", "light", "band", "kept"]
"""What of a picture is traced: what is darker or lighter than a tone, between two, or kept."""

MOST_PARTS = 20_000
_FLAT_MM = 0.004
_ASKED, _AROUND = 20_000, 2  # places where the softness of edges is looked at, and pixels around
# Of what is light and dark around an edge, its middle pixel tells half; where it is blurred less.
# The power is fitted to corners blurred by up to a pixel.
_STEEP, _BLURRED, _SOFTEST = 0.5, 1.2, 2.0
_FINER = 6  # times that lines are told four times as finely, where they would cross
_LEAST_PX = 4.0  # a line of fewer pixels around is a speck of noise


@dataclass(frozen=True)
class Part:
    """What hangs together: a line around it, and its holes.

    Attributes
    ----------
    lines : in pixels, y down; the first goes around it
    why : why it is left out; empty when it is kept
    """

    lines: tuple[Loop, ...]
    area_mm2: float
    why: Literal["", "small", "border", "dropped", "not alone"] = ""

    @property
    def place(self) -> tuple[float, float]:
        """A place well inside it, in pixels: the middle of its widest part half-way down."""
        outer = self.lines[0]
        low, high = outer[:, 1].min(), outer[:, 1].max()
        best = 0.0, (float(outer[0, 0]), float(outer[0, 1]))
        for share in (0.5, 0.35, 0.65, 0.2, 0.8):
            y = low + (high - low) * share + 1e-7
            cuts = []
            for line in self.lines:
                after = np.roll(line, -1, axis=0)
                over = (line[:, 1] > y) != (after[:, 1] > y)
                start, end = line[over], after[over]
                rise = (y - start[:, 1]) / (end[:, 1] - start[:, 1])
                cuts.append(start[:, 0] + rise * (end[:, 0] - start[:, 0]))
            x = np.sort(np.concatenate(cuts))
            widths = x[1::2] - x[::2][: len(x) // 2]
            if len(widths) and widths.max() > 1.2 * best[0]:
                k = int(widths.argmax())
                best = float(widths[k]), (float(x[2 * k] + x[2 * k + 1]) / 2, float(y))
        return best[1]


@dataclass(frozen=True)
class Traced:
    """A shape and what it is made of.

    Attributes
    ----------
    outline : mm from the lower left pixel, with its curves
    parts : all that were found, the largest first
    curves : how many
    off_mm : the largest distance of an isoline from its curves, but for corners, which a picture
        rounds and which are sharp again
    shape, pitch_mm, level : of the picture: rows and cols, between pixels, and the tone traced
    notes : plain sentences about what was done to it by hand
    """

    outline: Outline
    parts: tuple[Part, ...]
    curves: int
    off_mm: float
    shape: tuple[int, int]
    pitch_mm: tuple[float, float]
    level: float
    notes: tuple[str, ...] = ()

    @property
    def kept(self) -> tuple[Part, ...]:
        """Those that are not left out."""
        return tuple(part for part in self.parts if not part.why)


@dataclass(frozen=True)
class Field:
    """What is traced: more than the level is inside.

    Attributes
    ----------
    tone : of the picture where the level is
    """

    values: Floats = field(repr=False)
    level: float
    tone: float


def shape_field(
    tone: Floats, alpha: Floats | None, of: Of, level: float | None = None, upto: float = 1.0
) -> Field:
    """What of a picture is inside.

    Parameters
    ----------
    tone, alpha : (rows, cols), 0 to 1
    level : the tone that parts inside from outside, or where a band begins; Otsu's when left out
    upto : where a band ends

    Raises
    ------
    InvalidValue : nothing is inside, or everything
    """
    if of == "kept":
        if alpha is None:
            raise InvalidValue(
                "trace", "the picture keeps all of itself", "Isolate something, or trace by tone"
            )
        return _some(Field(alpha, 0.5, 0.5), "keeps", "Isolate less, or more")
    if level is None:
        tone, alpha, level = _on_its_background(tone, alpha, of, otsu(tone))
    if of == "band":
        low, high = min(level, upto), max(level, upto)
        values = np.minimum(tone - np.float32(low), np.float32(high) - tone)
        found = Field(values, 0.0, level)
    elif of == "dark":
        found = Field(1 - tone, 1 - level, level)
    else:
        found = Field(tone, level, level)
    if alpha is not None:
        lowest = np.float32(found.values.min())
        found = Field((found.values - lowest) * alpha + lowest, found.level, level)
    low, high = float(tone.min()), float(tone.max())
    if high <= low:
        raise InvalidValue("trace", "the picture is one flat tone", "Bring another")
    return _some(
        found, f"with a level of {level:.3g}", f"Choose one between {low:.3g} and {high:.3g}"
    )


def _on_its_background(
    tone: Floats, alpha: Floats | None, of: Of, level: float
) -> tuple[Floats, Floats | None, float]:
    """A picture whose kept tones lie all on one side of a level, on what parts them from it."""
    if alpha is None or of == "band":
        return tone, alpha, level
    kept = tone[alpha >= 0.5]
    if (kept < level).any() and (kept > level).any():
        return tone, alpha, level
    laid = tone * alpha + (1 - alpha) * np.float32(of == "dark")
    return laid, None, otsu(laid)


def _some(found: Field, called: str, remedy: str) -> Field:
    low, high = float(found.values.min()), float(found.values.max())
    if not low < found.level <= high:
        which = "everything" if low >= found.level else "nothing"
        raise InvalidValue("trace", f"{called} {which} is inside", remedy)
    return found


def find_parts(found: Field) -> list[tuple[Loop, ...]]:
    """What hangs together in a field, as lines in pixels, y down; the first goes around it.

    Raises
    ------
    InvalidValue : nothing but specks of a pixel
    TooLarge : so many parts that it is noise
    """
    lines = isolines(found.values, found.level, MOST_PARTS)
    areas = np.array([area_of(line) for line in lines.lines])
    around: dict[int, list[int]] = {}
    holes: dict[int, list[int]] = {}
    for k, (area, part) in enumerate(zip(areas, lines.part, strict=True)):
        (around if area > 0 else holes).setdefault(int(part), []).append(k)
    outers = [k for group in around.values() for k in group if len(lines.lines[k]) > _LEAST_PX]
    if not outers:
        raise InvalidValue(
            "trace", "nothing but specks of a pixel is inside", "Choose another level"
        )
    found_parts = []
    for part, group in around.items():
        kept = [k for k in group if len(lines.lines[k]) > _LEAST_PX]
        own = _owned(lines.lines, kept, holes.get(part, []))
        found_parts += [(lines.lines[k], *(lines.lines[h] for h in own[k])) for k in kept]
    return found_parts


def _owned(
    lines: Sequence[Loop], outers: Sequence[int], holes: Sequence[int]
) -> dict[int, list[int]]:
    """The holes of each outer line, of which pixels that touch at corners may have several."""
    found: dict[int, list[int]] = {k: [] for k in outers}
    if len(outers) == 1:
        found[outers[0]] = list(holes)
    if len(outers) < 2 or not holes:
        return found
    spots = np.array([lines[h][0] for h in holes])
    free = np.ones(len(holes), bool)
    # The smallest first: what lies in none of them lies in a larger one.
    for k in sorted(outers, key=lambda k: area_of(lines[k])):
        low, high = lines[k].min(axis=0), lines[k].max(axis=0)
        near = np.flatnonzero(free & ((spots >= low) & (spots <= high)).all(axis=1))
        if len(near):
            inside = near[Outline((lines[k],)).inside(*spots[near].T)]
            found[k] = [holes[h] for h in inside]
            free[inside] = False
    return found


def tidy_parts(
    parts: Sequence[tuple[Loop, ...]],
    shape: tuple[int, int],
    pitch_mm: tuple[float, float],
    tidy: Tidy,
) -> tuple[Part, ...]:
    """All parts, those that are left out with the reason; small holes are filled.

    Parameters
    ----------
    shape : rows, cols of the picture
    """
    rows, cols = shape
    unit = pitch_mm[0] * pitch_mm[1]
    found = []
    for lines in parts:
        outer, *holes = lines
        kept = [hole for hole in holes if -area_of(hole) * unit >= max(tidy.below_mm2, 1e-12)]
        area = (area_of(outer) + sum(area_of(hole) for hole in kept)) * unit
        at_border = (outer <= 0.01).any() or (outer >= (cols - 1.01, rows - 1.01)).any()
        why: Literal["", "small", "border"] = ""
        if area < tidy.below_mm2:
            why = "small"
        elif tidy.border and at_border:
            why = "border"
        found.append(Part((outer, *kept), area, why))
    found.sort(key=lambda part: -part.area_mm2)
    return _chosen(found, rows, pitch_mm, tidy.choices)


def _chosen(
    parts: list[Part], rows: int, pitch_mm: tuple[float, float], choices: Sequence[Choice]
) -> tuple[Part, ...]:
    alone: set[int] = set()
    dropped: set[int] = set()
    for choice in choices:
        x, y = choice.x_mm / pitch_mm[0], rows - 1 - choice.y_mm / pitch_mm[1]
        at = part_at(parts, x, y)
        if at is not None:
            (alone if choice.alone else dropped).add(at)
    return tuple(
        Part(part.lines, part.area_mm2, "dropped")
        if k in dropped
        else Part(part.lines, part.area_mm2, "not alone")
        if alone and k not in alone
        else part
        for k, part in enumerate(parts)
    )


def part_at(parts: Sequence[Part], x: float, y: float) -> int | None:
    """The smallest part whose outer line goes around a place, in pixels."""
    spot = np.array([x]), np.array([y])
    for k in range(len(parts) - 1, -1, -1):
        outer = parts[k].lines[0]
        low, high = outer.min(axis=0), outer.max(axis=0)
        near = low[0] <= x <= high[0] and low[1] <= y <= high[1]
        if near and Outline((outer,)).inside(*spot)[0]:
            return k
    return None


def close_gaps(
    parts: Sequence[tuple[Loop, ...]], gap_px: float, shape: tuple[int, int]
) -> list[tuple[Loop, ...]]:
    """Parts with gaps between and within them closed up to a width."""
    from nebrel.core.kernel import grown
    from nebrel.core.outline.regions import outline_of, region_of

    rows, cols = shape
    whole = region_of(Outline(tuple(line for lines in parts for line in lines)))
    closed = grown(grown(whole, gap_px / 2), -gap_px / 2)
    found = []
    for one in closed.decompose():
        loops = [_stepped(np.clip(loop, 0, (cols - 1, rows - 1))) for loop in outline_of(one).loops]
        loops.sort(key=lambda loop: -area_of(loop))
        if len(loops[0]) > _LEAST_PX:
            found.append(tuple(loops))
    return found


def _stepped(loop: Loop, most: float = 1.0) -> Loop:
    """The same line with no longer step than that."""
    after = np.roll(loop, -1, axis=0)
    count = np.maximum(1, np.ceil(np.hypot(*(after - loop).T) / most)).astype(np.int64)
    at = np.repeat(np.arange(len(loop)), count)
    share = (np.arange(len(at)) - np.repeat(np.cumsum(count) - count, count)) / count[at]
    found: Loop = loop[at] + share[:, None] * (after[at] - loop[at])
    return found


def trace_shape(
    found: Field,
    pitch_mm: tuple[float, float],
    tidy: Tidy | None = None,
    within_mm: float | None = None,
    corner_deg: float = CORNER_DEG,
) -> Traced:
    """The outline of what is inside.

    Parameters
    ----------
    pitch_mm : between pixel centres, across and up
    within_mm : the largest distance of the curves from the isolines; what the pixels tell where
        it is left out
    corner_deg : the smallest turn that stays a corner

    Raises
    ------
    InvalidValue : nothing is inside, or nothing is left
    TooLarge : as `find_parts`
    """
    tidy = tidy or Tidy()
    lines = find_parts(found)
    if tidy.gap_mm > 0:
        lines = close_gaps(lines, tidy.gap_mm / pitch_mm[0], found.values.shape)
    parts = tidy_parts(lines, found.values.shape, pitch_mm, tidy)
    soft = softness(found, lines)
    return fit_parts(parts, found.values.shape, found.tone, pitch_mm, within_mm, corner_deg, soft)


def softness(found: Field, lines: Sequence[tuple[Loop, ...]]) -> float:
    """How many times as soft edges are as those of pixels that a shape covers in part, 1 to 2.

    Parameters
    ----------
    lines : along them
    """
    places = np.concatenate([line for part in lines for line in part])
    places = places[:: max(1, len(places) // _ASKED)]
    rows, cols = found.values.shape
    reach = np.arange(-_AROUND, _AROUND + 1)
    y = np.clip(np.round(places[:, 1]).astype(np.int64)[:, None] + reach, 0, rows - 1)
    x = np.clip(np.round(places[:, 0]).astype(np.int64)[:, None] + reach, 0, cols - 1)
    near = found.values[y[:, :, None], x[:, None, :]].astype(np.float64)
    whole = near.max(axis=(1, 2)) - near.min(axis=(1, 2))
    m = _AROUND
    across = near[:, m, m + 1] - near[:, m, m - 1], near[:, m + 1, m] - near[:, m - 1, m]
    steep = float(np.median(np.hypot(*across) / 2 / np.maximum(whole, 1e-9)))
    return float(np.clip((_STEEP / max(steep, 1e-9)) ** _BLURRED, 1.0, _SOFTEST))


def fit_parts(
    parts: tuple[Part, ...],
    shape: tuple[int, int],
    level: float,
    pitch_mm: tuple[float, float],
    within_mm: float | None,
    corner_deg: float,
    soft: float = 1.0,
) -> Traced:
    """The outline of the parts that are kept, with curves along it.

    Parameters
    ----------
    shape, level : rows and cols of the picture, and the tone that was traced
    pitch_mm, within_mm, corner_deg : as `trace_shape`
    soft : as from `softness`

    Raises
    ------
    InvalidValue : none is kept
    """
    kept = [line for part in parts if not part.why for line in part.lines]
    if not kept:
        raise InvalidValue("trace", f"all of its {len(parts)} parts are left out", "Leave out less")
    within = None if within_mm is None else within_mm / pitch_mm[0]
    fitted = [one for one in fit_curves(kept, within, corner_deg, soft) if one.count]
    curves = tuple(_in_mm(one, shape[0], pitch_mm) for one in fitted)
    loops = _flat(curves, max(pitch_mm))
    off = max(one.off_px for one in fitted) * max(pitch_mm)
    count = sum(one.count for one in fitted)
    return Traced(Outline(loops, curves), parts, count, off, shape, pitch_mm, level)


def _flat(curves: Sequence[Cubics], pitch_mm: float) -> tuple[Loop, ...]:
    """Curves as lines of points that cross neither themselves nor each other, as those do not.

    Where two run so close that they would, they are told more finely.
    """
    loops = [flatten(one, _FLAT_MM, np.inf) for one in curves]
    within = _FLAT_MM
    for _ in range(_FINER):
        bad = np.flatnonzero(crossing_loops([_stepped(loop, pitch_mm) for loop in loops], pitch_mm))
        if not len(bad):
            break
        within /= 4
        for k in bad.tolist():
            loops[k] = flatten(curves[k], within, np.inf)
    return tuple(loops)


def outlined(lines: Sequence[Cubics]) -> tuple[Outline, bool]:
    """Closed lines of curves as an outline; and whether they crossed, and were united."""
    from nebrel.core.kernel import non_zero
    from nebrel.core.outline.regions import outline_of

    loops = tuple(flatten(np.ascontiguousarray(one), _FLAT_MM, np.inf) for one in lines)
    plain = Outline(loops, tuple(lines))
    region = non_zero(loops)
    if abs(region.area() - Outline(loops).area_mm2) <= 1e-6 * max(1.0, region.area()):
        return plain, False
    return outline_of(region), True


def _in_mm(one: Fitted, rows: int, pitch_mm: tuple[float, float]) -> Cubics:
    """In mm, y up, so that lines around what is filled run to the left."""
    across, up = pitch_mm
    found = one.cubics * (across, -up) + np.array([0, (rows - 1) * up])
    return np.ascontiguousarray(found[::-1, ::-1])
