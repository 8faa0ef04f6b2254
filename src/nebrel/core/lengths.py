"""Lengths as people type them: `12`, `12 mm`, `0.5 in`, `4 lines`, `6 layers`, and sums."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from nebrel.core.errors import InvalidValue

_TERM = re.compile(
    r"\s*(?P<sign>[+-])?\s*(?P<number>\d+(?:[.,]\d*)?|[.,]\d+)\s*(?P<unit>[A-Za-z\u00b5\u03bc\"\u2033'\u2032]*)"
)


@dataclass(frozen=True)
class LengthUnits:
    """What a line and a layer are worth, mm."""

    line_mm: float = 0.42
    layer_mm: float = 0.12

    def factor(self, unit: str) -> float | None:
        """Millimetres in one `unit`, or None for an unknown one."""
        return {
            "": 1.0,
            "mm": 1.0,
            "cm": 10.0,
            "m": 1000.0,
            "\u00b5m": 0.001,
            "\u03bcm": 0.001,
            "um": 0.001,
            "in": 25.4,
            "inch": 25.4,
            "inches": 25.4,
            '"': 25.4,
            "\u2033": 25.4,
            "ft": 304.8,
            "foot": 304.8,
            "feet": 304.8,
            "'": 304.8,
            "\u2032": 304.8,
            "yd": 914.4,
            "yard": 914.4,
            "yards": 914.4,
            "line": self.line_mm,
            "lines": self.line_mm,
            "layer": self.layer_mm,
            "layers": self.layer_mm,
        }.get(unit.lower())


def parse_length(text: str, units: LengthUnits | None = None) -> float:
    """Millimetres of a typed length.

    Parameters
    ----------
    text : one or more terms joined by + or -; a bare number is in mm; comma or point
    units : worth of a line and a layer

    Returns
    -------
    mm, finite

    Raises
    ------
    InvalidValue : the text is not a length, or names an unknown unit
    """
    units = units or LengthUnits()
    shown = text.strip()
    remedy = "Write it as 12, 12 mm, 0.5 in, 4 lines or 6 layers, or a sum of these"
    total, position, terms = 0.0, 0, 0
    source = text.strip()
    while position < len(source):
        match = _TERM.match(source, position)
        if match is None or (terms and not match["sign"]):
            raise InvalidValue(f"length “{shown[:40]}”", "it is not a length", remedy)
        factor = units.factor(match["unit"])
        if factor is None:
            raise InvalidValue(
                f"length “{shown[:40]}”", f"“{match['unit']}” is not a unit known here", remedy
            )
        value = float(match["number"].replace(",", "."))
        total += -value * factor if match["sign"] == "-" else value * factor
        position, terms = match.end(), terms + 1
    if not terms:
        raise InvalidValue("length", "nothing was typed", remedy)
    if not math.isfinite(total):
        raise InvalidValue(f"length “{shown[:40]}”", "it is not a finite number", remedy)
    return round(total, 9)
