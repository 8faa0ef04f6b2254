"""Outlines as DXF: closed entities in millimetres, a layer for each part."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Literal

import numpy as np

from nebrel.core.formats.files import writing
from nebrel.core.outline.fit_kernels import flatten
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.smooth_lines import parted, with_curves

Lines = Literal["polylines", "splines"]
_WITHIN_MM = 0.002


def write_dxf(
    outlines: Sequence[Outline],
    path: Path,
    lines: Lines = "polylines",
    layers: Sequence[str] = (),
) -> None:
    """Write outlines where they lie, y up.

    Parameters
    ----------
    lines : curves as splines, exactly, or as polylines within 2 micrometres
    layers : the layer of each outline; each of its parts has one of its own where left out

    Raises
    ------
    StorageFailed : as `writing`
    """
    from ezdxf.filemanagement import new
    from ezdxf.math import Bezier4P, Vec3, bezier_to_bspline

    document = new("R2010", units=4)
    space = document.modelspace()
    named: list[tuple[str, Outline]] = []
    for number, outline in enumerate(outlines):
        whole = with_curves(outline)
        if layers:
            named.append((layers[number], whole))
        else:
            named += [(f"part-{k}", part) for k, part in enumerate(parted(whole), len(named) + 1)]
    for layer, outline in named:
        if layer not in document.layers:
            document.layers.add(layer)
        for curves in outline.curves:
            if lines == "polylines":
                points = flatten(curves, _WITHIN_MM, np.inf)
                space.add_lwpolyline(points, close=True, dxfattribs={"layer": layer})
                continue
            pieces = [Bezier4P([Vec3(*point) for point in one]) for one in curves]
            spline = space.add_spline(dxfattribs={"layer": layer})
            spline.apply_construction_tool(bezier_to_bspline(pieces))
            spline.closed = True
    text = io.StringIO()
    document.write(text)
    with writing(path, "DXF") as file:
        file.write(text.getvalue().encode("utf-8"))
