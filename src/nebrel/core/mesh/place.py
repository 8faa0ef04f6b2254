"""A mesh made larger, turned, moved and set down."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue

_MOST_MM = 100_000.0
# Of an axis that most of a mesh is turned about: faces looked at, how upright one may be, how
# near lines along normals pass, of its extent, and how much of its surface does.
_LOOKED_AT, _UPRIGHT, _NEAR_AXIS, _MOSTLY = 20_000, 0.3, 0.01, 0.6
_ROUNDS, _MOST_CONDITION = 12, 1e6


Place = tuple[float, float, float]


def scaled(
    mesh: Mesh, times: float | tuple[float, float, float], pivot_mm: Place = (0.0, 0.0, 0.0)
) -> Mesh:
    """The same, so many times as large, along each axis or along all.

    Parameters
    ----------
    pivot_mm : what stays where it is

    Raises
    ------
    InvalidValue : a factor is not above 0, or the mesh would be larger than 100 m
    """
    factors = np.broadcast_to(np.asarray(times, np.float64), 3)
    if not (np.isfinite(factors).all() and (factors > 0).all()):
        raise InvalidValue("scale", f"{times} is not above 0", "Use 1 to keep its size")
    vertices = (mesh.vertices.astype(np.float64) - pivot_mm) * factors + pivot_mm
    size = float(np.ptp(vertices, axis=0).max(initial=0.0))
    if size > _MOST_MM:
        raise InvalidValue("scale", f"it would be {size / 1000:.4g} m wide", "Use a smaller one")
    return replace(mesh, vertices=vertices.astype(np.float32))


def middle_below(mesh: Mesh) -> Place:
    """The middle of its underside: what it is made larger from, mm."""
    x, y, _ = middle_of(mesh)
    return x, y, float(mesh.vertices[:, 2].min())


def placed(mesh: Mesh, pivot_mm: Place, at_mm: Place, degrees: Place, times: float) -> Mesh:
    """The same, made larger and turned about its pivot, which comes to lie at a place.

    Raises
    ------
    InvalidValue : as `scaled`
    """
    larger = scaled(mesh, times, pivot_mm)
    places = (larger.vertices.astype(np.float64) - pivot_mm) @ _matrix(degrees).T + at_mm
    return replace(mesh, vertices=places.astype(np.float32))


def _matrix(degrees: Place) -> np.ndarray:
    matrix = np.eye(3)
    for axis, angle in enumerate(degrees):
        matrix = about(axis, angle) @ matrix
    return matrix


def middle_of(mesh: Mesh) -> Place:
    """The middle of its box, mm."""
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    x, y, z = (low.astype(np.float64) + high) / 2
    return float(x), float(y), float(z)


def turned_about(mesh: Mesh, axis: int) -> Place:
    """A place on the line along an axis that most of a mesh is turned about, mm.

    A mug is turned about the axis of its cup, wherever its handle reaches. Where nothing tells
    another, the line goes through the middle of its box.

    Parameters
    ----------
    axis : 0 is x, 2 is z
    """
    middle = middle_of(mesh)
    one, other = ((axis + k) % 3 for k in (1, 2))
    step = max(1, len(mesh.faces) // _LOOKED_AT)
    corners = mesh.vertices[mesh.faces[::step]].astype(np.float64)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    aside = normals[:, [one, other]]
    length = np.linalg.norm(aside, axis=1)
    weight = np.where(length > _UPRIGHT * np.linalg.norm(normals, axis=1), length, 0.0)
    extent = float(np.ptp(mesh.vertices, axis=0).max(initial=0.0))
    if not weight.any() or extent <= 0:
        return middle
    # Lines along the normals of what is turned meet at its axis.
    across = np.column_stack([-aside[:, 1], aside[:, 0]]) / np.maximum(length, 1e-300)[:, None]
    along = np.einsum("ij,ij->i", across, corners.mean(axis=1)[:, [one, other]])
    near = _NEAR_AXIS * extent
    place, heavy = np.array(middle)[[one, other]], weight
    for _ in range(_ROUNDS):
        matrix = (across * heavy[:, None]).T @ across
        if np.linalg.cond(matrix) > _MOST_CONDITION:
            return middle
        place = np.linalg.solve(matrix, (across * heavy[:, None]).T @ along)
        away = np.abs(across @ place - along)
        heavy = weight / (1 + (away / near) ** 2) ** 2
    told = float(weight[away <= near].sum() / weight.sum())
    found = list(middle)
    found[one], found[other] = place.tolist()
    off = float(np.hypot(found[one] - middle[one], found[other] - middle[other]))
    if told < _MOSTLY or off <= near:
        return middle
    return found[0], found[1], found[2]


def turned(mesh: Mesh, degrees: Place, mirror: Literal["none", "x", "y", "z"] = "none") -> Mesh:
    """The same turned about its middle, about x, then y, then z; then mirrored along an axis.

    Quarter turns are exact.
    """
    middle = middle_of(mesh)
    matrix = _matrix(degrees)
    faces = mesh.faces
    if mirror != "none":
        matrix["xyz".index(mirror)] *= -1
        faces = np.ascontiguousarray(faces[:, ::-1])
    places = (mesh.vertices.astype(np.float64) - middle) @ matrix.T + middle
    return replace(mesh, vertices=places.astype(np.float32), faces=faces)


def laid_down(mesh: Mesh) -> Mesh:
    """The same for programs whose y points up; exact."""
    x, y, z = mesh.vertices.T
    return replace(mesh, vertices=np.column_stack([x, z, -y]))


def about(axis: int, degrees: float) -> np.ndarray:
    """(3, 3) what turns places about an axis through the origin: 0 is x, 2 is z."""
    angle = np.radians(degrees)
    quarter = degrees % 90 == 0
    cos, sin = (round(f) if quarter else f for f in (np.cos(angle), np.sin(angle)))
    one, other = (axis + 1) % 3, (axis + 2) % 3
    matrix = np.eye(3)
    matrix[one, one] = matrix[other, other] = cos
    matrix[other, one], matrix[one, other] = sin, -sin
    return matrix


def laid_on(mesh: Mesh, towards: Place) -> Mesh:
    """The same turned about its middle, the shortest way, so that what looked that way looks down.

    Raises
    ------
    InvalidValue : it looks nowhere
    """
    way = np.asarray(towards, np.float64)
    long = float(np.linalg.norm(way))
    if not long > 0:
        raise InvalidValue("face", "it looks nowhere", "Point at another")
    way, down = way / long, np.array([0.0, 0.0, -1.0])
    across, cos = np.cross(way, down), float(way @ down)
    if cos < -1 + 1e-12:  # it looks up: over any axis
        matrix = about(0, 180.0)
    else:
        x, y, z = across
        skew = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
        matrix = np.eye(3) + skew + skew @ skew / (1 + cos)
    middle = middle_of(mesh)
    places = (mesh.vertices.astype(np.float64) - middle) @ matrix.T + middle
    return replace(mesh, vertices=places.astype(np.float32))


def set_down(mesh: Mesh, centre: bool, drop: bool) -> Mesh:
    """The same, its middle over the origin, its lowest point on the table."""
    x, y, z = middle_below(mesh)
    by = np.array([x if centre else 0.0, y if centre else 0.0, z if drop else 0.0])
    if not by.any():
        return mesh
    return replace(mesh, vertices=(mesh.vertices.astype(np.float64) - by).astype(np.float32))
