"""Bodies joined, taken away and trimmed."""

from __future__ import annotations

from collections.abc import Callable
from operator import add, sub, xor
from typing import Literal

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.kernel import Solid, solid_of
from nebrel.core.mesh.brought import join_parts
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.mesh.tint import with_colours_of

By = Literal["add", "subtract", "common"]
_BY: dict[By, Callable[[Solid, Solid], Solid]] = {"add": add, "subtract": sub, "common": xor}
Axis = Literal["x", "y", "z"]
Side = Literal["above", "below"]


def body_of(mesh: Mesh) -> Solid:
    """A closed mesh for the boolean kernel.

    Raises
    ------
    NotSolid : it is not closed
    """
    try:
        return solid_of(mesh)
    except NotSolid as error:
        raise NotSolid(mesh.name, "it is not closed", "Repair it first") from error


def join(a: Mesh, b: Mesh, by: By) -> tuple[Mesh, MeshReport]:
    """One body out of two.

    Raises
    ------
    NotSolid : either is not closed, or the result would not be
    InvalidValue : nothing is left
    """
    one, other = body_of(a), body_of(b)
    found = _BY[by](one, other)
    remedy = "Move one of them a little"
    mesh, report = closed(found, a.name, remedy, (a, b), "Place them so that something is left")
    return with_colours_of(mesh, join_parts((a, b))), report


def trim(mesh: Mesh, axis: Axis, at_mm: float, keep: Side) -> tuple[Mesh, MeshReport]:
    """What of a body lies on one side of a plane across an axis, with a flat cut.

    Raises
    ------
    NotSolid : it is not closed, or the result would not be
    InvalidValue : nothing is left
    """
    number = "xyz".index(axis)
    low, high = mesh.vertices[:, number].min(), mesh.vertices[:, number].max()
    way = 1.0 if keep == "above" else -1.0
    normal = [0.0, 0.0, 0.0]
    normal[number] = way
    found = body_of(mesh).trim_by_plane((normal[0], normal[1], normal[2]), way * at_mm)
    remedy = f"It reaches from {low:g} to {high:g} mm in {axis}"
    trimmed, report = closed(found, mesh.name, "Move the plane a little", (mesh,), remedy)
    return with_colours_of(trimmed, mesh), report
