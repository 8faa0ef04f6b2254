"""What can be said of a piece before it is printed: whether it fits, is closed, and stands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.figure.stand import tips_at
from nebrel.core.mesh.lighter import lighter
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.walls import wall_at_vertices

LOOKED_AT = 300_000
"""Triangles of a mesh whose walls are measured, at most."""

_ON_BED_MM = 0.02


@dataclass(frozen=True)
class AsMade:
    """How a piece comes off the bed.

    Attributes
    ----------
    closed : one manifold, or several
    thinnest_mm : wall; None where nothing is opposite
    line_mm : of the nozzle
    tips_deg : at which it tips over, standing as it is; 0 where it does not stand
    touching_mm2 : how much of it lies on the bed
    """

    closed: bool
    bodies: int
    thinnest_mm: float | None
    line_mm: float
    tips_deg: float
    touching_mm2: float


def as_made(mesh: Mesh, line_mm: float) -> AsMade:
    """Look at a piece as it is made.

    Parameters
    ----------
    mesh : z up
    line_mm : a line of the nozzle
    """
    report = measure(mesh)
    thick = wall_at_vertices(lighter(mesh, LOOKED_AT))
    thinnest = float(thick.min(initial=np.inf))
    return AsMade(
        closed=report.manifold,
        bodies=report.bodies,
        thinnest_mm=round(thinnest, 4) if np.isfinite(thinnest) else None,
        line_mm=line_mm,
        tips_deg=round(tips_at(mesh), 2),
        touching_mm2=round(_touching(mesh), 3),
    )


def _touching(mesh: Mesh) -> float:
    """Area of the faces that lie on the bed, mm²."""
    low = float(mesh.vertices[:, 2].min(initial=0.0))
    on = (mesh.vertices[:, 2] <= low + _ON_BED_MM)[mesh.faces].all(axis=1)
    a, b, c = (mesh.vertices[mesh.faces[on, k], :2].astype(np.float64) for k in range(3))
    u, v = b - a, c - a
    return float(np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]).sum() / 2)
