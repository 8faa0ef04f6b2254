"""From the build-up to what is made of it: loose parts, draft, mirror and negative."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.heights.islands import Island, drop_islands, find_islands, hold_islands
from nebrel.core.heights.relief import Relief
from nebrel.core.recipe.at_hand import Printer


@dataclass(frozen=True)
class Settled:
    """A build-up with its loose parts seen to and its walls leaned.

    Attributes
    ----------
    islands : parts that are connected to nothing, as they were before they were dropped or held
    """

    relief: Relief
    islands: tuple[Island, ...] = ()


def settle(
    relief: Relief,
    islands: Literal["keep", "drop", "hold"],
    hold_mm: float,
    draft: float,
    around: bool,
) -> Settled:
    """Islands dropped or held, walls leaned by degrees.

    Parameters
    ----------
    around : whether the two ends of the width meet
    """
    found, labels = find_islands(relief, around)
    if found and islands == "drop":
        relief = replace(relief, above=(*relief.above, drop_islands(relief, labels)))
    elif found and islands == "hold":
        relief = replace(relief, above=(*relief.above, hold_islands(relief, labels, hold_mm)))
    if draft > 0:
        from nebrel.core.heights.draft import lean

        backing, room = relief.backing_mm, relief.room_mm
        ends = relief.ends
        relief = replace(lean(relief, draft), backing_mm=backing, room_mm=room, ends=ends)
    return Settled(relief, tuple(found))


def turn(settled: Settled, mirror: bool, negative: bool) -> Relief:
    """A relief as it will be made: left for right, high for low.

    Raises
    ------
    InvalidValue : it has no backing to be the negative of
    """
    relief = settled.relief
    if mirror:
        relief = relief.mirrored()
    return _negative(relief) if negative else relief


def _negative(relief: Relief) -> Relief:
    """Upside down between the backing and the top."""
    if relief.backing_mm <= 0:
        raise InvalidValue(
            "negative",
            "without a backing its lowest spots would have no thickness",
            "The nearest that works is a backing of 0.2 mm",
        )
    return replace(relief, negative_mm=relief.top_mm + relief.backing_mm)


def doubts(
    printer: Printer, backing_mm: float, relief: Relief, low_mm: float, high_mm: float
) -> list[NebrelError]:
    """What of the heights as a whole will hardly print."""
    found: list[NebrelError] = []
    if 0 < low_mm < printer.layer_mm:
        found.append(
            InvalidValue(
                "thinnest",
                f"the thinnest spot of {low_mm:.3g} mm is less than one print layer of "
                f"{printer.layer_mm:g} mm",
                f"The nearest that prints is a backing of "
                f"{backing_mm + printer.layer_mm - low_mm:.3g} mm",
            )
        )
    depth = high_mm - low_mm
    if 1e-4 < depth < printer.layer_mm:
        found.append(
            InvalidValue(
                "relief depth",
                f"all of the relief is {depth:.3g} mm, less than one print layer of "
                f"{printer.layer_mm:g} mm",
                f"The nearest that prints is {printer.layer_mm:g} mm",
            )
        )
    size = max(relief.field.wide_mm, relief.field.tall_mm)
    if size < 2 * printer.line_mm:
        found.append(
            InvalidValue(
                "size",
                f"{size:g} mm is less than two nozzle lines ({2 * printer.line_mm:g} mm)",
                f"The nearest that prints is {2 * printer.line_mm:g} mm",
            )
        )
    return found
