"""One way from a solid to a mesh that is written: closed for others too, or refused."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.kernel import Solid, mesh_of
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.crossings import crossings, extent_of
from nebrel.core.mesh.faults import volumes
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.only import only
from nebrel.core.mesh.rows import unique_rows
from nebrel.core.mesh.writable import for_a_file

# Of the extent, by which short edges are taken out: what was not cut stays vertex for vertex.
_FINER = (0.0, 1e-6, 1e-5)
_SCRAP_MM3 = 1e-4  # a shell of less is nothing that was meant
_SCRAP = 1e-9  # the same, of the cube of the extent
_GRID = 1e5  # steps a mm, to which vertices are known again


def closed(
    solid: Solid, name: str, remedy: str, of: Sequence[Mesh] = (), empty: str = ""
) -> tuple[Mesh, MeshReport]:
    """A solid of the boolean kernel as a mesh for a file, and its figures.

    It is one manifold, no face of it passes through another, and it has no shell that is not
    meant.

    Parameters
    ----------
    name : of the mesh
    remedy : what would help where that cannot be had
    of : the bodies that it was made of; what passes through itself there already may go on to,
        and is what a repair is for
    empty : what would help where nothing is left, if that is something else

    Raises
    ------
    NotSolid : it would not be closed
    InvalidValue : nothing is left
    """
    if solid.is_empty():
        raise InvalidValue(name, "nothing is left of it", empty or remedy)
    made = without_scraps(mesh_of(solid))
    extent = extent_of(made.vertices)
    through: Mesh | None = None
    for share in _FINER:
        if share > 0:
            made = without_scraps(mesh_of(solid.simplify(extent * share)))
        mesh, report = for_a_file(made)
        if not report.manifold:
            continue
        # On the grid of a file a corner may come off that was none alone.
        if (whole := without_scraps(mesh)) is not mesh:
            mesh, report = whole, measure(whole)
        if not passes_through_itself(mesh, of):
            return replace(where_it_was(mesh, of), name=name), report
        through = through or mesh
    if through is not None and any(passes_through_itself(body) for body in of):
        return replace(through, name=name), for_a_file(through)[1]
    why = "faces of it would pass through each other" if through else "it would not be closed"
    raise NotSolid(name, why, remedy)


def where_it_was(mesh: Mesh, of: Sequence[Mesh]) -> Mesh:
    """The same with what was not moved exactly where it is in the bodies that it was made of.

    In a file it stands on a grid, so that no two places fall together; what a body brings has
    places of its own already.
    """
    if not of:
        return mesh
    own, theirs = _names(mesh, of)
    places = np.concatenate([one.vertices for one in of])
    # The first of each; where a body has two in one step of the grid, the grid it is.
    names, first, count = np.unique(theirs, return_index=True, return_counts=True)
    at = np.minimum(np.searchsorted(names, own), len(names) - 1)
    alone = np.bincount(own, minlength=int(own.max()) + 1)[own] == 1
    known = (names[at] == own) & (count[at] == 1) & alone
    vertices = mesh.vertices.copy()
    vertices[known] = places[first[at[known]]]
    return replace(mesh, vertices=vertices)


def passes_through_itself(mesh: Mesh, of: Sequence[Mesh] = ()) -> bool:
    """Whether faces of a mesh pass through each other.

    Parameters
    ----------
    of : looked at is only where it is none of these, and what lies around
    """
    faces = mesh.faces.astype(np.int64)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    if of:
        own, theirs = _names(mesh, of)
        known = np.isin(own, theirs)
        new = ~known[faces].all(axis=1)
        if not new.any():
            return False
        low, high = corners[new].min(axis=(0, 1)), corners[new].max(axis=(0, 1))
        around = (corners.max(axis=1) >= low).all(axis=1) & (corners.min(axis=1) <= high).all(
            axis=1
        )
        faces, corners = faces[around], corners[around]
    return bool(crossings(corners, faces, extent_of(mesh.vertices)).any())


def _names(mesh: Mesh, others: Sequence[Mesh]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """One number for each place: of the vertices of a mesh, and of the others."""
    places = np.concatenate([one.vertices for one in (mesh, *others)]).astype(np.float64)
    _, name = unique_rows(np.round(places * _GRID).astype(np.int64))
    return name[: len(mesh.vertices)], name[len(mesh.vertices) :]


def without_scraps(mesh: Mesh) -> Mesh:
    """A mesh without shells that hold nothing; a hollow holds as much less."""
    faces = mesh.faces.astype(np.int64)
    count, part = label_components(len(mesh.vertices), faces.ravel(), np.roll(faces, -1, 1).ravel())
    if count == 1:
        return mesh
    each = volumes(mesh.vertices[mesh.faces].astype(np.float64))
    held = np.abs(np.bincount(part[faces[:, 0]], each, count))
    least = min(_SCRAP_MM3, _SCRAP * extent_of(mesh.vertices) ** 3)
    kept = held >= least
    return mesh if kept.all() or not kept.any() else only(mesh, kept[part[faces[:, 0]]])
