"""Where on the picture each point of a finished piece lies."""

from __future__ import annotations

import numpy as np

from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.forms.maps import FormMap


def flat_shares(
    vertices: Floats,
    form: FormMap | None,
    lift_mm: float,
    field: HeightField,
    mirrored: bool,
    room_mm: tuple[float, float] = (0.0, 0.0),
) -> Floats:
    """Places on the picture of points of a piece, whatever its form.

    Parameters
    ----------
    vertices : (V, 3) mm, as the piece stands
    form : None for a flat one
    lift_mm : by which it was raised to stand on z = 0
    field : gives the extent
    mirrored : whether the heights were turned left for right
    room_mm : how far the extent reaches beyond the picture on each side

    Returns
    -------
    (V, 2) float32, shares of the width and the height from the upper left corner of the picture;
    below 0 and above 1 beside it
    """
    points = vertices.astype(np.float64)
    if form is not None:
        points = form.flatten(points - (0, 0, lift_mm))
    across, up = room_mm
    u = (points[:, 0] - across) / (field.wide_mm - 2 * across)
    v = 1 - (points[:, 1] - up) / (field.tall_mm - 2 * up)
    return np.column_stack([1 - u if mirrored else u, v]).astype(np.float32)


def split_seam(mesh: Mesh, normals: Floats, shares: Floats) -> tuple[Mesh, Floats, Floats]:
    """The same mesh with vertices doubled where triangles cross the seam of what goes around.

    Returns
    -------
    Mesh, normals and shares; across the seam a share runs on beyond 1
    """
    u = shares[mesh.faces, 0]
    crossing = np.flatnonzero(u.max(axis=1) - u.min(axis=1) > 0.5)
    if not len(crossing):
        return mesh, normals, shares
    faces = mesh.faces.copy()
    low = u[crossing] < 0.5
    old, place = np.unique(faces[crossing][low], return_inverse=True)
    part = faces[crossing]
    part[low] = (len(mesh.vertices) + place).astype(np.int32)
    faces[crossing] = part
    colours = mesh.colours
    if colours is not None:
        colours = np.concatenate([colours, colours[old]])
    doubled = Mesh(np.concatenate([mesh.vertices, mesh.vertices[old]]), faces, mesh.name, colours)
    more = shares[old] + np.array([1, 0], np.float32)
    return doubled, np.concatenate([normals, normals[old]]), np.concatenate([shares, more])
