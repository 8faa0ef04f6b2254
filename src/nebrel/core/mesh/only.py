"""Some faces of a mesh, and nothing else."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh


def only(mesh: Mesh, kept: NDArray[np.bool_] | NDArray[np.integer[Any]]) -> Mesh:
    """Faces by their numbers, or by a mask (F,), with the vertices and colours that they use."""
    used, number = np.unique(mesh.faces[kept], return_inverse=True)
    colours = None if mesh.colours is None else mesh.colours[used]
    return Mesh(mesh.vertices[used], number.reshape(-1, 3).astype(np.int32), mesh.name, colours)
