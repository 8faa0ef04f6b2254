"""A shape with a thickness, on a backing of its own."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nebrel.core.choices import Around, ProfileKind
from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.profiles import drop_mm, profile_share
from nebrel.core.kernel import Region, Solid, grown
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.mesh.writable import from_manifold
from nebrel.core.outline.backings import backing_around
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import region_of
from nebrel.core.solid.terraced import terraced

Backing = Literal["none", "plate", "round", "along"]
_AROUND: dict[Backing, Around] = {"plate": "plate", "round": "circle", "along": "along"}
_TOLERANCE_MM = 0.01
_STEPS = 16  # of a rounded edge


def cutout(
    outline: Outline,
    thick_mm: float,
    edge: ProfileKind = "sharp",
    edge_mm: float = 1.0,
    backing: Backing = "none",
    margin_mm: float = 3.0,
    backing_mm: float = 2.0,
) -> tuple[Mesh, MeshReport]:
    """A shape standing on z = 0, on its backing where it has one: thicknesses are added.

    Parameters
    ----------
    edge, edge_mm : of the shape's upper edge: how far in it reaches

    Raises
    ------
    InvalidValue : a thickness is none, or the edge is larger than the shape is thick
    NotSolid : no file could hold it
    """
    thinnest = min(thick_mm, backing_mm) if backing != "none" else thick_mm
    if thinnest <= 0:
        raise InvalidValue(
            "thickness", f"{thinnest:g} mm is none", "The nearest that prints is 0.2 mm"
        )
    if edge != "sharp" and not 0 < edge_mm < thick_mm:
        raise InvalidValue(
            "edge",
            f"{edge_mm:g} mm does not go into a thickness of {thick_mm:g} mm",
            f"The nearest that works is {max(0.01, thick_mm - 0.1):g} mm",
        )
    under = Outline() if backing == "none" else backing_around(outline, _AROUND[backing], margin_mm)
    base = backing_mm if under else 0.0
    solid = edged(region_of(outline), base, base + thick_mm, edge, edge_mm)
    if under:
        solid = solid + region_of(under).extrude(backing_mm)
    return from_manifold(solid, _TOLERANCE_MM)


def edged(
    region: Region, base_mm: float, top_mm: float, edge: ProfileKind, edge_mm: float
) -> Solid:
    """A region from z = 0 to its top, its upper edge shaped, no lower than its base."""
    if edge == "sharp":
        return region.extrude(top_mm)
    count = 1 if edge == "chamfer" else _STEPS
    inwards = edge_mm * (np.arange(count + 1) / count)
    if edge == "round":  # closer together where it is steep
        inwards = edge_mm * (1 - np.cos(np.linspace(0, np.pi / 2, count + 1)))
    share = profile_share(inwards.astype(np.float32), edge, edge_mm, 0.5)
    heights = top_mm - drop_mm(edge, edge_mm, top_mm - base_mm) * (1 - share)
    contours = [
        (grown(region, -float(d)) if d > 0 else region, float(z))
        for d, z in zip(inwards, heights, strict=True)
    ]
    return terraced(contours)
