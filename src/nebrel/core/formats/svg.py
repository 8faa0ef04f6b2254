"""Outlines as SVG: Bézier curves in millimetres, a path for each part."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from nebrel.core.formats.files import writing
from nebrel.core.outline.outline import Cubics, Outline
from nebrel.core.outline.smooth_lines import parted, with_curves

_STRAIGHT_MM = 1e-5


def write_svg(outline: Outline, path: Path) -> None:
    """Write it with its lower left at 0, 0: y runs down, as the format has it.

    Raises
    ------
    StorageFailed : as `writing`
    """
    with writing(path, "SVG") as file:
        file.write(svg_of(outline).encode())


def svg_of(outline: Outline) -> str:
    """The document, as wide and tall as the outline."""
    outline = with_curves(outline)
    low, high = outline.bounds
    wide, tall = high - low
    paths = []
    for part in parted(outline):
        own = " ".join(_path((one - low) * (1, -1) + (0, tall)) for one in part.curves)
        paths.append(f'  <path d="{own}"/>\n')
    size = f"{_number(wide)} {_number(tall)}"
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(wide)}mm" '
        f'height="{_number(tall)}mm" viewBox="0 0 {size}">\n'
        f'<g fill="#000000" fill-rule="evenodd" stroke="none">\n{"".join(paths)}</g>\n</svg>\n'
    )


def _path(cubics: Cubics) -> str:
    words = ["M " + _place(cubics[0, 0])]
    for one in cubics:
        if _is_straight(one):
            words.append("L " + _place(one[3]))
        else:
            words.append("C " + ", ".join(_place(point) for point in one[1:]))
    return " ".join([*words, "Z"])


def _is_straight(one: Cubics) -> bool:
    x, y = one[3] - one[0]
    size = max(float(np.hypot(x, y)), 1e-12)
    off = np.abs((one[1:3] - one[0]) @ (-y, x)) / size
    along = (one[1:3] - one[0]) @ (x, y) / size
    return bool((off < _STRAIGHT_MM).all() and 0 <= along[0] <= along[1] <= size)


def _place(point: Cubics) -> str:
    return f"{_number(point[0])} {_number(point[1])}"


def _number(value: float) -> str:
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if text in ("", "-0") else text
