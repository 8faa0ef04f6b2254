"""Some faces of a mesh, and nothing else."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh


def only(mesh: Mesh, kept: NDArray[np.bool_] | NDArray[np.integer[Any]]) -> Mesh:
    """Faces by their numbers, or by a mask (F,), with the vertices and colours that they use."""
    faces = mesh.faces[kept]
    used = np.bincount(faces.ravel(), minlength=len(mesh.vertices)) > 0
    number = (np.cumsum(used) - 1).astype(np.int32)
    colours = None if mesh.colours is None else mesh.colours[used]
    return Mesh(mesh.vertices[used], number[faces], mesh.name, colours)
