"""What is wrong with a mesh that came from elsewhere."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.crossing_kernels import first_hits, winding_counts
from nebrel.core.mesh.crossings import crossings, extent_of
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.rows import unique_rows

Ints = NDArray[np.int64]
_LEAST_FACES = 4  # of a body
_NEEDLE = 1e-3  # height by length
_FLAT_TURN, _EDGE_TURN = np.radians(1.0), np.radians(30.0)
_FLAT = 1e-5  # the same: no more than single precision leaves of nothing
_RAYS = (500, 5_000, 50_000)  # after which the thinnest so far is looked at
_MOST_RAYS = 100_000
_OPPOSITE = -0.85  # cosine between the normals of both sides of a wall
_WAY = np.array([0.5773, 0.7071, 0.4082]) / np.linalg.norm([0.5773, 0.7071, 0.4082])


@dataclass(frozen=True)
class Faults:
    """Counts, and where: the numbers of the faces, or the vertices along holes.

    Attributes
    ----------
    holes : loops of edges that have one face only; of faces that are there twice one counts
    flipped : faces that look the other way than most of their body, or all of one turned inside
        out
    nonmanifold_edges : edges of three faces or more
    degenerate : faces without an area
    needles : faces far longer than high, but for those within flat faces
    duplicates : faces that are there already
    self_crossings : faces that another passes through
    floaters : bodies inside another body
    thinnest_mm : of its walls, where it was looked for; None where there is none
    """

    holes: int
    flipped: int
    nonmanifold_edges: int
    degenerate: int
    needles: int
    duplicates: int
    self_crossings: int
    floaters: int
    thinnest_mm: float | None
    places: dict[str, Ints]

    def as_dict(self) -> dict[str, Any]:
        """The counts, in the order above."""
        found = asdict(self)
        del found["places"]
        return found


def find_faults(mesh: Mesh, thickness: bool = True) -> Faults:
    """Look for all of them.

    Parameters
    ----------
    mesh : vertices at one place are one vertex
    thickness : whether to look for the thinnest wall, too
    """
    faces = mesh.faces.astype(np.int64)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    flat = without_area(corners) | same_corner(faces)
    real = np.flatnonzero(~same_corner(faces))
    doubles = real[repeated(faces[real])]
    edges = Edges.of_faces(faces[real])
    needles = ~flat & (heights(corners) < _NEEDLE)
    needles[real] &= ~_within_flats(corners[real], edges)
    # What is there twice would part every body into its faces.
    single = np.setdiff1d(real, doubles) if len(doubles) else real
    once = Edges.of_faces(faces[single]) if len(doubles) else edges
    body, flip = oriented(faces[single], once, corners[single])
    near = Nearby.of(mesh)
    crossing = crossings(corners, faces, extent_of(mesh.vertices), near)
    crossing[flat] = 0
    crossing[doubles] = 0
    inner = inside_another(corners[single], body)
    return Faults(
        holes=_holes(once),
        flipped=int(flip.sum()),
        nonmanifold_edges=int((edges.uses > 2).sum()),
        degenerate=int(flat.sum()),
        needles=int(needles.sum()),
        duplicates=len(doubles),
        self_crossings=int((crossing > 0).sum()),
        floaters=len(inner),
        thinnest_mm=thinnest(corners[real], near) if thickness else None,
        places={
            "holes": np.unique(once.ends[once.uses == 1]),
            "nonmanifold_edges": np.unique(edges.ends[edges.uses > 2]),
            "flipped": single[flip],
            "degenerate": np.flatnonzero(flat),
            "needles": np.flatnonzero(needles),
            "duplicates": doubles,
            "self_crossings": np.flatnonzero(crossing),
            "floaters": single[np.isin(body, inner)],
        },
    )


def _holes(edges: Edges) -> int:
    """How many: loops, or open runs where faces beside them look different ways."""
    lone = edges.ends[edges.uses == 1]
    if not len(lone):
        return 0
    ends, number = np.unique(lone, return_inverse=True)
    runs, _ = label_components(len(ends), *number.reshape(-1, 2).T)
    return max(len(edges.loops()), runs)


@dataclass(frozen=True)
class Edges:
    """The edges of faces, each once.

    Attributes
    ----------
    ends : (E, 2) the lower vertex first
    uses : (E,) how many faces it has
    edge : (3F,) which edge each half is; half c of a face runs from its corner c to the next
    forth : (3F,) whether it runs from the lower vertex to the higher
    halves : (3F, 2) from which vertex to which it runs
    """

    ends: Ints
    uses: Ints
    edge: Ints
    forth: NDArray[np.bool_]
    halves: Ints

    @classmethod
    def of_faces(cls, faces: Ints) -> Edges:
        """Find them."""
        start, end = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
        low, high = np.minimum(start, end), np.maximum(start, end)
        width = int(faces.max(initial=0)) + 1
        _, at, edge, uses = np.unique(
            low * width + high, return_index=True, return_inverse=True, return_counts=True
        )
        ends = np.column_stack([low[at], high[at]])
        halves = np.column_stack([start, end])
        return cls(ends, uses, edge.reshape(-1), start < end, halves)

    def loops(self) -> list[Ints]:
        """Closed runs of vertices along edges of one face only, the way round that fills them."""
        lone = self.uses[self.edge] == 1
        # What fills a hole runs the other way than what is beside it.
        start, end = self.halves[lone, 1], self.halves[lone, 0]
        after: dict[int, list[int]] = {}
        for a, b in zip(start.tolist(), end.tolist(), strict=True):
            after.setdefault(a, []).append(b)
        found = []
        while after:
            first = next(iter(after))
            run, seat = [first], {first: 0}
            while run:
                here = run[-1]
                if here not in after:
                    seat.pop(run.pop(), None)
                    continue
                onward = after[here].pop()
                if not after[here]:
                    del after[here]
                if onward in seat:  # a loop within the run is closed
                    begin = seat[onward]
                    found.append(np.array(run[begin:], np.int64))
                    for left in run[begin + 1 :]:
                        seat.pop(left, None)
                    run = run[: begin + 1]
                    if run[-1] not in after:
                        break
                else:
                    seat[onward] = len(run)
                    run.append(onward)
        return [loop for loop in found if len(loop) >= 3]


def _within_flats(corners: NDArray[np.float64], edges: Edges) -> NDArray[np.bool_]:
    """Which triangles (F, 3, 3) go on flat, or end at an edge: those shade as what is around."""
    one, two = _beside(edges)
    f, g = one // 3, two // 3
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    sides = corners - np.roll(corners, -1, axis=1)
    high = heights(corners) * np.sqrt((sides**2).sum(axis=2).max(axis=1))
    angle = np.arccos(np.clip(np.einsum("ij,ij->i", normals[f], normals[g]), -1, 1))
    # What single precision leaves of a place turns what is thin.
    rounding = np.finfo(np.float32).eps * np.abs(corners).max(initial=0.0)
    within = _FLAT_TURN + rounding / np.maximum(np.minimum(high[f], high[g]), 1e-300)
    bent = (angle > within) & (angle < _EDGE_TURN)
    found = np.ones(len(corners), bool)
    found[f[bent]] = found[g[bent]] = False
    return found


def _beside(edges: Edges) -> tuple[Ints, Ints]:
    """Pairs of halves at the edges of two faces; a half of face f is 3f to 3f + 2."""
    order = np.argsort(edges.edge, kind="stable")
    first = np.cumsum(edges.uses) - edges.uses
    pairs = first[edges.uses == 2]
    return order[pairs], order[pairs + 1]


def without_area(corners: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which triangles (F, 3, 3) have none: all corners on a line."""
    return heights(corners) < _FLAT


