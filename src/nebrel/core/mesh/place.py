"""A mesh made larger, turned, moved and set down."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue

_MOST_MM = 100_000.0


def scaled(mesh: Mesh, times: float | tuple[float, float, float]) -> Mesh:
    """The same, so many times as large, from the origin; along each axis or along all.

    Raises
    ------
    InvalidValue : a factor is not above 0, or the mesh would be larger than 100 m
    """
    factors = np.broadcast_to(np.asarray(times, np.float64), 3)
    if not (np.isfinite(factors).all() and (factors > 0).all()):
        raise InvalidValue("scale", f"{times} is not above 0", "Use 1 to keep its size")
    vertices = mesh.vertices.astype(np.float64) * factors
    size = float(np.ptp(vertices, axis=0).max(initial=0.0))
    if size > _MOST_MM:
        raise InvalidValue("scale", f"it would be {size / 1000:.4g} m wide", "Use a smaller one")
    return replace(mesh, vertices=vertices.astype(np.float32))
