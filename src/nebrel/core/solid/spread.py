"""Where art comes to lie on a body, and where again."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import hypot
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.along import LineKind, line_through, set_along
from nebrel.core.forms.cast import Box, around_axis, straight_on
from nebrel.core.forms.lying import Lying, triple
from nebrel.core.forms.unrolled import evened, unroll
from nebrel.core.mesh.place import about, middle_of, turned_about
from nebrel.core.solid.decorate import Mirrored

_BEYOND = 1.02  # of what is needed around the middle
_STEP_MM = 0.05
_TRIES, _SMALLER = 8, 0.8  # times as large, one after the other, in search of what fits
_A_LITTLE_LESS = 0.98
_KNOWN_AGAIN = 3  # reaches from one to twice as much
Place = tuple[float, float, float]
Lay = Callable[..., Lying]
"""From a place, its up, a turn, a size, and whether left for right, to the surface around it."""


@dataclass(frozen=True)
class Placing:
    """How art is placed on a body.

    Attributes
    ----------
    at, up, turn, lie, level, layout, line, repeat, rows, axis : as the recipe has them
    gap_mm, row_gap_mm : from middle to middle
    """

    at: Place
    up: Place
    turn: float
    lie: Literal["surface", "axis", "straight"]
    level: bool
    layout: Literal["around", "rows", "mirror", "along"]
    repeat: int
    rows: int
    gap_mm: float
    row_gap_mm: float
    axis: int
    line: LineKind = "edge"


@dataclass(frozen=True)
class Room:
    """Where there is any art, mm from its middle.

    Attributes
    ----------
    reach_mm : how far around its middle
    box : (left, bottom, right, top)
    """

    reach_mm: float
    box: Box

    @classmethod
    def of(cls, spots: NDArray[np.float64], size_mm: tuple[float, float], more_mm: float) -> Room:
        """Around spots (n, 2), and so much more; within the size of the art."""
        half = np.array(size_mm) / 2
        low = np.maximum(spots.min(axis=0) - more_mm, -half)
        high = np.minimum(spots.max(axis=0) + more_mm, half)
        reach = min(hypot(*half), float(np.hypot(*spots.T).max())) + more_mm
        left, bottom, right, top = (float(side) for side in (*low, *high))
        return cls(reach, (left, bottom, right, top))

    def mirrored(self) -> Room:
        """Left for right."""
        left, bottom, right, top = self.box
        return Room(self.reach_mm, (-right, bottom, -left, top))


def spread(
    body: Mesh,
    how: Placing,
    size_mm: tuple[float, float],
    draft: bool = False,
    coarse: Callable[[], Mesh | None] | None = None,
    room: Room | None = None,
) -> tuple[Lying | Mirrored, ...]:
    """The surface around every place that art is laid on.

    Parameters
    ----------
    body : closed
    size_mm : width and height of the art
    draft, coarse : as of `unroll`
    room : where there is any art; left out: all over

    Raises
    ------
    InvalidValue : as `unroll`, `around_axis`, `straight_on`, `line_through`, `set_along`
    """

    def lying(
        at: Place, up: Place, turn: float, size: tuple[float, float], left: bool = False
    ) -> Lying:
        own = room if size == size_mm else None  # and not the room for the middles of all
        if left and own is not None:
            own = own.mirrored()
        box = None if own is None else own.box
        if how.lie == "axis":
            return around_axis(body, at, up, turn, size, how.axis, how.level, box)
        if how.lie == "straight":
            return straight_on(body, at, up, turn, size, box)
        reach = reach_of(size) if own is None else own.reach_mm * _BEYOND

        def unrolled(share: float) -> Lying:
            return unroll(body, at, up, turn, reach * share, draft, coarse)

        try:
            return unrolled(1.0)
        except InvalidValue as error:
            if error.what != "size" or draft:  # nobody waits for what is being dragged
                raise
            raise InvalidValue(error.what, error.why, _fitting(unrolled, size)) from error

    if how.layout == "mirror":
        return _mirrored(body, how, size_mm, lying)
    if how.layout == "rows":
        return tuple(_in_rows(how, size_mm, lying))
    if how.layout == "along":
        line = line_through(body, how.at, how.line, how.axis)
        own = set_along(body, line, how.at, how.up, how.repeat, how.gap_mm)
        return tuple(lying(at, up, how.turn, size_mm) for at, up in own)
    middle = np.array(turned_about(body, how.axis))
    places = []
    for number in range(how.repeat):
        round_ = about(how.axis, 360 * number / how.repeat)
        there = triple(round_ @ (np.array(how.at) - middle) + middle)
        places.append(lying(there, triple(round_ @ np.array(how.up)), how.turn, size_mm))
    return tuple(places)


def _fitting(unrolled: Callable[[float], Lying], size_mm: tuple[float, float]) -> str:
    """What to do where art is too large: how large it may be there, found by trying."""

    def lies(share: float) -> bool:
        try:
            unrolled(share)
        except InvalidValue:
            return False
        return True

    # From above: what is smaller does not always lie where what is larger does.
    for n in range(1, _TRIES + 1):
        share = _SMALLER**n
        if not lies(share):
            continue
        for said in (share * (1 + 1 / _SMALLER) / 2, share):
            # A little less is said, and tried as well.
            fits = said * _A_LITTLE_LESS
            if lies(said) and lies(fits):
                wide, tall = (side * fits for side in size_mm)
                return f"Make it no larger than {wide:.3g} × {tall:.3g} mm, or choose another place"
    return "Choose another place: made much smaller it does not lie there either"


def reach_of(size_mm: tuple[float, float]) -> float:
    """How far around its middle art reaches, and a little more."""
    return hypot(*size_mm) / 2 * _BEYOND


def reach_known_again(reach_mm: float) -> float:
    """A little less than a reach, and the same for those near to it: while art is sized."""
    return float(2 ** (np.floor(_KNOWN_AGAIN * np.log2(reach_mm)) / _KNOWN_AGAIN))


def evened_for(body: Mesh, reach_mm: float) -> Mesh | None:
    """As of `evened`, for art that reaches so far."""
    return evened(body, reach_mm * _BEYOND)


def _mirrored(
    body: Mesh, how: Placing, size_mm: tuple[float, float], lying: Lay
) -> tuple[Lying | Mirrored, ...]:
    flip = np.ones(3)
    flip[how.axis] = -1
    middle = np.array(middle_of(body))
    there = triple((np.array(how.at) - middle) * flip + middle)
    first = lying(how.at, how.up, how.turn, size_mm)
    second = lying(there, triple(np.array(how.up) * flip), -how.turn, size_mm, True)
    return first, Mirrored(second)


def _in_rows(how: Placing, size_mm: tuple[float, float], lying: Lay) -> Iterator[Lying]:
    """Along the surface around the middle of all, each with its own up."""
    u = (np.arange(how.repeat) - (how.repeat - 1) / 2) * how.gap_mm
    v = (np.arange(how.rows) - (how.rows - 1) / 2) * how.row_gap_mm
    if how.repeat == how.rows == 1:
        yield lying(how.at, how.up, how.turn, size_mm)
        return
    wide, tall = float(np.ptp(u)), float(np.ptp(v))
    if (how.repeat > 1 and how.gap_mm < 1e-9) or (how.rows > 1 and how.row_gap_mm < 1e-9):
        raise InvalidValue("repeat", "all would lie in one place", "Set them further apart")
    # Large enough for the middles; what lies around each is looked at by itself.
    room = max(wide, 4 * _STEP_MM) * 1.02, max(tall, 4 * _STEP_MM) * 1.02
    whole = lying(how.at, how.up, how.turn, room)
    for y in v:
        for x in u:
            here, ahead = whole.place(np.array([[x, y, 0.0], [x, y + _STEP_MM, 0.0]]))
            yield lying(triple(here), triple(ahead - here), 0.0, size_mm)
