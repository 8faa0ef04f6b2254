"""How art on a body became longer or shorter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.forms.lying import Lying
from nebrel.core.mesh.nearest import known_near
from nebrel.core.solid.decorate import Mirrored, lying_of

_PLACES = 90  # along the longer side
_HIGH = 3.0  # pitches, or mm, that a vertex may stand above the surface
_OFF_MM = 0.005  # what is nearer to the bare body than that belongs to it


class LaidArt(NamedTuple):
    """Where art lies, its width and height in mm, and whether it is flush with the surface."""

    places: Sequence[Lying | Mirrored]
    size_mm: tuple[float, float]
    flush: bool


@dataclass(frozen=True)
class Stretch:
    """By how much lines at each vertex became longer or shorter at the most.

    Attributes
    ----------
    share : (V,), 0 for none, 0.1 for a tenth; 0 beside the art
    most : the largest
    """

    share: NDArray[np.float64]
    most: float

    def as_dict(self) -> dict[str, Any]:
        """As plain values."""
        return {"most": round(self.most, 5)}


def stretch_of(mesh: Mesh, bare: Mesh, laid: Sequence[LaidArt]) -> tuple[Mesh, Stretch]:
    """The stretch at the vertices of a body with its art, the two parted to be told apart.

    Parameters
    ----------
    bare : the body without it
    """
    raised, flush = (np.zeros(len(mesh.vertices)) for _ in range(2))
    for art in laid:
        share = flush if art.flush else raised
        np.maximum(share, _around(mesh, art.places, art.size_mm), out=share)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    off = known_near(bare).nearest(corners.mean(axis=1), 1.0)[0] > _OFF_MM
    faces = np.concatenate([mesh.faces[~off], mesh.faces[off] + len(mesh.vertices)])
    used, faces = np.unique(faces, return_inverse=True)
    vertices = np.concatenate([mesh.vertices] * 2)[used]
    share = np.concatenate([flush, np.maximum(flush, raised)])[used]
    parted = Mesh(vertices, faces.reshape(-1, 3).astype(np.int32), mesh.name)
    return parted, Stretch(share, float(share.max(initial=0.0)))


def _around(
    mesh: Mesh, places: Sequence[Lying | Mirrored], size_mm: tuple[float, float]
) -> NDArray[np.float64]:
    """The stretch of art at the vertices that are near to where it lies (V,)."""
    from scipy.spatial import cKDTree

    share = np.zeros(len(mesh.vertices))
    longer = max(size_mm)
    count = [max(5, round(_PLACES * side / longer)) for side in size_mm]
    u, v = (np.linspace(-s / 2, s / 2, n) for s, n in zip(size_mm, count, strict=True))
    spots = np.stack(np.meshgrid(u, v), axis=-1).reshape(-1, 2)
    for place in places:
        lying = lying_of(place)
        own_spots = spots[lying.covers(spots)]
        own = lying.stretched(own_spots * 0.995, 0.002 * longer)
        on = lying.place(np.column_stack([own_spots, np.zeros(len(own_spots))]))
        far = max(_HIGH, _HIGH * longer / _PLACES)
        away, which = cKDTree(on).query(mesh.vertices, distance_upper_bound=far)
        near = np.flatnonzero(np.isfinite(np.asarray(away)))
        share[near] = np.maximum(share[near], own[np.asarray(which)[near]])
    return share
