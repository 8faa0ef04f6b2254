"""A closed body that passes through itself as the one that it means: its union by winding."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.kernel import Solid, block, mesh_of, nothing, solid_of
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.crossings import crossings, extent_of

_HAIR = 1e-6  # of the extent
_DEEP = 2  # times that a box around a crossing is looked into
_ROOM = 1.5  # edges by which it is larger than what it holds
_CELLS = 160  # across a box
_CONTAINED = 0.99  # of a hollow that lies in a body
Box = tuple[NDArray[np.float64], NDArray[np.float64]]


def uncrossed(mesh: Mesh) -> Mesh:
    """One body where a closed mesh passes through itself, as if its parts had been joined.

    The boolean kernel joins bodies, and takes each for sound. So what lies around a crossing is
    cut out by a box, in which the strands that cross are bodies of their own; those are joined,
    and then put back. A strand that turns back within a box is joined by its winding, in small
    cells. What looks inwards, and lies in no other, is turned.

    Raises
    ------
    NotSolid : it is not closed, or its strands cannot be told apart
    """
    found = _resolved(solid_of(mesh), extent_of(mesh.vertices), _DEEP)
    return replace(mesh_of(found), name=mesh.name)


def _resolved(solid: Solid, extent: float, left: int) -> Solid:
    found, hollows = nothing(), []
    for shell in solid.decompose():
        if abs(shell.volume()) < (_HAIR * extent) ** 3:
            continue
        sound = _sound(shell, extent, left)
        if sound.volume() > 0:
            found += sound
        else:
            hollows.append(_turned(sound))
    for hollow in hollows:
        inside = (hollow ^ found).volume() > _CONTAINED * hollow.volume()
        found = found - hollow if inside else found + hollow
    return found


def _sound(shell: Solid, extent: float, left: int) -> Solid:
    """A shell; its union where it passes through itself."""
    boxes = _crossings(shell, extent)
    if not boxes:
        return shell
    if left == 0:
        raise NotSolid("piece", "where it passes through itself cannot be told", "Rebuild it")
    rest, whole = shell, nothing()
    for low, high in boxes:
        size = high - low
        box = block((float(size[0]), float(size[1]), float(size[2])))
        inner, rest = rest.split(box.translate((float(low[0]), float(low[1]), float(low[2]))))
        try:
            whole += _resolved(inner, extent, left - 1)
        except NotSolid:
            whole += _by_cells(shell, (low, high))
    if _crossings(rest, extent):
        raise NotSolid("piece", "where it passes through itself cannot be told", "Rebuild it")
    return whole + _resolved(rest, extent, 0)


def _by_cells(shell: Solid, box: Box) -> Solid:
    """The union within a box by the winding of small cells, where strands come back in it."""
    from nebrel.core.mesh.voxels import rebuild

    size = box[1] - box[0]
    cell = float(size.max()) / _CELLS
    # It reaches into what lies around it, so that no seam is left open.
    low, size = box[0] - 2 * cell, size + 4 * cell
    around = block((float(size[0]), float(size[1]), float(size[2])))
    inner = shell ^ around.translate((float(low[0]), float(low[1]), float(low[2])))
    return solid_of(rebuild(mesh_of(inner), cell)[0])


def _crossings(solid: Solid, extent: float) -> list[Box]:
    """Boxes around each place where it passes through itself."""
    mesh = mesh_of(solid)
    if not len(mesh.faces):
        return []
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    found = corners[crossings(corners, mesh.faces.astype(np.int64), extent) > 0]
    if not len(found):
        return []
    from scipy.spatial import cKDTree

    edge = float(np.linalg.norm(found - np.roll(found, 1, axis=1), axis=2).max())
    middles = found.mean(axis=1)
    pairs = cKDTree(middles).query_pairs(2 * edge, output_type="ndarray")
    _, part = label_components(len(middles), pairs[:, 0], pairs[:, 1])
    boxes: list[Box] = []
    for number in np.unique(part):
        own = found[part == number].reshape(-1, 3)
        boxes.append((own.min(axis=0) - _ROOM * edge, own.max(axis=0) + _ROOM * edge))
    return _apart(boxes)


def _apart(boxes: list[Box]) -> list[Box]:
    """Boxes that reach into each other as one."""
    found: list[Box] = []
    for box in boxes:
        low, high = box
        while hits := [
            k for k, (a, b) in enumerate(found) if (a <= high).all() and (low <= b).all()
        ]:
            other = found.pop(hits[0])
            low, high = np.minimum(low, other[0]), np.maximum(high, other[1])
        found.append((low, high))
    return found


def _turned(solid: Solid) -> Solid:
    mesh = mesh_of(solid)
    return solid_of(replace(mesh, faces=np.ascontiguousarray(mesh.faces[:, ::-1])))