def heights(corners: NDArray[np.float64]) -> NDArray[np.float64]:
    """The least height of each triangle, by its longest side."""
    sides = corners - np.roll(corners, -1, axis=1)
    longest = (sides**2).sum(axis=2).max(axis=1)
    double = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    found: NDArray[np.float64] = double / np.maximum(longest, 1e-300)
    return found


def same_corner(faces: Ints) -> NDArray[np.bool_]:
    """Which faces name a vertex twice."""
    found: NDArray[np.bool_] = (faces == np.roll(faces, 1, axis=1)).any(axis=1)
    return found


def repeated(faces: Ints) -> Ints:
    """Faces of the same three vertices as an earlier one, whichever way round."""
    first, kind = unique_rows(np.sort(faces, axis=1))
    return np.flatnonzero(first[kind] != np.arange(len(faces)))


def oriented(
    faces: Ints, edges: Edges, corners: NDArray[np.float64]
) -> tuple[Ints, NDArray[np.bool_]]:
    """The body of each face, over edges of two faces, and which faces look the wrong way."""
    count = len(faces)
    if not count:
        return np.zeros(0, np.int64), np.zeros(0, bool)
    one, two = _beside(edges)
    f, g = one // 3, two // 3
    _, body = label_components(count, f, g)
    # Each face twice, as it is and turned: what fits together shares a label.
    turned = edges.forth[one] == edges.forth[two]
    ends = [f, f + count], [np.where(turned, g + count, g), np.where(turned, g, g + count)]
    _, side = label_components(2 * count, np.concatenate(ends[0]), np.concatenate(ends[1]))
    roots = np.zeros(int(body.max()) + 1, np.int64)
    roots[body[::-1]] = np.arange(count)[::-1]
    flip = side[:count] != side[roots[body]]
    size = np.bincount(body)
    wrong = np.bincount(body, flip)
    flip ^= (wrong * 2 > size)[body]
    # A closed body turned inside out is wrong, too; but not as a hollow within another.
    way = np.where(flip, -1, 1)
    held = np.bincount(body, volumes(corners) * way)
    closed = np.bincount(body, (edges.uses[edges.edge].reshape(-1, 3) != 2).any(axis=1)) == 0
    inside_out = np.flatnonzero(closed & (held < 0))
    if len(inside_out) and len(size) > 1:
        hollow = contained(corners, body, inside_out, np.flatnonzero(closed & (held > 0)))
        inside_out = np.setdiff1d(inside_out, hollow)
    flip ^= np.isin(body, inside_out)
    return body, flip


