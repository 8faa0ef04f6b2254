"""A mesh as distances on a grid, and back."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.kernel import cylinder, round_sides
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.combine import body_of
from nebrel.core.mesh.faults import Edges, oriented, same_corner
from nebrel.core.mesh.measure import MeshReport, measure, merge
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.tint import with_colours_of

_MOST_CELLS = 250_000_000
_ASIDE = np.array([0.137, 0.211, 0.173])  # of a cell: so that no vertex lies on a line of it
_WALL_CELLS = 4  # across a wall that is made
_RADIUS_CELLS, _SOFT_CELLS = 5, 320  # of a radius, and along the longest side
_FAR_CELLS = 4  # from the surface: from there on a rough look first saves time
_ROUGHLY = 3.0  # cells by which that may be off
_MOST_ROUGH = 40_000_000
_TRIES = 6  # times that what is nearer still is looked for
_BESIDE = 1.3  # cells from a level: there distances are right
_LOW = 0.15  # of the height of a hollow: there holes drain it


@dataclass(frozen=True)
class Grid:
    """Distances to a surface, mm, below 0 inside.

    Attributes
    ----------
    mm : (x, y, z) float32, right near the surface and as large as `band_mm` elsewhere
    low_mm : the first of them
    cell_mm : from one to the next
    """

    mm: Floats
    low_mm: NDArray[np.float64]
    cell_mm: float


def measure_grid(mesh: Mesh, cell_mm: float, band_mm: float, level_mm: float | None = None) -> Grid:
    """Distances on a grid of cells.

    Parameters
    ----------
    band_mm : how far from the surface they are right
    level_mm : where alone they are needed: elsewhere they are only on its right side

    What is inside is told by rays along all three axes, of which two must agree: so a small
    hole does not matter.

    Raises
    ------
    InvalidValue : the cells are too many
    """
    if not cell_mm > 0:
        raise InvalidValue("voxel", f"{cell_mm:g} mm is not above 0", "Use a larger one")
    low, high = (f(mesh.vertices.astype(np.float64), axis=0) for f in (np.min, np.max))
    room = band_mm + 2 * cell_mm
    shape = np.ceil((high - low + 2 * room) / cell_mm).astype(np.int64) + 1
    if float(np.prod(shape.astype(np.float64))) > _MOST_CELLS:
        least = cell_mm * (float(np.prod(shape.astype(np.float64))) / _MOST_CELLS) ** (1 / 3)
        raise InvalidValue(
            "voxel",
            f"{cell_mm:g} mm makes {np.prod(shape.astype(float)):.2g} voxels",
            f"Use {least * 1.02:.2g} mm or more",
        )
    origin = low - room + _ASIDE * cell_mm
    faces = mesh.faces.astype(np.int64)
    corners = (mesh.vertices.astype(np.float64)[faces] - origin) / cell_mm
    _, flip = oriented(faces, Edges.of_faces(faces), corners)
    corners = np.where(flip[:, None, None], corners[:, ::-1], corners)
    votes = np.zeros(tuple(shape), np.int8)
    for axis in range(3):
        turn = [(axis + 1) % 3, (axis + 2) % 3, axis]
        crossings = _crossings(np.ascontiguousarray(corners[:, :, turn]), *shape[turn[:2]])
        votes += _filled(crossings, tuple(int(n) for n in shape[turn])).transpose(np.argsort(turn))
    inside = votes >= 2
    mm = np.where(inside, -np.float32(room), np.float32(room))
    near = _near(corners, tuple(int(n) for n in shape), int(np.ceil(band_mm / cell_mm)) + 1)
    cells = 0.0 if level_mm is None else abs(level_mm) / cell_mm
    if level_mm is not None and cells > _FAR_CELLS and near.size < _MOST_ROUGH:
        rough = nearest_marked(_near(corners, near.shape, 0), cells + _ROUGHLY)[0]
        rough *= np.float32(cell_mm)
        near &= (np.abs(rough - abs(level_mm)) < _ROUGHLY * cell_mm) & (inside == (level_mm < 0))
        mm = np.where(inside, -rough, rough)
    at = np.argwhere(near)
    away = Nearby.of(mesh).nearest(at * cell_mm + origin, band_mm * 2 + 2 * cell_mm)[0]
    sign = np.where(inside[near], -1, 1)
    mm[near] = (sign * np.minimum(away, room)).astype(np.float32)
    return Grid(mm, origin, cell_mm)


def nearest_marked(marked: NDArray[np.bool_], most: float) -> tuple[Floats, NDArray[np.int32]]:
    """How far cells are from marked ones, in cells, as far as `most` and a little; and which.

    Parameters
    ----------
    marked : (x, y, z)

    Returns
    -------
    distances, as large as that where none is so near; the index of the marked cell there, flat

    Source: Meijster, Roerdink and Hesselink, A General Algorithm for Computing Distance
    Transforms in Linear Time (2000), one axis after the other; here each looks no further.
    """
    reach = int(np.ceil(most))
    squares = np.where(marked, np.float32(0), np.float32((reach + 1) ** 2))
    which = np.arange(marked.size, dtype=np.int32).reshape(marked.shape)
    for axis in range(3):
        lines, from_there = (
            np.ascontiguousarray(np.moveaxis(field, axis, 2)) for field in (squares, which)
        )
        least, nearest = _least_squares(lines, from_there, reach)
        squares, which = (np.moveaxis(field, 2, axis) for field in (least, nearest))
    found: Floats = np.sqrt(np.ascontiguousarray(squares))
    return found, np.ascontiguousarray(which)


@njit(cache=True, nogil=True, parallel=True)
def _least_squares(lines, which, reach):  # type: ignore[no-untyped-def]
    """The least of squares and how far aside they are, along the last axis, and whose it is."""
    rows, cols, long = lines.shape
    found, nearest = np.empty_like(lines), np.empty_like(which)
    for i in prange(rows):
        for j in range(cols):
            line, own = lines[i, j], found[i, j]
            own[:] = line
            nearest[i, j] = which[i, j]
            for aside in range(1, reach + 1):
                more = np.float32(aside * aside)
                for k in range(long - aside):
                    if line[k + aside] + more < own[k]:
                        own[k] = line[k + aside] + more
                        nearest[i, j, k] = which[i, j, k + aside]
                    if line[k] + more < own[k + aside]:
                        own[k + aside] = line[k] + more
                        nearest[i, j, k + aside] = which[i, j, k]
    return found, nearest


def _crossings(
    corners: NDArray[np.float64], rows: int, cols: int
) -> tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.int8]]:
    """Where lines along the third axis pass through triangles: line, place and way."""
    count = _pass(corners, rows, cols, np.empty(0, np.int64), np.empty(0), np.empty(0, np.int8))
    line, place, way = np.empty(count, np.int64), np.empty(count), np.empty(count, np.int8)
    _pass(corners, rows, cols, line, place, way)
    return line, place, way


@njit(cache=True, nogil=True)
def _pass(corners, rows, cols, line, place, way):  # type: ignore[no-untyped-def]
    n = 0
    for f in range(len(corners)):
        t = corners[f]
        ax, ay, bx, by, cx, cy = t[0, 0], t[0, 1], t[1, 0], t[1, 1], t[2, 0], t[2, 1]
        double = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if double == 0:
            continue
        first_x, last_x = max(0, int(np.ceil(min(ax, bx, cx)))), min(rows - 1, int(max(ax, bx, cx)))
        first_y, last_y = max(0, int(np.ceil(min(ay, by, cy)))), min(cols - 1, int(max(ay, by, cy)))
        for i in range(first_x, last_x + 1):
            for j in range(first_y, last_y + 1):
                u = ((i - ax) * (cy - ay) - (cx - ax) * (j - ay)) / double
                v = ((bx - ax) * (j - ay) - (i - ax) * (by - ay)) / double
                if u < 0 or v < 0 or u + v > 1:
                    continue
                if len(line):
                    line[n] = i * cols + j
                    place[n] = t[0, 2] + u * (t[1, 2] - t[0, 2]) + v * (t[2, 2] - t[0, 2])
                    way[n] = -1 if double > 0 else 1
                n += 1
    return n


def _filled(
    crossings: tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.int8]],
    shape: tuple[int, ...],
) -> NDArray[np.int8]:
    """Which cells lie inside, by what every line passed through before them."""
    line, place, way = crossings
    level = np.clip(np.ceil(place).astype(np.int64), 0, shape[2])
    steps = np.zeros((shape[0] * shape[1], shape[2] + 1), np.int8)
    # Upwards through a face that looks down one comes in.
    np.add.at(steps, (line, level), np.where(way < 0, -1, 1).astype(np.int8))
    counts = np.cumsum(steps[:, :-1], axis=1, dtype=np.int8)
    return (counts > 0).astype(np.int8).reshape(shape)


def _near(corners: NDArray[np.float64], shape: tuple[int, ...], reach: int) -> NDArray[np.bool_]:
    """Cells within so many of any triangle, about."""
    found = np.zeros(shape, np.bool_)
    _mark(corners, found)
    from scipy.ndimage import maximum_filter1d

    marked = found.view(np.uint8)
    for axis in range(3):
        marked = maximum_filter1d(marked, 2 * reach + 1, axis=axis)
    near: NDArray[np.bool_] = marked.view(np.bool_)
    return near


@njit(cache=True, nogil=True)
def _mark(corners, found):  # type: ignore[no-untyped-def]
    """Cells that triangles pass through, by places on them no more than half a cell apart."""
    for f in range(len(corners)):
        t = corners[f]
        longest = 0.0
        for k in range(3):
            for axis in range(3):
                longest = max(longest, abs(t[k, axis] - t[(k + 1) % 3, axis]))
        steps = int(longest * 2) + 1
        for i in range(steps + 1):
            for j in range(steps + 1 - i):
                u, v = i / steps, j / steps
                x = t[0, 0] + u * (t[1, 0] - t[0, 0]) + v * (t[2, 0] - t[0, 0])
                y = t[0, 1] + u * (t[1, 1] - t[0, 1]) + v * (t[2, 1] - t[0, 1])
                z = t[0, 2] + u * (t[1, 2] - t[0, 2]) + v * (t[2, 2] - t[0, 2])
                found[int(x + 0.5), int(y + 0.5), int(z + 0.5)] = True


def surface_of(grid: Grid, level_mm: float, name: str) -> Mesh:
    """Where the distances have a value, as a closed mesh.

    Raises
    ------
    InvalidValue : nowhere

    Source: Lewiner et al., Efficient Implementation of Marching Cubes' Cases with Topological
    Guarantees (2003).
    """
    from skimage.measure import marching_cubes

    if not (grid.mm < level_mm).any():
        raise InvalidValue(name, "nothing is left of it", "Use a smaller voxel, or take off less")
    places, faces, _, _ = marching_cubes(grid.mm, level_mm, gradient_direction="descent")
    vertices = places.astype(np.float64) * grid.cell_mm + grid.low_mm
    found = merge(Mesh(vertices.astype(np.float32), faces.astype(np.int32), name))
    # Where the surface passes through a place of the grid, triangles shrink to nothing.
    return replace(found, faces=found.faces[~same_corner(found.faces.astype(np.int64))])


def rebuild(mesh: Mesh, voxel_mm: float, offset_mm: float = 0.0) -> tuple[Mesh, MeshReport]:
    """A new surface from a grid: closed, joined, and grown by an offset or shrunk.

    Raises
    ------
    InvalidValue : the voxels are too many, or nothing is left
    NotSolid : the result would not be closed
    """
    grid = measure_grid(mesh, voxel_mm, abs(offset_mm) + 2 * voxel_mm, offset_mm)
    found = surface_of(grid, offset_mm, mesh.name)
    report = measure(found)
    if not report.manifold:
        raise NotSolid(mesh.name, "rebuilt it would not be closed", "Use another voxel size")
    return with_colours_of(found, mesh), report


def soften(mesh: Mesh, radius_mm: float, cells: int = _RADIUS_CELLS) -> tuple[Mesh, MeshReport]:
    """A body whose edges and corners are round, outside and inside; made anew from a grid.

    Parameters
    ----------
    cells : of the grid, along the radius

    What is thinner than twice the radius goes, and gaps narrower than that are closed.

    Raises
    ------
    InvalidValue : the radius is not above 0 or too small for its size, or nothing is left
    NotSolid : the result would not be closed

    Source: Serra, Image Analysis and Mathematical Morphology (1982): an opening, then a closing.
    """
    if not radius_mm > 0:
        raise InvalidValue("radius", f"{radius_mm:g} mm is not above 0", "Use more")
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    cell = max(radius_mm / cells, extent / _SOFT_CELLS)
    if radius_mm < 1.5 * cell:
        raise InvalidValue(
            "radius",
            f"{radius_mm:g} mm is too little for a body of {extent:.4g} mm",
            f"Use {1.5 * cell:.2g} mm or more",
        )
    grid = measure_grid(mesh, cell, radius_mm + 3 * cell, -radius_mm)
    away = grid.mm / cell + radius_mm / cell  # in cells, below 0 inside what is left
    grown = _within(away, 2 * radius_mm / cell, mesh.name)
    shrunk = -_within(-grown, radius_mm / cell, mesh.name)
    found = surface_of(replace(grid, mm=shrunk * np.float32(cell)), 0.0, mesh.name)
    report = measure(found)
    if not report.manifold:
        raise NotSolid(mesh.name, "softened it would not be closed", "Use another radius")
    return with_colours_of(found, mesh), report


def _within(side: Floats, reach: float, name: str) -> Floats:
    """What lies within a distance of where a field is below 0, as a field below 0 there.

    Parameters
    ----------
    side : (x, y, z) a distance in cells, right next to where it is 0
    reach : cells

    Raises
    ------
    InvalidValue : it is below 0 nowhere

    Distances are to the places where lines of the grid pass through the surface: too long by a
    fortieth of a cell at most where the reach is five cells.
    """
    inside = side < 0
    if not inside.any():
        raise InvalidValue(name, "nothing is left of it", "Use a smaller radius")
    rough, nearest = nearest_marked(inside, reach + 1 + _BESIDE)
    found: Floats = rough - np.float32(reach + 0.5)
    # The middle of the nearest cell within lies up to one cell behind the surface.
    near = np.argwhere((rough > reach - _BESIDE) & (rough < reach + 1 + _BESIDE))
    cells = np.column_stack(np.unravel_index(nearest[tuple(near.T)], side.shape))
    found[tuple(near.T)] = _to_passes(side, near, cells) - np.float32(reach)
    return found


@njit(cache=True, nogil=True, parallel=True)
def _to_passes(side, places, cells):  # type: ignore[no-untyped-def]
    """From places to where lines of the grid pass from below 0 to above, around cells."""
    found = np.empty(len(places), np.float32)
    for n in prange(len(places)):
        least = np.inf
        at_x, at_y, at_z = cells[n, 0], cells[n, 1], cells[n, 2]
        for _ in range(_TRIES):
            middle_x, middle_y, middle_z = at_x, at_y, at_z
            for box in range(27):
                x, y, z = (
                    middle_x + box // 9 - 1,
                    middle_y + box // 3 % 3 - 1,
                    middle_z + box % 3 - 1,
                )
                if not (0 < x < side.shape[0] - 1 and 0 < y < side.shape[1] - 1):
                    continue
                if not 0 < z < side.shape[2] - 1 or side[x, y, z] >= 0:
                    continue
                here = np.float64(side[x, y, z])
                dx, dy, dz = places[n, 0] - x, places[n, 1] - y, places[n, 2] - z
                own = np.inf
                for way in (-1, 1):
                    there = np.float64(side[x + way, y, z])
                    if there >= 0:
                        along = dx - way * here / (here - there)
                        own = min(own, along * along + dy * dy + dz * dz)
                    there = np.float64(side[x, y + way, z])
                    if there >= 0:
                        along = dy - way * here / (here - there)
                        own = min(own, dx * dx + along * along + dz * dz)
                    there = np.float64(side[x, y, z + way])
                    if there >= 0:
                        along = dz - way * here / (here - there)
                        own = min(own, dx * dx + dy * dy + along * along)
                if own < least:
                    least, at_x, at_y, at_z = own, x, y, z
            if at_x == middle_x and at_y == middle_y and at_z == middle_z:
                break
        found[n] = np.sqrt(least)
    return found


def hollow(
    mesh: Mesh, wall_mm: float, drains: int = 0, drain_mm: float = 3.0
) -> tuple[Mesh, MeshReport]:
    """A body with a hollow that leaves a wall; outside it stays as it is.

    Parameters
    ----------
    drains, drain_mm : how many holes lead straight down from where the hollow is lowest, and
        how wide they are

    Raises
    ------
    InvalidValue : the wall is not above 0, or leaves no hollow, or no room for the holes
    NotSolid : it is not closed
    """
    if not wall_mm > 0:
        raise InvalidValue("wall", f"{wall_mm:g} mm is not above 0", "Use a thicker one")
    body_of(mesh)
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    cell = max(wall_mm / _WALL_CELLS, extent / 400)
    grid = measure_grid(mesh, cell, wall_mm + 2 * cell, -wall_mm)
    try:
        inner = surface_of(grid, -wall_mm, mesh.name)
    except InvalidValue as error:
        raise InvalidValue(
            "wall", f"a wall of {wall_mm:g} mm leaves no hollow", "Use a thinner one"
        ) from error
    count = np.int32(len(mesh.vertices))
    found = Mesh(
        np.concatenate([mesh.vertices, inner.vertices]),
        np.concatenate([mesh.faces, inner.faces[:, ::-1] + count]),
        mesh.name,
    )
    report = measure(found)
    if not report.manifold:
        raise NotSolid(mesh.name, "hollow it would not be closed", "Use another wall")
    if mesh.colours is not None:
        white = np.full((len(inner.vertices), 4), 255, np.uint8)
        found = replace(found, colours=np.concatenate([mesh.colours, white]))
    if not drains:
        return found, report
    drained, report = _drained(found, inner.vertices.astype(np.float64), drains, drain_mm)
    return with_colours_of(drained, found), report


def _drained(
    mesh: Mesh, inner: NDArray[np.float64], count: int, wide_mm: float
) -> tuple[Mesh, MeshReport]:
    low, high = inner[:, 2].min(), inner[:, 2].max()
    found = inner[inner[:, 2] <= low + max(_LOW * (high - low), wide_mm / 2)]
    chosen = [found[np.argmin(found[:, 2])]]
    away = np.linalg.norm(found[:, :2] - chosen[0][:2], axis=1)
    while len(chosen) < count:
        farthest = int(np.argmax(away))
        if away[farthest] < 1.5 * wide_mm:
            raise InvalidValue(
                "drains", f"there is room for {len(chosen)} of them", f"Use {len(chosen)}"
            )
        chosen.append(found[farthest])
        away = np.minimum(away, np.linalg.norm(found[:, :2] - chosen[-1][:2], axis=1))
    body, under = body_of(mesh), float(mesh.vertices[:, 2].min()) - 1
    sides = round_sides(wide_mm / 2)
    for x, y, z in chosen:
        hole = cylinder(float(z) + wide_mm / 2 - under, wide_mm / 2, sides)
        body = body - hole.translate((float(x), float(y), under))
    return closed(body, mesh.name, "Use other drains, or another wall", (mesh,))
