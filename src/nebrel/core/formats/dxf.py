"""Outlines as DXF: closed entities in millimetres, a layer for each part."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from nebrel.core.formats.files import writing
from nebrel.core.outline.centre_lines import Strokes, line_of
from nebrel.core.outline.outline import Cubics, Outline
from nebrel.core.outline.smooth_lines import parted, with_curves

Lines = Literal["polylines", "splines"]
_WITHIN_MM = 0.001


def write_dxf(
    outlines: Sequence[Outline],
    path: Path,
    lines: Lines = "polylines",
    layers: Sequence[str] = (),
) -> None:
    """Write outlines where they lie, y up.

    Parameters
    ----------
    lines : curves as splines, exactly, or as polylines within a micrometre
    layers : the layer of each outline; each of its parts has one of its own where left out

    Raises
    ------
    StorageFailed : as `writing`
    """
    named: list[tuple[str, Outline]] = []
    for number, outline in enumerate(outlines):
        whole = with_curves(outline)
        if layers:
            named.append((layers[number], whole))
        else:
            named += [(f"part-{k}", part) for k, part in enumerate(parted(whole), len(named) + 1)]
    pieces = [(layer, curves, True) for layer, outline in named for curves in outline.curves]
    _write(pieces, path, lines)


def layer_name(text: str) -> str:
    """A name that a layer and a file may have."""
    return re.sub(r"[^\w .-]+", " ", text).strip()[:80] or "part"


def write_strokes_dxf(strokes: Strokes, path: Path, lines: Lines = "polylines") -> None:
    """Write lines without a width where they lie. Raises StorageFailed."""
    pieces = [
        (f"line-{number}", curves, closed)
        for number, (curves, closed) in enumerate(
            zip(strokes.curves, strokes.closed, strict=True), 1
        )
    ]
    _write(pieces, path, lines)


def _write(pieces: Sequence[tuple[str, Cubics, bool]], path: Path, lines: Lines) -> None:
    from ezdxf.filemanagement import new
    from ezdxf.math import Bezier4P, Vec3, bezier_to_bspline

    document = new("R2010", units=4)
    space = document.modelspace()
    for layer, curves, closed in pieces:
        if layer not in document.layers:
            document.layers.add(layer)
        if lines == "polylines":
            points = line_of(curves, _WITHIN_MM)
            points = points[:-1] if closed else points
            space.add_lwpolyline(points, close=closed, dxfattribs={"layer": layer})
            continue
        beziers = [Bezier4P([Vec3(*point) for point in one]) for one in curves]
        spline = space.add_spline(dxfattribs={"layer": layer})
        spline.apply_construction_tool(bezier_to_bspline(beziers))
        spline.closed = closed
    text = io.StringIO()
    document.write(text)
    with writing(path, "DXF") as file:
        file.write(text.getvalue().encode("utf-8"))
