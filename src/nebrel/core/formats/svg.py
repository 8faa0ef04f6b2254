"""Outlines as SVG: Bézier curves in millimetres, a path for each part."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from xml.sax.saxutils import quoteattr

import numpy as np

from nebrel.core.formats.files import writing
from nebrel.core.outline.centre_lines import Strokes
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
    return grouped_svg([("", outline)])


def grouped_svg(outlines: Sequence[tuple[str, Outline]]) -> str:
    """Several outlines in one document, where they lie, a group with its name for each."""
    named = [(name, with_curves(outline)) for name, outline in outlines]
    bounds = [outline.exact_bounds for _, outline in outlines]
    low, high = np.min([b[0] for b in bounds], axis=0), np.max([b[1] for b in bounds], axis=0)
    wide, tall = high - low
    groups = []
    for name, outline in named:
        paths = []
        for part in parted(outline):
            own = " ".join(_path((one - low) * (1, -1) + (0, tall)) for one in part.curves)
            paths.append(f'  <path d="{own}"/>\n')
        called = f" id={quoteattr(name)}" if name else ""
        groups.append(
            f'<g{called} fill="#000000" fill-rule="evenodd" stroke="none">\n{"".join(paths)}</g>\n'
        )
    size = f"{_number(wide)} {_number(tall)}"
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(wide)}mm" '
        f'height="{_number(tall)}mm" viewBox="0 0 {size}">\n'
        f"{''.join(groups)}</svg>\n"
    )


def write_strokes_svg(strokes: Strokes, path: Path, wide_mm: float = 0.2) -> None:
    """Write lines where they lie, y up, drawn with a width. Raises StorageFailed."""
    low, high = strokes.bounds
    wide, tall = high - low
    size = f"{_number(wide)} {_number(tall)}"
    paths = [
        f'  <path d="{_path((one - low) * (1, -1) + (0, tall), closed)}"/>\n'
        for one, closed in zip(strokes.curves, strokes.closed, strict=True)
    ]
    with writing(path, "SVG") as file:
        text = (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(wide)}mm" '
            f'height="{_number(tall)}mm" viewBox="0 0 {size}">\n'
            f'<g fill="none" stroke="#000000" stroke-width="{_number(wide_mm)}" '
            f'stroke-linecap="round" stroke-linejoin="round">\n{"".join(paths)}</g>\n</svg>\n'
        )
        file.write(text.encode())


def _path(cubics: Cubics, closed: bool = True) -> str:
    words = ["M " + _place(cubics[0, 0])]
    for one in cubics:
        if _is_straight(one):
            words.append("L " + _place(one[3]))
        else:
            words.append("C " + ", ".join(_place(point) for point in one[1:]))
    return " ".join([*words, "Z"] if closed else words)


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
