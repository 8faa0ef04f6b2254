"""Some faces of a mesh, and nothing else."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.mesh.faults import same_corner
from nebrel.core.mesh.measure import merge


def only(mesh: Mesh, kept: NDArray[np.bool_] | NDArray[np.integer[Any]]) -> Mesh:
    """Faces by their numbers, or by a mask (F,), with the vertices and colours that they use."""
    faces = mesh.faces[kept]
    used = np.bincount(faces.ravel(), minlength=len(mesh.vertices)) > 0
    number = (np.cumsum(used) - 1).astype(np.int32)
    colours = None if mesh.colours is None else mesh.colours[used]
    return Mesh(mesh.vertices[used], number[faces], mesh.name, colours)


def without_doubles(mesh: Mesh) -> Mesh:
    """The same where no two vertices are at one place, as files tell them, and no face is none.

    What lies exactly on a surface is met from all the cells around it.
    """
    joined = merge(mesh)
    twice = same_corner(joined.faces.astype(np.int64))
    if len(joined.vertices) == len(mesh.vertices) and not twice.any():
        return mesh
    return only(joined, ~twice) if twice.any() else joined
