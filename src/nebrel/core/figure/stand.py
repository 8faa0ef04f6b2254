"""How a figure stands: on a plate, levelled, and at which angle it tips."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NebrelError
from nebrel.core.kernel import cylinder, mesh_of, round_sides
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.combine import body_of
from nebrel.core.mesh.tint import with_colours_of

_FOOT = 0.04  # of its height: what is lower than that stands on the table
_TIPS = 12.0  # degrees that a plate keeps it from tipping at least
_SUNK = 0.5  # of the plate's height, that the figure reaches into it at most
_EDGE_MM = 1.5  # of the plate around the feet
_FOOT_WIDE, _LEAST_FOOT_MM = 0.6, 1.2  # radius of a foot: of its height, and at least
_STEADY = 4.0  # degrees: what tips over sooner is said to
_TRIED, _LEAST_TRIED_MM = 0.025, 0.5  # of its height, and at least: a plate that is tried
_COARSE = 0.003  # of its height, that a figure is made coarser by to try it
_FEET_REACH = 0.2  # of its height, that feet reach up to what stands on them


def middle_of_mass(mesh: Mesh) -> NDArray[np.float64]:
    """(3,) of what it encloses, mm."""
    corners = mesh.vertices.astype(np.float64)[mesh.faces]
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    six = np.einsum("ij,ij->i", a, np.cross(b, c))
    found: NDArray[np.float64] = ((a + b + c) * six[:, None]).sum(axis=0) / (4 * six.sum())
    return found


def tips_at(mesh: Mesh) -> float:
    """The angle in degrees at which it tips over, standing as it is; 0 where it does not stand."""
    middle = middle_of_mass(mesh)
    low = float(mesh.vertices[:, 2].min())
    feet = mesh.vertices[mesh.vertices[:, 2] <= low + 0.02, :2].astype(np.float64)
    from scipy.spatial import ConvexHull, QhullError

    try:
        hull = ConvexHull(feet)
    except (QhullError, ValueError):
        return 0.0
    # Outward normals of unit length and offsets: below 0 inside.
    away = -(hull.equations[:, :2] @ middle[:2] + hull.equations[:, 2])
    if away.min() <= 0:
        return 0.0
    return float(np.degrees(np.arctan2(away.min(), middle[2] - low)))


def hidden_mm(tall_mm: float, base_mm: float, feet_mm: float) -> float:
    """Up to where a plate, or feet, may hide a figure that is so tall."""
    return base_mm + feet_mm + (_FEET_REACH * tall_mm if feet_mm > 0 else 0.0)


def on_a_plate(mesh: Mesh, plate_mm: float) -> Mesh:
    """A figure on a round plate that keeps it from tipping; the whole stands on z = 0.

    Parameters
    ----------
    mesh : closed, z up

    Raises
    ------
    InvalidValue : the plate is not above 0
    NotSolid : it could not be joined
    """
    if not plate_mm > 0:
        raise InvalidValue("base", f"{plate_mm:g} mm is not above 0", "Use 0 for none at all")
    low, high = (f(mesh.vertices[:, 2]) for f in (np.min, np.max))
    tall = float(high - low)
    sunk = min(_SUNK * plate_mm, 0.1 * tall)
    lifted = replace(
        mesh, vertices=mesh.vertices + np.array([0, 0, plate_mm - sunk - low], np.float32)
    )
    feet = mesh.vertices[mesh.vertices[:, 2] <= low + max(_FOOT * tall, sunk)].astype(np.float64)
    middle = middle_of_mass(lifted)
    # As wide as the feet, and as it needs to be not to tip.
    radius = float(middle[2]) * np.tan(np.radians(_TIPS))
    half = np.maximum(np.abs(feet[:, :2] - middle[:2]).max(axis=0) + _EDGE_MM, radius)
    sides = round_sides(float(half.max()))
    plate = cylinder(plate_mm, 1.0, sides).scale((float(half[0]), float(half[1]), 1.0))
    plate = plate.translate((float(middle[0]), float(middle[1]), 0.0))
    whole = body_of(lifted) + plate
    found, _ = closed(whole, mesh.name, "Use a thicker plate", (lifted,))
    return with_colours_of(found, lifted)


def on_feet(mesh: Mesh, feet_mm: float) -> Mesh:
    """A figure on four round feet that keep it from tipping as well as they can; on z = 0.

    Parameters
    ----------
    mesh : closed, z up
    feet_mm : how high it stands above the table

    Raises
    ------
    InvalidValue : it is not above 0
    NotSolid : they could not be joined
    """
    if not feet_mm > 0:
        raise InvalidValue("feet", f"{feet_mm:g} mm is not above 0", "Use 0 for none at all")
    low = float(mesh.vertices[:, 2].min())
    tall = float(np.ptp(mesh.vertices[:, 2]))
    lifted = replace(mesh, vertices=mesh.vertices + np.array([0, 0, feet_mm - low], np.float32))
    radius = min(max(_FOOT_WIDE * feet_mm, _LEAST_FOOT_MM), 0.15 * tall)
    whole = body_of(lifted)
    for x, y, top in _under(lifted, radius, feet_mm + _FEET_REACH * tall):
        foot = cylinder(top + min(radius, 0.05 * tall), radius, round_sides(radius))
        whole = whole + foot.translate((x, y, 0.0))
    found, _ = closed(whole, mesh.name, "Use other feet, or a plate", (lifted,))
    return with_colours_of(found, lifted)


def tipping(mesh: Mesh, tips_deg: float, has: str = "") -> str | None:
    """What to say of a figure that tips over soon, and what helps, tried; None where it stands.

    Parameters
    ----------
    mesh : closed, z up
    tips_deg : as from `tips_at`
    has : "plate" or "feet" where it has them already
    """
    if tips_deg >= _STEADY:
        return None
    soon = f"it tips over at {tips_deg:.1f} degrees" if tips_deg > 0 else "it does not stand"
    tall = float(np.ptp(mesh.vertices[:, 2]))
    high = float(f"{max(_LEAST_TRIED_MM, _TRIED * tall):.1g}")
    # How it stands does not hang on its smallest triangles.
    coarse = mesh_of(body_of(mesh).simplify(_COARSE * tall))
    helps = []
    for name, put, said in (
        ("plate", on_a_plate, "with a plate of {:g} mm"),
        ("feet", on_feet, "on feet of {:g} mm"),
    ):
        if name == has:
            continue
        try:
            stands = tips_at(put(coarse, high))
        except NebrelError:
            continue
        if stands > max(tips_deg, _STEADY):
            helps.append(f"{said.format(high)} only at {stands:.0f} degrees")
    return soon if not helps else f"{soon}; {', '.join(helps)}"


def _under(mesh: Mesh, radius: float, highest: float) -> list[tuple[float, float, float]]:
    """Where feet go, the furthest out on four ways: x, y, and how high it is what they carry."""
    middle = middle_of_mass(mesh)[:2]
    places = mesh.vertices[mesh.vertices[:, 2] < highest].astype(np.float64)
    cell = max(radius / 2, 1e-3)
    at = np.round((places[:, :2] - middle) / cell).astype(np.int64)
    cells, of = np.unique(at, axis=0, return_inverse=True)
    lowest = np.full(len(cells), np.inf)
    np.minimum.at(lowest, of.ravel(), places[:, 2])
    found = []
    for way in range(4):
        angle = np.pi / 4 + way * np.pi / 2
        to = np.array([np.cos(angle), np.sin(angle)])
        reach, beside = cells @ to, np.abs(cells @ np.array([-to[1], to[0]]))
        # Well on that way, not only beside it.
        near = np.flatnonzero(beside <= np.maximum(1.0, 0.7 * reach))
        if not len(near):
            continue
        furthest = near[reach[near].argmax()]
        # So far in that all of it is under the figure.
        x, y = middle + cells[furthest] * cell - to * radius / 2
        found.append((float(x), float(y), float(lowest[furthest])))
    return found
