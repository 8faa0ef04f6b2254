"""From the corrected picture to heights, as a recipe says."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from nebrel.core.data import Floats, HeightField
from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.heights.chart import chart_heights
from nebrel.core.heights.plateaus import Plateau, part_tones, spread_inside
from nebrel.core.heights.raise_tones import Raised, raise_tones
from nebrel.core.picture.smooth import Method, smooth
from nebrel.core.recipe.models import HeightsStep, Recipe
from nebrel.core.solid.build import Relief


@dataclass(frozen=True)
class Failure:
    """A correction that could not be applied; the others were."""

    index: int
    error: NebrelError


@dataclass(frozen=True)
class Tones:
    """A corrected picture, ready to be raised."""

    tone: Floats
    alpha: Floats | None
    shares: dict[Raised, tuple[float, float]]  # lowest and highest raised share
    rows: int
    cols: int
    wide_mm: float
    tall_mm: float
    bit_depth: int
    notes: tuple[str, ...]
    failures: tuple[Failure, ...]


def extremes(tone: Floats, alpha: Floats | None, raised: Raised) -> tuple[float, float]:
    """Lowest and highest share of the relief depth that a picture reaches."""
    share = raise_tones(tone, alpha, raised, 1.0, 0.0)
    return float(share.min()), float(share.max())


def range_mm(recipe: Recipe, tones: Tones, relief: Relief) -> tuple[float, float]:
    """Lowest and highest height above the underside, mm; at full resolution where known."""
    step = recipe.heights
    if step.mapping == "straight" and step.smooth.mm == 0 and relief.cover is None:
        low, high = tones.shares[step.raised]
        return step.backing.mm + low * step.depth.mm, step.backing.mm + high * step.depth.mm
    if relief.plateaus:
        return relief.plateaus[0].mm, relief.plateaus[-1].mm
    return float(relief.field.mm.min()), float(relief.field.mm.max())


def raise_relief(recipe: Recipe, tones: Tones, solid: bool = True) -> Relief:
    """The heights of a recipe from its corrected picture.

    Parameters
    ----------
    solid : whether a solid is to be made of them, which needs a thickness everywhere

    Raises
    ------
    InvalidValue : nothing is left after cutting, or a spot has no thickness
    """
    step = recipe.heights
    backing = step.backing.mm
    tone, alpha = tones.tone, tones.alpha
    cover = alpha if step.cut_dropped else None
    plateaus: tuple[Plateau, ...] = ()
    if cover is not None:
        tone = spread_inside(tone, cover > 0.9)
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
    elif step.mapping == "chart":
        mm = chart_heights(tone, [(pin.tone, pin.mm.mm) for pin in step.pins if pin.mm])
        mm = mm + np.float32(backing)
    else:
        kept = None if step.cut_dropped else alpha
        mm = raise_tones(tone, kept, step.raised, step.depth.mm, backing)
    if step.smooth.mm > 0 and not plateaus:
        method: Method = "edge_keeping" if step.keep_edges else "gaussian"
        radius = step.smooth.mm / (tones.wide_mm / (mm.shape[1] - 1))
        mm = smooth(mm, radius, method, max(0.05, step.depth.mm / 10))
    relief = Relief(HeightField(mm, tones.wide_mm, tones.tall_mm), cover, plateaus)
    if solid and range_mm(recipe, tones, relief)[0] <= 0:
        raise InvalidValue(
            "backing",
            f"with {backing:g} mm the lowest spot of the relief has no thickness",
            "The nearest that works is a backing of 0.2 mm",
        )
    return relief


def heights_of_tones(step: HeightsStep) -> Floats:
    """Height above the underside of 256 tones from black to white, mm; 0 where it is cut."""
    tones = np.linspace(0, 1, 256, dtype=np.float32)
    backing = np.float32(step.backing.mm)
    if step.mapping == "plateaus":
        nearest = np.abs(tones[:, None] - [pin.tone for pin in step.pins]).argmin(axis=1)
        high = [0.0 if pin.mm is None else step.backing.mm + pin.mm.mm for pin in step.pins]
        return np.asarray(high, np.float32)[nearest]
    if step.mapping == "chart":
        pins = [(pin.tone, pin.mm.mm) for pin in step.pins if pin.mm]
        return chart_heights(tones[None], pins)[0] + backing
    return raise_tones(tones, None, step.raised, step.depth.mm, step.backing.mm)
