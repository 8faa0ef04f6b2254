"""The map of a form for the heights that are laid on it."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from nebrel.core.errors import InvalidValue
from nebrel.core.forms.maps import FormMap, arc_map, dome_map, globe_map, tube_map
from nebrel.core.heights.relief import Relief
from nebrel.core.recipe.forms import ArcForm, DomeForm, Form, GlobeForm, TubeForm


def lay_map(form: Form, relief: Relief) -> FormMap | None:
    """How the heights of a relief are laid on a form; None for what is flat.

    Raises
    ------
    InvalidValue : the inside would fold over, the opening is wider than the globe, a dome would
        meet itself
    """
    make = _MAPS.get(type(form))
    if make is None:
        return None
    found = make(form, relief.field.wide_mm, relief.field.tall_mm)
    highest = relief.highest_mm
    if found.out < 0 and highest >= 0.95 * found.radius_mm:
        raise InvalidValue(
            "form",
            f"bent to a radius of {found.radius_mm:.2f} mm, heights of {highest:g} mm on the "
            "inside would fold over",
            f"The nearest that works is a height of {0.9 * found.radius_mm:.2f} mm, "
            "or make it wider",
        )
    return found


def _arc(form: ArcForm, wide_mm: float, _tall_mm: float) -> FormMap:
    return arc_map(wide_mm, math.radians(form.bend), form.side)


def _tube(form: TubeForm, wide_mm: float, _tall_mm: float) -> FormMap:
    return tube_map(wide_mm, form.side)


def _globe(form: GlobeForm, wide_mm: float, tall_mm: float) -> FormMap:
    if form.opening.mm >= wide_mm / math.pi * 0.98:
        raise InvalidValue(
            "opening",
            f"{form.opening.mm:g} mm is wider than the globe of {wide_mm / math.pi:.1f} mm",
            f"The nearest that works is {0.95 * wide_mm / math.pi:.1f} mm",
        )
    return globe_map(wide_mm, tall_mm, form.opening.mm, form.side)


def _dome(form: DomeForm, wide_mm: float, tall_mm: float) -> FormMap:
    bend, across = math.radians(form.bend), math.hypot(wide_mm, tall_mm)
    if across / wide_mm * bend / 2 > math.pi * 0.98:
        most = math.degrees(math.pi * 0.98 * 2 * wide_mm / across)
        raise InvalidValue(
            "form",
            f"a dome bent by {form.bend:g}° would meet itself at its corners",
            f"The nearest that works is {most:.0f}°",
        )
    return dome_map(wide_mm, tall_mm, bend, form.side)


# A new form is a model with its traits, a map, and a line here.
_MAPS: dict[type, Callable[[Any, float, float], FormMap]] = {
    ArcForm: _arc,
    TubeForm: _tube,
    GlobeForm: _globe,
    DomeForm: _dome,
}
