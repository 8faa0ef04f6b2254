"""One correction of a recipe applied to a picture."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.picture import flat_tones, isolate, levels, masks, overlay, paint, reframe, remove
from nebrel.core.picture.background import even_out, find_background
from nebrel.core.picture.read_from import over_tone, read_from
from nebrel.core.picture.smooth import add_local_contrast, despeckle, smooth
from nebrel.core.picture.strokes import draw_strokes
from nebrel.core.picture.thicken import thicken, thicken_to
from nebrel.core.picture.working import Working
from nebrel.core.recipe import corrections as c

PictureSource = Callable[[str], Picture]

# Those that depend on the size in the hand; the others keep their result when it changes.
_IN_MM = (c.Extend, c.LocalContrast, c.Smooth, c.Despeckle, c.Thicken, c.TrueSize)


def depends_on_size(step: c.Correction) -> bool:
    """Whether the result changes with the size in mm."""
    if isinstance(step, _IN_MM):
        return True
    if isinstance(step, c.Crop):
        return step.by == "content" and step.margin.mm > 0
    if isinstance(step, c.Threshold):
        return step.method == "local"
    if isinstance(step, c.Isolate):
        return any((step.grow.mm, step.feather.mm, step.fill_holes, step.drop_islands))
    return isinstance(step, c.Remove) and step.fill == "copy"


def correct(work: Working, step: c.Correction, pictures: PictureSource) -> Working:
    """Apply one correction.

    Parameters
    ----------
    work : the picture as it stands
    pictures : gives a second picture by the SHA-256 of its file

    Raises
    ------
    NebrelError : the correction cannot be applied to this picture
    """
    return _DO[type(step)](work, step, pictures)


def _crop(work: Working, step: c.Crop, _: PictureSource) -> Working:
    if step.by == "content":
        box = reframe.content_box(work, step.tolerance, work.px(step.margin.mm))
        return reframe.crop(work, *box)
    assert step.box is not None
    scale = work.density
    left, top = round(step.box.x * scale), round(step.box.y * scale)
    cols, rows = round(step.box.wide * scale), round(step.box.tall * scale)
    if scale < 1:  # rounding alone must not push a draft's box outside, nor leave nothing of it
        cols = max(cols, min(2, round(step.box.wide)))
        rows = max(rows, min(2, round(step.box.tall)))
        left, cols = _nudge(left, cols, work.cols)
        top, rows = _nudge(top, rows, work.rows)
    return reframe.crop(work, left, top, cols, rows)


def _nudge(start: int, length: int, room: int) -> tuple[int, int]:
    over = start + length - room
    return (start, length - over) if 0 < over <= 2 and length - over >= 2 else (start, length)


def _turn(work: Working, step: c.Turn, _: PictureSource) -> Working:
    return reframe.turn(work, step.quarters, step.degrees, step.corners, step.tone)


def _mirror(work: Working, step: c.Mirror, _: PictureSource) -> Working:
    return reframe.mirror(work, step.axis)


def _resize(work: Working, step: c.Resize, _: PictureSource) -> Working:
    across = (step.cols - 1) / max(1.0, (work.cols - 1) / work.density)
    down = across
    if step.rows is not None:
        down = (step.rows - 1) / max(1.0, (work.rows - 1) / work.density)
    # A draft keeps its own number of pixels and takes over the proportions.
    grow = 1.0 if work.density < 1 else across
    cols = max(2, round((work.cols - 1) * grow) + 1)
    rows = max(2, round((work.rows - 1) * grow * down / across) + 1)
    found = reframe.resize(work, cols, rows)
    return _denser(found, work.density * grow / across) if work.density < 1 else found


def _enlarge(work: Working, step: c.Enlarge, _: PictureSource) -> Working:
    if work.density < 1:
        return _denser(work, work.density / step.factor)
    return reframe.enlarge(work, step.factor, step.method)


def _denser(work: Working, density: float) -> Working:
    return replace(work, density=density)


def _extend(work: Working, step: c.Extend, _: PictureSource) -> Working:
    if step.percent is not None:
        across, down = (round(side * step.percent / 100) for side in (work.cols, work.rows))
        return reframe.extend(work, across, down, across, down, step.tone)
    left, right = round(work.px(step.left.mm)), round(work.px(step.right.mm))
    top, bottom = round(work.px(step.top.mm)), round(work.px(step.bottom.mm))
    return reframe.extend(work, left, top, right, bottom, step.tone)


def _true_size(work: Working, step: c.TrueSize, _: PictureSource) -> Working:
    if step.measure == "between":
        first, second = work.spots([step.first, step.second])
        pixels = float(np.hypot(*(second - first)))
        if pixels < 1e-6:
            raise InvalidValue("true size", "the two places coincide", "Mark two points apart")
    else:
        pixels = (work.cols if step.measure == "wide" else work.rows) - 1
    return replace(work, pitch_mm=step.length.mm / pixels)


def _levels(work: Working, step: c.Levels, _: PictureSource) -> Working:
    black, white = levels.find_levels(work.tone) if step.auto else (step.black, step.white)
    return work.shown(levels.level(work.pixels, black, white, step.middle))


def _curve(work: Working, step: c.Curve, _: PictureSource) -> Working:
    return work.shown(levels.bend(work.pixels, step.points))


def _invert(work: Working, step: c.Invert, _: PictureSource) -> Working:
    return work.shown(np.float32(1) - work.pixels)


def _contrast(work: Working, step: c.Contrast, _: PictureSource) -> Working:
    return work.shown(levels.contrast(work.pixels, step.amount))


def _local_contrast(work: Working, step: c.LocalContrast, _: PictureSource) -> Working:
    return work.shown(add_local_contrast(work.pixels, step.amount, work.px(step.radius.mm)))


def _exposure(work: Working, step: c.Exposure, _: PictureSource) -> Working:
    return work.shown(levels.expose(work.pixels, step.stops))


def _even_light(work: Working, step: c.EvenLight, _: PictureSource) -> Working:
    background = find_background(work.tone)
    if background is None:
        raise InvalidValue(
            "even light",
            "no background reaches along the edge of the picture",
            "Isolate the subject first, or use a local threshold",
        )
    return work.shown(even_out(work.pixels, background, step.tone))


def _read_from(work: Working, step: c.ReadFrom, _: PictureSource) -> Working:
    pixels, alpha = work.pixels, work.alpha
    if step.channel == "alpha":
        return work.having(read_from(pixels, alpha, "alpha", step.colour), None)
    if alpha is not None and step.transparent == "tone":
        tone = read_from(pixels, alpha, step.channel, step.colour)
        return work.having(over_tone(tone, alpha, step.tone), None)
    return work.having(read_from(pixels, alpha, step.channel, step.colour), alpha)


def _tone_steps(work: Working, step: c.ToneSteps, _: PictureSource) -> Working:
    tone = work.tone
    tones = step.tones or flat_tones.find_tones(tone, step.count)
    return work.shown(flat_tones.step_tones(tone, tones, step.clean))


def _threshold(work: Working, step: c.Threshold, _: PictureSource) -> Working:
    radius = work.px(step.radius.mm)
    return work.shown(flat_tones.threshold(work.tone, step.method, step.level, radius, step.offset))


def _smooth(work: Working, step: c.Smooth, _: PictureSource) -> Working:
    return work.shown(smooth(work.pixels, work.px(step.radius.mm), step.method, step.keep))


def _despeckle(work: Working, step: c.Despeckle, _: PictureSource) -> Working:
    area = step.area / work.pitch_mm**2
    return work.shown(despeckle(work.pixels, area, step.specks, step.contrast))


def _thicken(work: Working, step: c.Thicken, _: PictureSource) -> Working:
    if step.at_least is None:
        return work.shown(thicken(work.pixels, step.tones, work.px(step.by.mm)))
    found = thicken_to(work.pixels, step.tones, work.px(step.at_least.mm))
    if found is None:
        raise InvalidValue("thicken", f"there are no {step.tones} lines", "Choose the other tones")
    return work.shown(found)


def _isolate(work: Working, step: c.Isolate, _: PictureSource) -> Working:
    pixels = work.pixels
    soft = max(1.5, 0.004 * max(work.rows, work.cols))
    if step.method == "colour":
        places = work.spots(step.places) if step.places else None
        mask = isolate.drop_colour(pixels, places, step.tolerance, step.contiguous)
        soft = 1.5
    elif not (step.box or step.keep or step.drop):
        return work  # nothing is marked yet
    else:
        box = None
        if step.box is not None:
            (x0, y0), (x1, y1) = _corners(work, step.box)
            box = (x0, y0, x1 - x0, y1 - y0)
        keep, drop = (_drawing(work, strokes) for strokes in (step.keep, step.drop))
        mask = isolate.cut_out(pixels, box, keep, drop)
        if step.soften:
            mask = isolate.soften(pixels, mask, soft)
    per_mm2 = 1 / work.pitch_mm**2
    mask = masks.fill_holes(mask, step.fill_holes * per_mm2)
    mask = masks.drop_islands(mask, step.drop_islands * per_mm2)
    mask = masks.grow(mask, work.px(step.grow.mm))
    mask = masks.feather(mask, work.px(step.feather.mm))
    if mask.max() < 0.5:
        raise InvalidValue(
            "isolate", "the mask is empty: nothing is kept",
            "Use a smaller tolerance, or mark what to keep",
        )  # fmt: skip
    clean = isolate.decontaminate(pixels, mask, soft) if step.soften else pixels
    if step.dropped == "tone":
        return work.shown(over_tone(clean, mask, step.tone))
    return work.having(clean, mask if work.alpha is None else mask * work.alpha)


def _corners(work: Working, box: c.Box) -> NDArray[np.float64]:
    ends = work.spots([(box.x, box.y), (box.x + box.wide, box.y + box.tall)])
    return np.stack([ends.min(axis=0), ends.max(axis=0)])


def drawn_on(
    work: Working, strokes: list[c.Stroke], hardness: float = 1.0, mirror_x: float | None = None
) -> Floats:
    """Where strokes over the picture as it was brought in lie now, (rows, cols) 0 to 1.

    Parameters
    ----------
    mirror_x : they are there a second time, mirrored in that column
    """
    lines = []
    for stroke in strokes:
        points = np.asarray(stroke.points, np.float64)
        lines.append((work.spots(points), stroke.wide * work.zoom))
        if mirror_x is not None:
            across = points * [-1, 1] + [2 * mirror_x, 0]
            lines.append((work.spots(across), stroke.wide * work.zoom))
    return draw_strokes(lines, work.rows, work.cols, hardness)


def _drawing(work: Working, strokes: list[c.Stroke]) -> isolate.Strokes:
    """Draws strokes on a copy of another size."""

    def draw(rows: int, cols: int) -> Floats:
        scale = np.array([(cols - 1) / (work.cols - 1), (rows - 1) / (work.rows - 1)])
        wider = work.zoom * float(np.sqrt(scale.prod()))
        lines = [
            (work.spots(np.asarray(stroke.points, np.float64)) * scale, stroke.wide * wider)
            for stroke in strokes
        ]
        return draw_strokes(lines, rows, cols, 1.0)

    return draw


def _remove(work: Working, step: c.Remove, _: PictureSource) -> Working:
    if not step.strokes:
        return work
    cover = drawn_on(work, step.strokes)
    if cover.max() == 0:
        raise InvalidValue("remove", "its strokes are not in the picture any more", "Paint again")
    if step.fill == "surroundings":
        return work.shown(remove.fill_from_surroundings(work.pixels, cover))
    if step.source is None:
        raise InvalidValue("remove", "nothing says where to copy from", "Choose the place to copy")
    first, source = work.spots([step.strokes[0].points[0], step.source])
    cover = masks.feather(cover, work.px(step.feather.mm))
    offset = (float(source[0] - first[0]), float(source[1] - first[1]))
    return work.shown(remove.copy_from(work.pixels, cover, offset, step.match_light))


def _fill(work: Working, step: c.Fill, _: PictureSource) -> Working:
    x, y = work.spots(step.at)[0]
    return work.shown(
        paint.fill_area(work.pixels, x, y, step.tolerance, step.contiguous, step.tone)
    )


def _brush(work: Working, step: c.Brush, _: PictureSource) -> Working:
    if not step.strokes:
        return work
    cover = drawn_on(work, step.strokes, step.hardness, step.mirror_x)
    return work.shown(paint.paint(work.pixels, cover, step.tone))


def _overlay(work: Working, step: c.Overlay, pictures: PictureSource) -> Working:
    second = pictures(step.sha256)
    size = step.wide / max(1, second.cols - 1)
    angle = math.radians(step.degrees)
    cos, sin = math.cos(angle) * size, math.sin(angle) * size
    flip = -1.0 if step.mirrored else 1.0
    middle_x, middle_y = (second.cols - 1) / 2, (second.rows - 1) / 2
    turned = np.array([[cos * flip, sin, 0], [-sin * flip, cos, 0], [0, 0, 1]])
    turned[:2, 2] = np.asarray(step.centre) - turned[:2, :2] @ [middle_x, middle_y]
    pixels, cover = overlay.lay_on(
        work.pixels, second, work.place @ turned, step.blend, step.mask, step.opacity
    )
    alpha = None if work.alpha is None else np.maximum(work.alpha, cover)
    return work.having(pixels, alpha)


def _tile(work: Working, step: c.Tile, _: PictureSource) -> Working:
    across, down = (max(1, round(side * step.overlap)) for side in (work.cols, work.rows))
    alpha = None if work.alpha is None else overlay.make_tile(work.alpha, across, down)
    pixels = overlay.make_tile(work.pixels, across, down)
    return work.moved(pixels, alpha, np.eye(3))


_DO: dict[type[Any], Callable[[Working, Any, PictureSource], Working]] = {
    c.Crop: _crop,
    c.Turn: _turn,
    c.Mirror: _mirror,
    c.Resize: _resize,
    c.Enlarge: _enlarge,
    c.Extend: _extend,
    c.TrueSize: _true_size,
    c.Levels: _levels,
    c.Curve: _curve,
    c.Invert: _invert,
    c.Contrast: _contrast,
    c.LocalContrast: _local_contrast,
    c.Exposure: _exposure,
    c.EvenLight: _even_light,
    c.ReadFrom: _read_from,
    c.ToneSteps: _tone_steps,
    c.Threshold: _threshold,
    c.Smooth: _smooth,
    c.Despeckle: _despeckle,
    c.Thicken: _thicken,
    c.Isolate: _isolate,
    c.Remove: _remove,
    c.Fill: _fill,
    c.Brush: _brush,
    c.Overlay: _overlay,
    c.Tile: _tile,
}
