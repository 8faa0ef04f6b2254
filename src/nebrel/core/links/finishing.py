"""How closely a recipe's triangles follow its heights, in numbers."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from nebrel.core.choices import Method
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.made import Machine
from nebrel.core.recipe.models import Recipe

_EXACT_MM = 0.01
_LEAST_MM = 0.005
_OF_A_LAYER = 1 / 12
_OF_A_LINE = 1 / 8
_DRAFT_STEPS = 40
_TRIES = 9
_NEAR = 0.9  # of a limit: close enough to stop looking

Found = TypeVar("Found")


@dataclass(frozen=True)
class Finishing:
    """What the triangles are made by.

    Attributes
    ----------
    machine : what cannot be made is averaged away before; None for all that is in the picture
    most : the most triangles of the whole piece, or None
    """

    tolerance_mm: float
    method: Method
    machine: Machine | None = None
    most: int | None = None

    def as_key(self) -> list[Any]:
        """All of it, as plain values."""
        machine = self.machine
        known = None if machine is None else [*machine.pitch, *machine.shows, machine.layer]
        return [self.tolerance_mm, self.method, known, self.most]


def finishing(recipe: Recipe, draft: bool = False) -> Finishing:
    """What the recipe asks for, or what is enough for a draft of it."""
    finish, printer = recipe.triangles, recipe.made_with.printer
    typed = None if finish.tolerance is None else finish.tolerance.mm
    if finish.detail == "picture":
        tolerance, machine = typed or _EXACT_MM, None
    else:
        tolerance = typed or max(_LEAST_MM, printer.layer_mm * _OF_A_LAYER)
        standing = stands(recipe)
        own = None if finish.pitch is None else finish.pitch.mm
        across = own or printer.line_mm * _OF_A_LINE
        machine = Machine(
            (across, (own or printer.layer_mm / 2) if standing else across),
            (printer.line_mm, printer.layer_mm if standing else printer.line_mm),
            printer.layer_mm,
        )
    if draft:
        return Finishing(max(tolerance, recipe.relief.art.depth_mm / _DRAFT_STEPS), "auto")
    return Finishing(tolerance, finish.method, machine, finish.most)


def stands(recipe: Recipe) -> bool:
    """Whether the piece is printed upright, so that its rows are layers."""
    return recipe.relief.form.standing or recipe.proof.light.printed == "standing"


def within(
    most: int,
    tolerance_mm: float,
    make: Callable[[float], Found],
    count: Callable[[Found], int],
    coarsest_mm: float = math.inf,
) -> tuple[float, Found]:
    """The finest tolerance, from one on, that keeps a limit on triangles; and what it made.

    Parameters
    ----------
    coarsest_mm : beyond, nothing of the piece would be left

    Raises
    ------
    InvalidValue : no tolerance keeps it
    """
    low, found = tolerance_mm, make(tolerance_mm)
    over = first = count(found)
    if over <= most:
        return tolerance_mm, found
    best: tuple[float, Found] | None = None
    power = 0.8  # by which triangles become fewer as the tolerance grows: learnt on the way
    for _ in range(_TRIES):
        if best is None:
            if low >= coarsest_mm:
                break
            now = min(coarsest_mm, low * min(8.0, max(1.2, (over / most) ** (1 / power))))
        else:
            now = math.sqrt(low * best[0])
        found = make(now)
        if count(found) > most:
            power = min(1.25, max(0.1, math.log(over / count(found)) / math.log(now / low)))
            low, over = now, count(found)
        else:
            best = now, found
            if count(found) > _NEAR * most or best[0] < 1.05 * low:
                break
    if best is None:
        raise InvalidValue(
            "limit",
            f"the piece has {first} triangles, and {over} even within {low:.2g} mm",
            f"Allow at least {over}, or leave more out",
        )
    return best
