"""What of the lines that were traced is left out, in a module that loads nothing heavy."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Choice:
    """A part that was dropped or kept by hand, by a place on it, mm."""

    x_mm: float
    y_mm: float
    alone: bool = False


@dataclass(frozen=True)
class Tidy:
    """What of the lines that are found is left out.

    Attributes
    ----------
    below_mm2 : parts and holes of a smaller area
    border : parts that touch the border of the picture
    gap_mm : gaps up to that width are closed
    """

    below_mm2: float = 0.0
    border: bool = False
    gap_mm: float = 0.0
    choices: tuple[Choice, ...] = ()
