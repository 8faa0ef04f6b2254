"""From the build-up to what is made of it: islands, draft, mirror and negative."""

from __future__ import annotations

from dataclasses import dataclass, replace

from nebrel.core.errors import InvalidValue
from nebrel.core.heights.islands import Island, drop_islands, find_islands, hold_islands
from nebrel.core.heights.relief import Relief
from nebrel.core.recipe.art import Art
from nebrel.core.recipe.at_hand import Printer
from nebrel.core.recipe.lay_out import Remark


@dataclass(frozen=True)
class TurnedOut:
    """A relief as it will be made.

    Attributes
    ----------
    islands : parts that are connected to nothing, as they were before they were dropped or held
    """

    relief: Relief
    islands: tuple[Island, ...] = ()


def turn_out(step: Art, around: bool, relief: Relief) -> TurnedOut:
    """Islands dropped or held, walls leaned, left for right, high for low; as the art says.

    Parameters
    ----------
    around : whether the two ends of the width meet
    """
    islands, labels = find_islands(relief, around)
    if islands and step.islands == "drop":
        relief = replace(relief, above=(*relief.above, drop_islands(relief, labels)))
    elif islands and step.islands == "hold":
        relief = replace(relief, above=(*relief.above, hold_islands(relief, labels, step.hold.mm)))
    if step.draft > 0:
        from nebrel.core.heights.draft import lean

        relief = lean(relief, step.draft)
        relief = replace(relief, backing_mm=step.backing.mm)
    if step.mirror:
        relief = relief.mirrored()
    if step.negative:
        relief = _negative(relief)
    return TurnedOut(relief, tuple(islands))


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
) -> list[Remark]:
    """What of the heights as a whole will hardly print."""
    found = []
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
    return [Remark("", False, error) for error in found]
