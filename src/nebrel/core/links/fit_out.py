"""From the fittings of a recipe to solids that are joined to the piece."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from nebrel.core.errors import InvalidValue
from nebrel.core.heights.relief import Relief
from nebrel.core.outline import shapes
from nebrel.core.outline.outline import Outline
from nebrel.core.recipe.fittings import (
    Eyelet,
    Fitting,
    Foot,
    Handle,
    Keyhole,
    MagnetPocket,
    SocketRing,
    Tabs,
)
from nebrel.core.recipe.forms import Form, called_so
from nebrel.core.solid.fit import ColumnFit, Fit, FlatFit, RingFit, sunk
from nebrel.core.solid.places import Ground

_WALL_MM = 0.8  # at least, beside a pocket
_HELD = 0.3  # of an eyelet's band stands between its hole and the piece


def fit_out(
    fitting: Fitting, form: Form, relief: Relief, edge: str = "rectangle"
) -> list[Fit] | RingFit:
    """A fitting, ready to be joined: over the flat extent, or about the axis of what stands.

    Parameters
    ----------
    edge : where the backing ends, as the recipe's art says

    Raises
    ------
    InvalidValue : it does not go with the piece
    """
    called = called_so(form, edge == "round")
    if isinstance(fitting, SocketRing):
        return _ring(fitting, form, called, relief)
    if form.around:
        raise _no_edge(fitting, called)
    if edge != "rectangle" and isinstance(fitting, Tabs):
        raise _no_edge(fitting, called if edge == "round" else "piece with such a backing")
    if type(fitting) in _ANYWHERE:
        return _ANYWHERE[type(fitting)](fitting, Ground(relief, edge == "round"))
    if not form.straight:
        raise _no_edge(fitting, called)
    if edge == "rectangle":
        return _STRAIGHT[type(fitting)](fitting, relief)
    return _BESIDE[type(fitting)](fitting, Ground(relief, edge == "round"))


def _ring(fitting: SocketRing, form: Form, called: str, relief: Relief) -> RingFit:
    if not form.around:
        raise InvalidValue("socket", f"a {called} has no inside", "Choose a tube or a globe")
    hole = fitting.lamp.mm + fitting.clearance.mm
    inner = form.room_mm(relief.field.wide_mm)
    if hole > inner - 1.6:
        raise InvalidValue(
            "lamp",
            f"{fitting.lamp.mm:g} mm is larger than the {form.kind} takes",
            f"The nearest that works is {max(1.0, inner - 1.6 - fitting.clearance.mm):.1f} mm",
        )
    return RingFit(hole, fitting.thick.mm)


def _no_edge(fitting: Fitting, called: str) -> InvalidValue:
    why = f"a {called} has no straight edge for it"
    return InvalidValue(fitting.kind, why, "Choose a panel, an arc or a dome")


# Along straight edges


def _eyelet(fitting: Eyelet, relief: Relief) -> list[Fit]:
    field = relief.field
    wide, tall, into = field.wide_mm, field.tall_mm, sunk(field)
    radius, lug = fitting.hole.mm / 2, fitting.hole.mm / 2 + fitting.band.mm
    x = min(wide - lug, max(lug, fitting.across * wide))
    if wide < 2 * lug:
        raise _too_wide(fitting, wide)
    y = tall + lug * 0.6
    low, high = (x - lug, tall - into, 0.0), (x + lug, y + lug, fitting.thick.mm)
    return [FlatFit(low, high, (x, y, radius), lug)]


def _too_wide(fitting: Eyelet, wide: float) -> InvalidValue:
    lug = fitting.hole.mm / 2 + fitting.band.mm
    return InvalidValue(
        "eyelet",
        f"a lug of {2 * lug:g} mm is wider than the piece of {wide:g} mm",
        f"The nearest hole that works is {max(0.2, wide - 2 * fitting.band.mm):.1f} mm",
    )


def _foot(fitting: Foot, relief: Relief) -> list[Fit]:
    field = relief.field
    wide, into = field.wide_mm, sunk(field)
    share = fitting.wide * wide / 2
    low = (wide / 2 - share, -fitting.thick.mm, -fitting.back.mm)
    high = (wide / 2 + share, into, fitting.front.mm)
    thin = _edge_mm(relief, "lower")
    # What reaches into the piece stays within its thickness.
    plate = FlatFit(low, (high[0], 0.02, high[2]))
    stem = FlatFit((low[0], -0.02, 0.0), (high[0], into, thin))
    return [plate, stem]


def _tabs(fitting: Tabs, relief: Relief) -> list[Fit]:
    field = relief.field
    wide, tall, into = field.wide_mm, field.tall_mm, sunk(field)
    thick = fitting.slot.mm - fitting.clearance.mm
    most = min(_edge_mm(relief, "left"), _edge_mm(relief, "right"))
    if thick <= 0.2:
        raise InvalidValue(
            "clearance",
            f"{fitting.clearance.mm:g} mm leaves no tab in a slot of {fitting.slot.mm:g} mm",
            f"The nearest that works is {max(0.0, fitting.slot.mm - 0.4):.2f} mm",
        )
    if thick > most + 1e-3:
        raise InvalidValue(
            "tabs",
            f"{thick:g} mm is thicker than the panel at its side, {most:.2f} mm",
            f"The nearest that works is a slot of {most + fitting.clearance.mm:.2f} mm, "
            "or a thicker rim",
        )
    out = fitting.wide.mm
    return [
        FlatFit((-out, 0.0, 0.0), (into, tall, thick)),
        FlatFit((wide - into, 0.0, 0.0), (wide + out, tall, thick)),
    ]


def _edge_mm(relief: Relief, edge: str) -> float:
    """The least thickness along an edge, where anything is there."""
    field, there = relief.joined()
    turned = {"left": 0, "lower": 1, "right": 2}[edge]
    line = np.rot90(field.mm, -turned)[:, 0]
    if there is not None:
        line = line[np.rot90(there, -turned)[:, 0]]
    if not line.size:
        raise InvalidValue(edge, "nothing is there to hold a fitting", "Cut less at that edge")
    return float(line.min())


# Beside an edge that is no straight line


def _eyelet_beside(fitting: Eyelet, ground: Ground) -> list[Fit]:
    radius, band = fitting.hole.mm / 2, fitting.band.mm
    low, high = ground.outline.bounds
    wide = float(high[0] - low[0])
    if wide < 2 * (radius + band):
        raise _too_wide(fitting, wide)
    away = radius + _HELD * band
    x = float(low[0]) + fitting.across * wide
    place = x, ground.above(x, away)
    lug = _round(radius + band).moved(*place)
    hole = _round(radius).moved(*place)
    loops = (*lug.loops, *(loop[::-1] for loop in hole.loops))
    return [ColumnFit(Outline(loops), 0.0, fitting.thick.mm)]


def _foot_beside(fitting: Foot, ground: Ground) -> list[Fit]:
    low, high = ground.outline.bounds
    middle, half = float(low[0] + high[0]) / 2, fitting.wide * float(high[0] - low[0]) / 2
    floor = float(low[1])
    reach, thin = ground.lower_edge(middle - half, middle + half)
    top = min(reach + 0.4, floor + 0.35 * float(high[1] - floor))
    plate = FlatFit(
        (middle - half, floor - fitting.thick.mm, -fitting.back.mm),
        (middle + half, floor + 0.02, fitting.front.mm),
    )
    stem = FlatFit((middle - half, floor - 0.02, 0.0), (middle + half, top, thin))
    return [plate, stem]


# Under the piece, wherever there is room


def _magnets(fitting: MagnetPocket, ground: Ground) -> list[Fit]:
    radius = (fitting.wide.mm + fitting.clearance.mm) / 2
    thick = fitting.deep.mm + fitting.over.mm
    places = ground.rooms(radius + _WALL_MM, thick, fitting.count)
    pocket = _round(radius)
    return [ColumnFit(pocket.moved(*place), -1.0, fitting.deep.mm, True) for place in places]


def _keyhole(fitting: Keyhole, ground: Ground) -> list[Fit]:
    head = (fitting.head.mm + fitting.clearance.mm) / 2
    neck = (fitting.neck.mm + fitting.clearance.mm) / 2
    if neck >= head - 0.2:
        raise InvalidValue(
            "keyhole",
            f"a head of {fitting.head.mm:g} mm does not hang behind a neck of "
            f"{fitting.neck.mm:g} mm",
            f"The nearest head that hangs is {fitting.neck.mm + 2:g} mm",
        )
    slot, lip = fitting.slot.mm, fitting.lip.mm
    top = lip + fitting.deep.mm
    across, up = 2 * (head + _WALL_MM), slot + 2 * (head + _WALL_MM)
    x, y = ground.highest_room(across, up, top + fitting.over.mm)
    low = y - slot / 2
    return [
        ColumnFit(_round(head).moved(x, low), -1.0, top, True),
        ColumnFit(_slot(neck, slot).moved(x, y), -1.0, lip + 0.01, True),
        ColumnFit(_slot(head, slot).moved(x, y), lip, top, True),
    ]


def _handle(fitting: Handle, ground: Ground) -> list[Fit]:
    wide = fitting.wide.mm
    if fitting.shape == "knob":
        outline = _round(wide / 2)
    else:
        outline = shapes.rectangle(wide, fitting.thick.mm, min(wide, fitting.thick.mm) * 0.3)
    place = ground.under(wide / 2 if fitting.shape == "knob" else fitting.thick.mm / 2)
    # What reaches into the piece stays within its thickness.
    return [ColumnFit(outline.moved(*place), -fitting.high.mm, 0.02)]


def _round(radius: float) -> Outline:
    return shapes.ellipse(2 * radius, 2 * radius)


def _slot(radius: float, length: float) -> Outline:
    return shapes.rectangle(2 * radius, length + 2 * radius, radius)


# A new fitting is a model, a function here, and its line in one of these tables.
_STRAIGHT: dict[type, Callable[[Any, Relief], list[Fit]]] = {
    Eyelet: _eyelet,
    Foot: _foot,
    Tabs: _tabs,
}
_BESIDE: dict[type, Callable[[Any, Ground], list[Fit]]] = {
    Eyelet: _eyelet_beside,
    Foot: _foot_beside,
}
_ANYWHERE: dict[type, Callable[[Any, Ground], list[Fit]]] = {
    MagnetPocket: _magnets,
    Keyhole: _keyhole,
    Handle: _handle,
}
