"""How art on a body became longer or shorter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.forms.lying import Lying
from nebrel.core.solid.decorate import Mirrored, lying_of

_PLACES = 90  # along the longer side
_HIGH = 3.0  # pitches, or mm, that a vertex may stand above the surface


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


def stretch_of(
    mesh: Mesh, laid: Sequence[tuple[Sequence[Lying | Mirrored], tuple[float, float]]]
) -> Stretch:
    """The stretch at the vertices of a body with its art.

    Parameters
    ----------
    laid : where each art lies, and its width and height, mm
    """
    from scipy.spatial import cKDTree

    share = np.zeros(len(mesh.vertices))
    for places, size_mm in laid:
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
    return Stretch(share, float(share.max(initial=0.0)))
