"""The bodies that a mesh consists of."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from nebrel.core.data import Mesh, box_of
from nebrel.core.errors import InvalidValue
from nebrel.core.mesh.brought import join_parts
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.faults import contained, volumes
from nebrel.core.mesh.only import only

_MOST = 500


def bodies_of(mesh: Mesh) -> list[Mesh]:
    """One mesh a body, the largest first: what shares no vertex with the rest.

    A hollow, closed and turned inside out within another, belongs to that.
    """
    faces = mesh.faces.astype(np.int64)
    used, number = np.unique(faces, return_inverse=True)
    number = number.reshape(-1, 3)
    count, part = label_components(len(used), number[:, :2].ravel(), number[:, 1:].ravel())
    if count == 1:
        return [mesh]
    body = part[number[:, 0]]
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    held = np.bincount(body, volumes(corners), count)
    owner = np.arange(count)
    outer = np.flatnonzero(held > 0)
    left = np.flatnonzero(held < 0)
    for holder in outer[np.argsort(held[outer])]:  # the smallest that it lies in
        within = contained(corners, body, left, np.array([holder]))
        owner[within] = holder
        left = np.setdiff1d(left, within)
    body = owner[body]
    kept = np.unique(body)
    order = kept[np.argsort(-np.abs(held[kept]), kind="stable")]
    return [only(mesh, np.flatnonzero(body == one)) for one in order]


def in_a_row(mesh: Mesh, gap_mm: float) -> Mesh:
    """Its bodies beside each other along x, the largest first, all on the same table.

    Parameters
    ----------
    gap_mm : between them

    Raises
    ------
    InvalidValue : it is one body, or more than 500
    """
    bodies = bodies_of(mesh)
    if len(bodies) == 1:
        raise InvalidValue("bodies", "it is one alone", "Cut it along a plane instead")
    if len(bodies) > _MOST:
        raise InvalidValue(
            "bodies", f"it consists of {len(bodies)}, no more than {_MOST} are laid in a row",
            "Repair it first, or rebuild it",
        )  # fmt: skip
    low, high = box_of(mesh.vertices)
    at, middle = float(low[0]), float(low[1] + high[1]) / 2
    laid = []
    for body in bodies:
        (left, front, under), (right, back, _) = box_of(body.vertices)
        by = at - float(left), middle - float(front + back) / 2, float(low[2] - under)
        places = body.vertices.astype(np.float64) + by
        laid.append(replace(body, vertices=places.astype(np.float32)))
        at += float(right - left) + gap_mm
    return replace(join_parts(tuple(laid)), name=mesh.name)