def volumes(corners: NDArray[np.float64]) -> NDArray[np.float64]:
    """What each triangle (F, 3, 3) adds to the volume of a closed mesh."""
    a, b, c = (corners[:, k] - corners[:, 0].mean(axis=0) for k in range(3))
    found: NDArray[np.float64] = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    return found


def inside_another(corners: NDArray[np.float64], body: Ints) -> Ints:
    """Bodies that lie inside another and look outwards: they add nothing to it."""
    if not len(body) or body.max() == 0:
        return np.zeros(0, np.int64)
    outwards = np.bincount(body, volumes(corners)) > 0
    # Fewer faces go around nothing, and loose ones may be many.
    whole = np.bincount(body) >= _LEAST_FACES
    return contained(corners, body, np.flatnonzero(outwards), np.flatnonzero(outwards & whole))


def contained(corners: NDArray[np.float64], body: Ints, inner: Ints, outer: Ints) -> Ints:
    """Those of the one bodies that lie inside one of the other."""
    count = int(body.max()) + 1
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, body, corners.min(axis=1))
    np.maximum.at(high, body, corners.max(axis=1))
    first = np.zeros(count, np.int64)
    first[body[::-1]] = np.arange(len(body))[::-1]
    found = set()
    for holder in outer:
        within = (low[inner] >= low[holder]).all(axis=1) & (high[inner] <= high[holder]).all(axis=1)
        asked = inner[within & (inner != holder)]
        if not len(asked):
            continue
        near = Nearby.of_corners(corners[body == holder])
        starts = np.ascontiguousarray(corners[first[asked]].mean(axis=1))
        ways = np.tile(_WAY, (len(starts), 1))
        counts = winding_counts(near.corners, near.boxes, starts, ways)
        found.update(asked[counts != 0].tolist())
    return np.array(sorted(found), np.int64)


def thinnest(corners: NDArray[np.float64], near: Nearby) -> float | None:
    """The thinnest wall: from the middle of faces straight inwards to one that looks away.

    Of a mesh of many faces only some, the largest share of the surface, are asked.
    """
    found = wall_thickness(corners, near)
    return None if found is None else found[1]


def wall_thickness(
    corners: NDArray[np.float64], near: Nearby
) -> tuple[NDArray[np.float64], float] | None:
    """Where the thinnest wall is, (3,), and how thick; None where nothing is opposite."""
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(normals, axis=1)
    asked = np.flatnonzero(size > 0)
    if len(asked) > _MOST_RAYS:
        asked = asked[:: -(-len(asked) // _MOST_RAYS)]
    if not len(asked):
        return None
    inwards = np.ascontiguousarray(-normals[asked] / size[asked, None])
    starts = np.ascontiguousarray(corners[asked].mean(axis=1))
    hair = 1e-6 * float(np.ptp(corners.reshape(-1, 3), axis=0).max())
    best: tuple[NDArray[np.float64], float] | None = None
    # What is thicker than the thinnest so far need not be found: a few rays first, scattered.
    scattered = np.random.default_rng(0).permutation(len(starts))
    for some in np.split(scattered, [n for n in _RAYS if n < len(starts)]):
        most = np.inf if best is None else best[1]
        away, face = first_hits(near.corners, near.boxes, starts[some], inwards[some], hair, most)
        hit = face >= 0
        t = near.corners[face[hit]]
        other = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
        length = np.maximum(np.linalg.norm(other, axis=1), 1e-300)
        facing = np.einsum("ij,ij->i", other / length[:, None], -inwards[some][hit]) < _OPPOSITE
        if facing.any():
            least = int(np.argmin(np.where(facing, away[hit], np.inf)))
            best = starts[some][hit][least], float(away[hit][least])
    return best
