"""Vertical rays into a mesh, by nothing but the triangles they pass through."""

from __future__ import annotations

import numpy as np

from nebrel.core.data import Mesh


def highest_hits(mesh: Mesh, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Where vertical rays at (n,) places leave a mesh for good, mm; NaN where they miss it."""
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    low, high = corners.min(axis=1), corners.max(axis=1)
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    double = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
    found = np.full(len(x), np.nan)
    for ray, (px, py) in enumerate(zip(x, y, strict=True)):
        near = (low[:, 0] <= px + 1e-6) & (high[:, 0] >= px - 1e-6) & (np.abs(double) > 1e-12)
        near &= (low[:, 1] <= py + 1e-6) & (high[:, 1] >= py - 1e-6)
        p, q, r, area = a[near], b[near], c[near], double[near]
        second = (
            (px - p[:, 0]) * (r[:, 1] - p[:, 1]) - (r[:, 0] - p[:, 0]) * (py - p[:, 1])
        ) / area
        third = ((q[:, 0] - p[:, 0]) * (py - p[:, 1]) - (px - p[:, 0]) * (q[:, 1] - p[:, 1])) / area
        inside = (second >= -1e-6) & (third >= -1e-6) & (second + third <= 1 + 1e-6)
        z = p[:, 2] + second * (q[:, 2] - p[:, 2]) + third * (r[:, 2] - p[:, 2])
        if inside.any():
            found[ray] = z[inside].max()
    return found
