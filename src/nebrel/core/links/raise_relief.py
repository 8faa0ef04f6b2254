"""From the corrected picture to heights, as a recipe says."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nebrel.core.data import Floats, HeightField
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.chart import chart_heights
from nebrel.core.heights.compress import compress_relief
from nebrel.core.heights.laid import Laid, join_over, shape_edge
from nebrel.core.heights.plateaus import Plateau, part_tones, spread_inside
from nebrel.core.heights.profiles import drop_mm, profile_share
from nebrel.core.heights.raise_tones import Raised, raise_tones
from nebrel.core.heights.relief import PictureRule, Relief
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.shapes import rectangle
from nebrel.core.outline.trace import trace_mm
from nebrel.core.picture.masks import signed_distance
from nebrel.core.picture.smooth import Method, smooth
from nebrel.core.proof.light import thickness_for
from nebrel.core.recipe.build_up import Entry, PictureEntry
from nebrel.core.recipe.placed import Profile


@dataclass(frozen=True)
class Tones:
    """A corrected picture, ready to be raised.

    Attributes
    ----------
    tone, alpha : (rows, cols) float32
    shares : lowest and highest raised share, at full resolution where that is known
    """

    tone: Floats
    alpha: Floats | None
    shares: dict[Raised, tuple[float, float]]


def extremes(tone: Floats, alpha: Floats | None, raised: Raised) -> tuple[float, float]:
    """Lowest and highest share of the relief depth that a picture reaches."""
    if alpha is None:  # without a copy of what may be a hundred megapixels
        low, high = tone.min(), tone.max()
        return (
            (float(low), float(high))
            if raised == "light"
            else (float(np.float32(1) - high), float(np.float32(1) - low))
        )
    share = raise_tones(tone, alpha, raised, 1.0, 0.0)
    return float(share.min()), float(share.max())


def range_mm(
    entry: PictureEntry | None, tones: Tones | None, relief: Relief, leaning: bool = False
) -> tuple[float, float]:
    """Lowest and highest height above the underside, mm; at full resolution where known.

    Parameters
    ----------
    entry, tones : of the picture, where there is one
    leaning : whether its walls were leaned
    """
    if entry and tones and relief.plain and relief.negative_mm == 0 and not leaning:
        if entry.mapping == "straight" and entry.smooth.mm == 0 and relief.cover is None:
            low, high = (share * entry.depth.mm for share in tones.shares[entry.raised])
            return relief.backing_mm + low, relief.backing_mm + high
        if relief.plateaus and not relief.steps:
            return relief.plateaus[0].mm, relief.plateaus[-1].mm
    field, there = relief.joined()
    kept = field.mm if there is None else field.mm[there]
    return float(kept.min()), relief.top_mm


def raise_relief(
    backing_mm: float,
    step: PictureEntry,
    tones: Tones,
    size_mm: tuple[float, float],
    attenuation_per_mm: float,
) -> Relief:
    """The heights of a corrected picture.

    Parameters
    ----------
    step : what its tones become
    size_mm : width and height of the picture
    attenuation_per_mm : of the material, for heights that are made by light

    Raises
    ------
    InvalidValue : nothing is left after cutting
    """
    backing = backing_mm
    tone, alpha = tones.tone, tones.alpha
    cover = alpha if step.cut_dropped else None
    plateaus: tuple[Plateau, ...] = ()
    if cover is not None:
        tone = spread_inside(tone, cover)
    if step.mapping == "plateaus":
        found, mm = part_tones(
            tone,
            [pin.tone for pin in step.pins],
            [None if pin.mm is None else backing + pin.mm.mm for pin in step.pins],
        )
        if cover is not None:
            found = [replace(part, cover=np.minimum(part.cover, cover)) for part in found]
        if not found:
            raise InvalidValue(
                "heights", "nothing is left after cutting through", "Cut fewer tones, or keep more"
            )
        plateaus, cover = tuple(found), None
    elif step.mapping == "light":
        thick = backing + step.depth.mm
        mm = thickness_for(tone, backing, thick, attenuation_per_mm)
        if alpha is not None and not step.cut_dropped:
            mm = backing + (mm - np.float32(backing)) * alpha
    elif step.mapping == "chart":
        mm = chart_heights(tone, [(pin.tone, pin.mm.mm) for pin in step.pins if pin.mm])
        mm = mm + np.float32(backing)
    else:
        kept = None if step.cut_dropped else alpha
        mm = raise_tones(tone, kept, step.raised, step.depth.mm, backing)
    if step.compression.strength > 0 and not plateaus:
        mm = compress_relief(mm, step.compression.strength, step.compression.detail)
    if step.smooth.mm > 0 and not plateaus:
        method: Method = "edge_keeping" if step.keep_edges else "gaussian"
        radius = step.smooth.mm / (size_mm[0] / (mm.shape[1] - 1))
        mm = smooth(mm, radius, method, max(0.05, step.depth.mm / 10))
    field = HeightField(mm, *size_mm)
    relief = Relief(field, cover, plateaus, backing_mm=backing)
    if step.profile.kind != "sharp":
        relief = _with_profile(relief, step.profile)
    return relief


def sound_picture(relief: Relief, step: PictureEntry, tones: Tones) -> Relief:
    """The heights of a picture, of which a solid can be made.

    Raises
    ------
    InvalidValue : a spot has no thickness
    """
    if range_mm(step, tones, relief)[0] <= 0:
        raise InvalidValue(
            "backing",
            f"with {relief.backing_mm:g} mm the lowest spot of the relief has no thickness",
            "The nearest that works is a backing of 0.2 mm",
        )
    return relief


def _with_profile(relief: Relief, profile: Profile) -> Relief:
    """Plateaus, or what is kept when the dropped is cut, with a shaped edge."""
    reach, softness, kind = profile.reach.mm, profile.softness, profile.kind
    field, base = relief.field, relief.backing_mm
    if relief.plateaus:
        steps = []
        for plateau in relief.plateaus:
            outline = trace_mm(plateau.cover, *field.pitch_mm)
            start = base if base < plateau.mm else plateau.mm
            patch = shape_edge(outline, start, plateau.mm, kind, reach, softness, 0.0)
            steps.append(Laid("highest", outline, plateau.mm, patch))
            base = plateau.mm
        lowest = relief.plateaus[0]
        low = min(lowest.mm, max(relief.backing_mm, 0.2))
        flat = HeightField(np.full_like(field.mm, low), field.wide_mm, field.tall_mm)
        raised, _ = join_over(flat, lowest.cover >= 0.5, steps)
        floor = replace(lowest, mm=low)
        return replace(relief, field=raised, plateaus=(floor,), steps=tuple(steps))
    if relief.cover is None:
        return relief
    pitch = np.float32(field.pitch_mm[0])
    share = profile_share(signed_distance(relief.cover) * pitch, kind, reach, softness)
    rise = np.maximum(field.mm - np.float32(base), 0)
    fall = drop_mm(kind, reach, float(rise.max())) * (1 - share)
    shaped = rise * share if kind == "pillow" else np.maximum(rise - fall, 0)
    return replace(relief, field=replace(field, mm=(base + shaped).astype(np.float32)))


def only_picture(entries: Sequence[Entry]) -> bool:
    """Whether the build-up is the picture and nothing else that is switched on."""
    return all(
        entry.enabled and entry.rule == "replace" if entry.kind == "picture" else not entry.enabled
        for entry in entries
    )


def edge_of(relief: Relief) -> Outline | None:
    """The outline of what a picture leaves; None when it is all of it."""
    cover = relief.plateaus[0].cover if relief.plateaus else relief.cover
    return None if cover is None else trace_mm(cover, *relief.field.pitch_mm)


def picture_outline(tones: Tones, size_mm: tuple[float, float]) -> Outline:
    """The outline of what a picture keeps of itself: all of it where nothing is transparent."""
    wide, tall = size_mm
    alpha = tones.alpha
    if alpha is not None and float(alpha.min()) < 0.5 <= float(alpha.max()):
        rows, cols = alpha.shape
        return trace_mm(alpha, wide / (cols - 1), tall / (rows - 1))
    return rectangle(wide, tall).moved(wide / 2, tall / 2)


def blank(shape: tuple[int, int], size_mm: tuple[float, float], backing_mm: float) -> Relief:
    """The bare backing, where there is no picture or it is switched off.

    Parameters
    ----------
    shape : rows and cols of the field that heights are read from
    """
    flat = np.full(shape, backing_mm, np.float32)
    return Relief(HeightField(flat, *size_mm), backing_mm=backing_mm, blank=True)


def built_up(
    relief: Relief,
    below: Sequence[Laid | None],
    above: Sequence[Laid | None],
    rule: PictureRule,
) -> Relief:
    """A relief with the entries of a build-up on either side of its picture.

    Parameters
    ----------
    below, above : None for what is refused or empty
    """
    kept = (tuple(entry for entry in side if entry is not None) for side in (below, above))
    under, over = kept
    return replace(relief, below=under, above=over, rule=rule)


def sound_build_up(relief: Relief) -> Relief:
    """A build-up, of which a solid can be made.

    Raises
    ------
    InvalidValue : nothing is left after cutting, or a spot has no thickness
    """
    heights, there = relief.joined()
    if there is not None and not there.any():
        raise InvalidValue(
            "build-up", "nothing is left after cutting through", "Cut less, or keep more"
        )
    lowest = float(heights.mm.min() if there is None else heights.mm[there].min())
    if lowest <= 0:
        raise InvalidValue(
            "build-up",
            f"its lowest spot comes to {lowest:.3g} mm above the underside",
            f"The nearest that works is a backing of {relief.backing_mm - lowest + 0.2:.2g} mm",
        )
    return relief


def heights_of_tones(backing_mm: float, step: PictureEntry, attenuation_per_mm: float) -> Floats:
    """Height above the underside of 256 tones from black to white, mm; 0 where it is cut."""
    tones = np.linspace(0, 1, 256, dtype=np.float32)
    backing = np.float32(backing_mm)
    if step.mapping == "plateaus":
        nearest = np.abs(tones[:, None] - [pin.tone for pin in step.pins]).argmin(axis=1)
        high = [0.0 if pin.mm is None else backing_mm + pin.mm.mm for pin in step.pins]
        return np.asarray(high, np.float32)[nearest]
    if step.mapping == "light":
        thick = backing_mm + step.depth.mm
        return thickness_for(tones, backing_mm, thick, attenuation_per_mm)
    if step.mapping == "chart":
        pins = [(pin.tone, pin.mm.mm) for pin in step.pins if pin.mm]
        return chart_heights(tones[None], pins)[0] + backing
    return raise_tones(tones, None, step.raised, step.depth.mm, backing_mm)
