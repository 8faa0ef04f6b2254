"""An open surface given a thickness."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.mesh.faults import Edges, oriented
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.shade import vertex_normals


def thicken(mesh: Mesh, thick_mm: float) -> tuple[Mesh, MeshReport]:
    """A surface with a back at a distance, and walls along its borders.

    Parameters
    ----------
    thick_mm : against the way its faces look, everywhere the same; below 0 that way

    Raises
    ------
    InvalidValue : it is closed already, or the thickness is 0
    NotSolid : edges of three faces, or the result would not be closed
    """
    if not np.isfinite(thick_mm) or thick_mm == 0:
        raise InvalidValue("thickness", f"{thick_mm:g} mm is none", "Use more")
    faces = mesh.faces.astype(np.int64)
    edges = Edges.of_faces(faces)
    if (edges.uses > 2).any():
        raise NotSolid(mesh.name, "edges of it have three faces", "Repair it first")
    if not (edges.uses == 1).any():
        raise InvalidValue("thickness", "it has no border: it is closed already", "Hollow it")
    corners = mesh.vertices[faces].astype(np.float64)
    _, flip = oriented(faces, edges, corners)
    faces = np.where(flip[:, None], faces[:, ::-1], faces)
    corners = mesh.vertices[faces].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    away = vertex_normals(mesh.vertices, faces)
    # Slanted to its faces, a vertex goes further, so that each is as thick as asked.
    unit = across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
    lean, count = np.zeros(len(away)), np.zeros(len(away))
    for k in range(3):
        cosine = np.einsum("ij,ij->i", unit, away[faces[:, k]])
        lean += np.bincount(faces[:, k], cosine, len(away))
        count += np.bincount(faces[:, k], minlength=len(away))
    further = 1 / np.clip(lean / np.maximum(count, 1), 0.5, 1)
    back = mesh.vertices - away * (thick_mm * further)[:, None]
    more = len(mesh.vertices)
    halves = np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).reshape(-1, 2)
    border = halves[edges.uses[Edges.of_faces(faces).edge] == 1]
    a, b = border.T
    walls = np.concatenate(
        [np.column_stack([b, a, a + more]), np.column_stack([b, a + more, b + more])]
    )
    whole = np.concatenate([faces, faces[:, ::-1] + more, walls])
    if thick_mm < 0:
        whole = whole[:, ::-1]
    colours = None if mesh.colours is None else np.concatenate([mesh.colours] * 2)
    found = replace(
        mesh,
        vertices=np.concatenate([mesh.vertices, back]).astype(np.float32),
        faces=np.ascontiguousarray(whole, np.int32),
        colours=colours,
    )
    report = measure(found)
    if not report.manifold:
        raise NotSolid(mesh.name, "thickened it would not be closed", "Repair it first")
    return found, report
