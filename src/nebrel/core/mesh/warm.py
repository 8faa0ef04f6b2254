"""Compiled loops of the mesh tools, made once so that nobody waits for them later."""

from __future__ import annotations

import numpy as np

from nebrel.core.data import Mesh


def warm_tools() -> None:
    """Compile what was not yet."""
    import nebrel.core.mesh.compiled  # noqa: F401
    from nebrel.core.mesh.deviation import deviation
    from nebrel.core.mesh.even import even
    from nebrel.core.mesh.lighter import gathered
    from nebrel.core.mesh.repair import repair
    from nebrel.core.mesh.voxels import hollow

    corners = np.array([[x, y, z] for x in (0, 9) for y in (0, 9) for z in (0, 9)], np.float32)
    sides = [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
    faces = np.array([[s[0], s[k], s[k + 1]] for s in sides for k in (1, 2)], np.int32)
    cube = Mesh(corners, faces)
    hollow(cube, 2.0)
    deviation(even(cube, 3.0), cube)
    repair(Mesh(corners, faces[2:]))
    gathered(cube, 8)
