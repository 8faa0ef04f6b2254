"""Fewer triangles."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.mesh.deviation import Deviation, deviation
from nebrel.core.mesh.faults import same_corner
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.mesh.touching import part_touching

_LEAST = 4
_SPARE = 40  # triangles that parting what touches may add
_PATIENCE = (7.0, 5.0, 3.0)  # how eagerly edges are collapsed: less where the first breaks it
_TRIES = 10
_CLOSE = 0.9  # of an allowed deviation: near enough to it
_HAIR_MM = 2e-4


def simplify(mesh: Mesh, triangles: int) -> Mesh:
    """The same with no more than so many triangles; itself where it has no more.

    A closed mesh stays closed, borders and sharp edges stay; colours are those of the nearest
    place.

    Raises
    ------
    InvalidValue : fewer than four triangles, or fewer than its shape can have
    NotSolid : a closed mesh would not be closed any more

    Source: Garland and Heckbert, Surface Simplification Using Quadric Error Metrics (1997).
    """
    if triangles < _LEAST:
        raise InvalidValue(
            "triangles", f"{triangles} are too few for a body", f"Use {_LEAST} or more"
        )
    if len(mesh.faces) <= triangles:
        return mesh
    import fast_simplification

    vertices = mesh.vertices.astype(np.float64)
    least = len(mesh.faces)
    for eager in _PATIENCE:
        places, faces = fast_simplification.simplify(
            vertices,
            mesh.faces,
            target_count=max(_LEAST, triangles - min(_SPARE, triangles // 100)),
            agg=eager,
            preserve_border=True,
        )
        found = _tidy(Mesh(places.astype(np.float32), faces.astype(np.int32), mesh.name))
        least = min(least, len(found.faces))
        if len(found.faces) > triangles:
            continue
        if not measure(found).manifold and measure(mesh).manifold:
            found = part_touching(found, 5, _HAIR_MM)
            if not measure(found).manifold or len(found.faces) > triangles:
                continue
        return with_colours_of(found, mesh)
    if least > triangles:
        raise InvalidValue(
            "triangles", f"{triangles} are too few for its shape", f"Use {least} or more"
        )
    raise NotSolid(mesh.name, f"with {triangles} triangles it is not closed any more", "Use more")


def _tidy(mesh: Mesh) -> Mesh:
    merged = merge(mesh)
    kept = ~same_corner(merged.faces.astype(np.int64))
    return merged if kept.all() else merge(replace(merged, faces=merged.faces[kept]))


def within(
    mesh: Mesh, most_mm: float, tell: Callable[[float], None] = lambda done: None
) -> tuple[Mesh, Deviation]:
    """The same with as few triangles as stay within a distance of it, nearly; and how far.

    Raises
    ------
    InvalidValue : the distance is not above 0
    """
    if not most_mm > 0:
        raise InvalidValue("deviation", f"{most_mm:g} mm is not above 0", "Allow more")
    best, said = mesh, None
    low, high = _LEAST, len(mesh.faces)  # too few and few enough
    count = max(_LEAST, high // 20)
    for step in range(_TRIES):
        if not low < count < high:
            break
        try:
            tried = simplify(mesh, count)
        except (InvalidValue, NotSolid):
            low = count
            count = int((low * high) ** 0.5)
            continue
        away = deviation(mesh, tried)
        tell((step + 1) / _TRIES)
        if away.max_mm <= most_mm:
            best, said, high = tried, away, len(tried.faces)
            if away.max_mm >= _CLOSE * most_mm:
                break
        else:
            low = count
        # A surface is missed by about one over the number of triangles.
        guess = count * away.max_mm / most_mm if away.max_mm > 0 else low
        count = int(min(max(guess, low + (high - low) * 0.03), low + (high - low) * 0.97))
    return best, said or deviation(mesh, mesh)
