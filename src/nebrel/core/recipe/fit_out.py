"""From the fittings of a recipe to solids that are joined to the piece."""

from __future__ import annotations

import numpy as np

from nebrel.core.errors import InvalidValue
from nebrel.core.heights.relief import Relief
from nebrel.core.recipe.fittings import Eyelet, Fitting, Foot, SocketRing, Tabs
from nebrel.core.recipe.forms import Form, called_so
from nebrel.core.solid.fit import FlatFit, RingFit, sunk


def fit_out(
    fitting: Fitting, form: Form, relief: Relief, round_edge: bool = False
) -> list[FlatFit] | RingFit:
    """A fitting, ready to be joined: over the flat extent, or about the axis of what stands.

    Raises
    ------
    InvalidValue : it does not go with the piece
    """
    called = called_so(form, round_edge)
    if isinstance(fitting, SocketRing):
        return _ring(fitting, form, called, relief)
    if round_edge or not form.straight:
        raise _no_edge(fitting, called)
    return _flat(fitting, relief)


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


def _flat(fitting: Eyelet | Foot | Tabs, relief: Relief) -> list[FlatFit]:
    field = relief.field
    wide, tall, into = field.wide_mm, field.tall_mm, sunk(field)
    if isinstance(fitting, Eyelet):
        radius, lug = fitting.hole.mm / 2, fitting.hole.mm / 2 + fitting.band.mm
        x = min(wide - lug, max(lug, fitting.across * wide))
        if wide < 2 * lug:
            raise InvalidValue(
                "eyelet",
                f"a lug of {2 * lug:g} mm is wider than the piece of {wide:g} mm",
                f"The nearest hole that works is {max(0.2, wide - 2 * fitting.band.mm):.1f} mm",
            )
        y = tall + lug * 0.6
        low, high = (x - lug, tall - into, 0.0), (x + lug, y + lug, fitting.thick.mm)
        return [FlatFit(low, high, (x, y, radius), lug)]
    if isinstance(fitting, Foot):
        share = fitting.wide * wide / 2
        low = (wide / 2 - share, -fitting.thick.mm, -fitting.back.mm)
        high = (wide / 2 + share, into, fitting.front.mm)
        thin = _edge_mm(relief, "lower")
        # What reaches into the piece stays within its thickness.
        plate = FlatFit(low, (high[0], 0.02, high[2]))
        stem = FlatFit((low[0], -0.02, 0.0), (high[0], into, thin))
        return [plate, stem]
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
