"""Settings that a print of this piece needs, in plain words."""

from __future__ import annotations

import math

from nebrel.core.recipe.at_hand import Printer


def advise(printer: Printer, standing: bool, thin_mm: float, top_mm: float) -> list[str]:
    """Sentences about walls, infill, orientation and layer height, computed for this piece.

    Parameters
    ----------
    standing : whether it is printed upright
    thin_mm, top_mm : its least and its greatest thickness
    """
    thin = thin_mm
    lines = max(1, math.ceil(top_mm / printer.line_mm / 2))
    found = []
    if standing:
        found.append(
            "Print it standing, as it is: thickness then follows the nozzle, not the layers."
        )
        found.append(
            f"Walls: {lines} lines of {printer.line_mm:g} mm on each side fill {top_mm:.2f} mm, "
            "so no infill shows as a pattern."
        )
    else:
        layers = math.ceil(top_mm / printer.layer_mm)
        found.append(
            f"Print it lying: {layers} layers of {printer.layer_mm:g} mm; each layer is a step "
            "of light."
        )
        found.append(
            "Walls: two lines around the edge are enough; what counts is that the rest is solid."
        )
    found.append("Infill: 100 %, straight lines. Anything less shines through as a pattern.")
    if standing and thin < printer.line_mm:
        found.append(
            f"The thinnest spot of {thin:g} mm is less than one nozzle line; "
            f"the nearest that prints standing is {printer.line_mm:g} mm."
        )
    if not standing and thin < 2 * printer.layer_mm:
        found.append(
            f"The thinnest spot of {thin:g} mm is only {thin / printer.layer_mm:.1f} layers; "
            f"{2 * printer.layer_mm:g} mm would be tight against light leaks."
        )
    finest = min(printer.layer_mm, 0.12)
    found.append(f"Layer height: {finest:g} mm or less. First layer no thicker than that.")
    return found
