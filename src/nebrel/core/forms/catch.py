"""Places of a body that catch what is set down near them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import Catch
from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.nearest import known_near
from nebrel.core.mesh.place import about, turned_about

Place = tuple[float, float, float]
_FLAT_DEG = 2.0  # by which what belongs to a face looks another way at most
_QUARTER_DEG = 90.0


def caught(body: Mesh, at: Place, by: Catch, axis: int = 2) -> Place:
    """The place near another one that catches it.

    Parameters
    ----------
    body : closed
    by : the middle of the face that it lies on; or the nearest of the four sides of the body
        that are seen square to the axis that it is turned about, or one through its middle
    axis : 0 is x, 2 is z

    Raises
    ------
    InvalidValue : it lies on the axis
    """
    near = known_near(body)
    _, face, on = near.nearest(np.asarray([at], np.float64))
    wanted = (
        _middle_of_face(body, int(near.order[face[0]]))
        if by == "face"
        else _square(body, on[0], axis)
    )
    x, y, z = (round(float(side), 4) for side in near.nearest(wanted[None])[2][0])
    return x, y, z


def _middle_of_face(body: Mesh, face: int) -> NDArray[np.float64]:
    corners = body.vertices.astype(np.float64)[body.faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1)
    facing = normals @ normals[face] / np.maximum(area * area[face], 1e-300)
    same = np.flatnonzero(facing >= np.cos(np.radians(_FLAT_DEG)))
    faces = body.faces[same]
    _, part = label_components(len(body.vertices), faces[:, :2].ravel(), faces[:, 1:].ravel())
    own = same[part[faces[:, 0]] == part[body.faces[face, 0]]]
    middle: NDArray[np.float64] = np.average(corners[own].mean(axis=1), axis=0, weights=area[own])
    return middle


def _square(body: Mesh, place: NDArray[np.float64], axis: int) -> NDArray[np.float64]:
    middle = np.asarray(turned_about(body, axis))
    one, other = ((axis + k) % 3 for k in (1, 2))
    off = place - middle
    away = float(np.hypot(off[one], off[other]))
    if away < 1e-4 * float(np.ptp(body.vertices, axis=0).max()):
        raise InvalidValue("place", "it lies on the axis", "Choose a place beside the axis")
    angle = float(np.degrees(np.arctan2(off[other], off[one])))
    turn = round(angle / _QUARTER_DEG) * _QUARTER_DEG - angle
    found: NDArray[np.float64] = about(axis, turn) @ off + middle
    return found
