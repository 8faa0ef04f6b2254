"""A broken mesh mended: closed, looking outwards, each part once."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import Fault
from nebrel.core.data import Mesh
from nebrel.core.errors import NebrelError, NotSolid
from nebrel.core.kernel import Solid, mesh_of, nothing, solid_of
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.crossings import crossings, extent_of, held_mm3
from nebrel.core.mesh.faults import (
    Edges,
    inside_another,
    oriented,
    repeated,
    same_corner,
    volumes,
    without_area,
)
from nebrel.core.mesh.fill_holes import fill
from nebrel.core.mesh.measure import MeshReport, measure, merge
from nebrel.core.mesh.only import only
from nebrel.core.mesh.rows import unique_rows
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.mesh.touching import part_touching
from nebrel.core.mesh.uncross import uncrossed

Ints = NDArray[np.int64]
Places = NDArray[np.float64]
_NEAR = 2e-5, 6e-5, 2e-4  # of the extent: borders this close belong together, the nearest first
_APART = 0.2  # of the edges of borders: what is further away is another place
_HAIR = 1e-6  # of the extent
_LEAST_FACES = 4
_ROUNDS = 6
_SPIKES = 3  # times that single vertices are taken out before whole neighbourhoods
_SPIKE = 0.6  # of the faces of a vertex pass through others
_NOTHING = 1e-6  # of the surface by the extent: a solid has more
_CHANGED = 0.02  # of the volume: crossings were no spikes, but strands
_ANOTHER = 0.25  # of the volume
_HAIR_MM = 2e-4
_DECIMALS = 5


@dataclass(frozen=True)
class Repaired:
    """What came of it.

    Attributes
    ----------
    done : what was mended and how often, in words
    before_mm3 : what it went around once it was closed, in all and once; None where nothing was
        taken out of a body after that
    """

    mesh: Mesh
    report: MeshReport
    done: tuple[str, ...]
    before_mm3: float | None = None

    @property
    def another(self) -> bool:
        """Whether so much less or more is left that it is another body."""
        before, after = self.before_mm3, self.report.volume_mm3
        return before is not None and abs(after - before) > _ANOTHER * abs(before)


def repair(mesh: Mesh) -> Repaired:
    """Mend a mesh: what was whole stays, face by face.

    Faces without an area and doubles go; borders that belong together are joined; what looks the
    wrong way is turned; holes are filled; spikes are taken out, and where strands of a body pass
    through each other they are joined; bodies that overlap are joined, and what floats inside goes.

    Raises
    ------
    NotSolid : it is not closed afterwards; says what is left
    """
    mesh = merge(mesh)
    if measure(mesh).manifold and not _faulty(mesh):
        return Repaired(mesh, measure(mesh), ())
    work = _Work(mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64))
    work.sweep()
    work.stitch()
    whole, mended = mesh, tuple(work.done)
    for tries in range(_ROUNDS):
        work.part_fins()
        work.turn()
        work.fill()
        work.turn()
        if tries == 0:
            whole, mended = work.as_mesh(mesh), tuple(work.done)
        if not work.cut_crossings(tries):
            break
    before = measure(whole)
    if not before.manifold or tuple(work.done) == mended:
        return _finished(work, mesh)
    # Something was cut out of a body that was closed.
    held = held_mm3(whole)
    try:
        found = _finished(work, mesh)
    except NotSolid:
        joined = _strands(whole, mended)
        if joined is None:
            raise
        return replace(joined, before_mm3=held)
    off = min(abs(found.report.volume_mm3 - volume) for volume in (before.volume_mm3, held))
    if off > _CHANGED * held:
        found = _strands(whole, mended) or found
    return replace(found, before_mm3=held)


def _strands(whole: Mesh, done: tuple[str, ...]) -> Repaired | None:
    """A closed mesh that passes through itself as the union of its strands, where it can be had."""
    try:
        found, report = closed(solid_of(uncrossed(whole)), whole.name, "Rebuild it instead")
    except NebrelError:
        return None
    if whole.colours is not None:
        found = with_colours_of(found, whole)
    return Repaired(found, report, (*done, "strands that passed through each other joined"))


def _finished(work: _Work, mesh: Mesh) -> Repaired:
    """What is left, as one closed body each. Raises NotSolid."""
    found = work.as_mesh(mesh)
    if not measure(found).manifold:
        before = len(found.vertices)
        found = part_touching(found, _DECIMALS, _HAIR_MM)
        apart = len(found.vertices) - before
        work.say(apart, "touching place drawn apart", "touching places drawn apart")
    found = _without_sheets(_joined(found, work), work)
    report = measure(found)
    if not report.manifold:
        found = part_touching(merge(found), _DECIMALS, _HAIR_MM)
        report = measure(found)
    if not report.manifold:
        raise NotSolid(mesh.name, f"{_left(found)} left after mending it", "Rebuild it instead")
    if report.volume_mm3 <= _NOTHING * report.area_mm2 * work.extent:
        count = int((Edges.of_faces(mesh.faces.astype(np.int64)).uses == 1).sum())
        if count == 3 * len(mesh.faces) > 9:
            near = f"{_NEAR[-1] * work.extent:.2g} mm"
            left = f"its {len(mesh.faces)} faces hang together nowhere within {near}"
            raise NotSolid(mesh.name, left, "Rebuild it, with voxels wider than what is between")
        left = f"its {count} open edges close around nothing" if count else "it encloses nothing"
        raise NotSolid(mesh.name, f"{left}: a sheet is left", "Thicken it instead")
    if mesh.colours is not None and found.colours is None:
        found = with_colours_of(found, mesh)
    return Repaired(found, report, tuple(work.done))


def mend(mesh: Mesh, only: Collection[Fault]) -> Repaired:
    """Mend some faults of a mesh alone, and leave whatever else there is.

    Parameters
    ----------
    only : doubles, those without an area among them; gaps between borders that belong together;
        fins, the sheets that hang on an edge of a body; what looks the wrong way; holes; faces
        that pass through each other; bodies inside others

    Returns
    -------
    The mesh, open where it still is: what is left of other faults is in its report.
    """
    mesh = merge(mesh)
    work = _Work(mesh.vertices.astype(np.float64), mesh.faces.astype(np.int64))
    if "doubles" in only:
        work.sweep()
    if "gaps" in only:
        work.stitch()
    if "fins" in only:
        work.part_fins()
    if "flipped" in only:
        work.turn()
    if "holes" in only:
        work.fill()
    if "crossings" in only:
        open_before = work.border()
        for tries in range(_ROUNDS):
            if not work.cut_crossings(tries):
                break
            work.fill(besides=open_before)
    found = mesh if not work.done else work.as_mesh(mesh)
    if "crossings" in only or "inside" in only:
        found = _joined(found, work, "inside" in only, "crossings" in only)
    if mesh.colours is not None and found.colours is None:
        found = with_colours_of(found, mesh)
    return Repaired(found, measure(found), tuple(work.done))


def _faulty(mesh: Mesh) -> bool:
    """Whether a closed mesh crosses itself, holds something inside, or is turned inside out."""
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    faces = mesh.faces.astype(np.int64)
    if same_corner(faces).any() or without_area(corners).any():
        return True
    edges = Edges.of_faces(faces)
    body, flip = oriented(faces, edges, corners)
    return bool(
        flip.any() or len(inside_another(corners, body)) or len(_crossing(mesh.vertices, faces))
    )


def _crossing(vertices: Any, faces: Ints, extent: float | None = None) -> Ints:
    extent = extent_of(vertices) if extent is None else extent
    found = crossings(vertices[faces].astype(np.float64), faces, extent)
    return np.flatnonzero(found)


def _left(mesh: Mesh) -> str:
    edges = Edges.of_faces(mesh.faces.astype(np.int64))
    open_, many = int((edges.uses == 1).sum()), int((edges.uses > 2).sum())
    parts = []
    if open_:
        parts.append(f"{open_} open edge{'s' if open_ > 1 else ''}")
    if many:
        parts.append(f"{many} edge{'s' if many > 1 else ''} of three faces or more")
    return (" and ".join(parts) or "faces that look the wrong way") + (
        " are" if parts and open_ + many > 1 else " is"
    )


class _Work:
    """The mesh on its way."""

    def __init__(self, vertices: Places, faces: Ints) -> None:
        self.vertices = vertices
        self.faces = faces
        self.extent = float(np.ptp(vertices[faces].reshape(-1, 3), axis=0).max())
        self.done: list[str] = []

    def say(self, count: int, one: str, many: str) -> None:
        """Note something mended."""
        if count:
            self.done.append(f"{count} {one if count == 1 else many}")

    def as_mesh(self, like: Mesh) -> Mesh:
        """What is used of it."""
        used, number = np.unique(self.faces, return_inverse=True)
        return Mesh(
            self.vertices[used].astype(np.float32),
            number.reshape(-1, 3).astype(np.int32),
            like.name,
            None if like.colours is None else like.colours[used],
        )

    def sweep(self) -> None:
        """Take away faces without an area, and doubles."""
        flat = same_corner(self.faces)
        self.faces = self.faces[~flat]
        self.say(int(flat.sum()), "face without an area", "faces without an area")
        walls, kept = walls_between(self.faces)
        self.faces, kept = self.faces[~walls], kept[~walls]
        self.say(int(walls.sum()), "face of a wall inside", "faces of walls inside")
        doubles = repeated(self.faces)
        doubles = doubles[~kept[doubles]]
        self.faces = np.delete(self.faces, doubles, axis=0)
        self.say(len(doubles), "double", "doubles")
        self._collapse_slivers()

    def _collapse_slivers(self) -> None:
        """Faces whose corners lie on a line: the middle one becomes a corner of its neighbour."""
        slivers = 0
        for _ in range(_ROUNDS):
            flat = np.flatnonzero(without_area(self.vertices[self.faces]))
            if not len(flat):
                break
            slivers += len(flat)
            corners = self.vertices[self.faces[flat]]
            sides = ((corners - np.roll(corners, -1, axis=1)) ** 2).sum(axis=2)
            shortest = sides.argmin(axis=1)
            rows = np.arange(len(flat))
            # Where two corners are one place they become one vertex.
            one = self.faces[flat][rows, shortest]
            other = self.faces[flat][rows, (shortest + 1) % 3]
            near = sides[rows, shortest] <= (_HAIR * self.extent) ** 2
            if near.any():
                self._weld(one[near], other[near])
                continue
            longest = sides.argmax(axis=1)
            start, end = self.faces[flat][rows, longest], self.faces[flat][rows, (longest + 1) % 3]
            middle = self.faces[flat][rows, (longest + 2) % 3]
            self.faces = np.delete(self.faces, flat, axis=0)
            self._split_edges(start, end, middle)
        self.say(slivers, "sliver taken out", "slivers taken out")

    def _weld(self, one: Ints, other: Ints) -> None:
        count, part = label_components(len(self.vertices), one, other)
        first = np.zeros(count, np.int64)
        first[part[::-1]] = np.arange(len(part))[::-1]
        faces = first[part][self.faces]
        self.faces = faces[~same_corner(faces)]
        self.faces = np.delete(self.faces, repeated(self.faces), axis=0)

    def _split_edges(self, start: Ints, end: Ints, middle: Ints) -> int:
        """Faces on an edge get a vertex that lies on it."""
        width = len(self.vertices) + 1
        wanted = dict(
            zip(
                (np.minimum(start, end) * width + np.maximum(start, end)).tolist(),
                middle.tolist(),
                strict=True,
            )
        )
        halves = np.stack([self.faces, np.roll(self.faces, -1, axis=1)], axis=2)
        key = halves.min(axis=2) * width + halves.max(axis=2)
        hit = np.isin(key, np.array(list(wanted), np.int64))
        rows = np.flatnonzero(hit.any(axis=1))
        parts, gone = [], []
        for row in rows.tolist():
            corner = int(np.argmax(hit[row]))
            a, b, c = (int(self.faces[row, (corner + k) % 3]) for k in range(3))
            m = wanted[int(key[row, corner])]
            if m in (a, b, c):
                continue
            gone.append(row)
            parts += [[a, m, c], [m, b, c]]
        if parts:
            self.faces = np.concatenate([np.delete(self.faces, gone, axis=0), np.array(parts)])
        return len(gone)

    def stitch(self) -> None:
        """Join borders that lie on one another, and vertices that lie on a border's edge."""
        closed, split = 0, 0
        for share in _NEAR:
            edges = Edges.of_faces(self.faces)
            ends = edges.ends[edges.uses == 1]
            if not len(ends):
                break
            long = np.linalg.norm(self.vertices[ends[:, 0]] - self.vertices[ends[:, 1]], axis=1)
            near = share * self.extent
            if share > _NEAR[0]:
                near = min(near, _APART * float(np.median(long)))
            closed += self._weld_border(np.unique(ends), near)
            for _ in range(_ROUNDS * 4):
                found = self._on_edges(near)
                made = self._split_edges(*found) if found else 0
                if not made:
                    break
                split += made
        self.say(closed, "gap closed", "gaps closed")
        self.say(split, "edge joined to a vertex on it", "edges joined to vertices on them")

    def _weld_border(self, border: Ints, near: float) -> int:
        """Vertices along what is open that lie as near as that made one; how many pairs."""
        from scipy.spatial import cKDTree

        pairs = cKDTree(self.vertices[border]).query_pairs(near, output_type="ndarray")
        if len(pairs):
            self._weld(border[pairs[:, 0]], border[pairs[:, 1]])
        return len(pairs)

    def _on_edges(self, near: float) -> tuple[Ints, Ints, Ints] | None:
        """Open edges, and the vertex of another that lies on each, nearest to its start."""
        from scipy.spatial import cKDTree

        edges = Edges.of_faces(self.faces)
        open_ = edges.ends[edges.uses == 1]
        border = np.unique(open_)
        if not len(border):
            return None
        start, end = self.vertices[open_[:, 0]], self.vertices[open_[:, 1]]
        way = end - start
        long = np.linalg.norm(way, axis=1)
        tree = cKDTree(self.vertices[border])
        hits = tree.query_ball_point((start + end) / 2, long / 2 + near)
        found = []
        for number, candidates in enumerate(hits):
            if len(candidates) <= 2 or long[number] <= 0:
                continue
            own = border[np.array(candidates)]
            own = own[(own != open_[number, 0]) & (own != open_[number, 1])]
            off = self.vertices[own] - start[number]
            along = off @ way[number] / long[number] ** 2
            away = np.linalg.norm(off - along[:, None] * way[number], axis=1)
            on = (away <= near) & (along * long[number] > near)
            on &= (1 - along) * long[number] > near
            if on.any():
                best = own[on][np.argmin(along[on])]
                found.append((open_[number, 0], open_[number, 1], best))
        if not found:
            return None
        rows = np.array(found, np.int64)
        return rows[:, 0], rows[:, 1], rows[:, 2]

    def part_fins(self) -> None:
        """Take away sheets that end in the open and hang on an edge with two faces of its own."""
        gone = 0
        for _ in range(_ROUNDS):
            edges = Edges.of_faces(self.faces)
            if not (edges.uses > 2).any():
                break
            order = np.argsort(edges.edge, kind="stable")
            first = np.cumsum(edges.uses) - edges.uses
            pairs = first[edges.uses == 2]
            one, two = order[pairs] // 3, order[pairs + 1] // 3
            count, sheet = label_components(len(self.faces), one, two)
            uses = edges.uses[edges.edge].reshape(-1, 3)
            open_ = np.bincount(sheet, (uses == 1).any(axis=1), count) > 0
            hangs = np.bincount(sheet, (uses > 2).any(axis=1), count) > 0
            size = np.bincount(sheet, minlength=count)
            fins = np.flatnonzero(open_ & hangs)
            if not len(fins):
                break
            # The smallest first: with it the others may be whole.
            least = fins[size[fins] <= 2 * size[fins].min()]
            kept = ~np.isin(sheet, least)
            if not kept.any():
                break
            gone += int((~kept).sum())
            self.faces = self.faces[kept]
        self.say(gone, "face that hung on an edge", "faces that hung on edges")

    def turn(self) -> None:
        """Have all look outwards."""
        edges = Edges.of_faces(self.faces)
        _, flip = oriented(self.faces, edges, self.vertices[self.faces])
        self.faces = np.where(flip[:, None], self.faces[:, ::-1], self.faces)
        self.say(int(flip.sum()), "face turned", "faces turned")

    def border(self) -> Ints:
        """The vertices along what is open."""
        edges = Edges.of_faces(self.faces)
        return np.unique(edges.ends[edges.uses == 1])

    def fill(self, besides: Ints | None = None) -> None:
        """Fill all holes, but those that only such vertices are around."""
        loops = Edges.of_faces(self.faces).loops()
        if besides is not None:
            loops = [loop for loop in loops if not np.isin(loop, besides).all()]
        filled = [fill(self.vertices, loop) for loop in loops]
        if filled:
            self.faces = np.concatenate([self.faces, *filled])
            self.say(len(filled), "hole filled", "holes filled")

    def _cut_spikes(self, crossing: Ints) -> bool:
        """Take out vertices most of whose faces pass through others; whether there were any."""
        count = len(self.vertices)
        around = np.bincount(self.faces.ravel(), minlength=count)
        through = np.bincount(self.faces[crossing].ravel(), minlength=count)
        spikes = (through > _SPIKE * around) & (around > 0)
        # Of neighbours only the one that sticks out most.
        for a, b in Edges.of_faces(self.faces).ends:
            if spikes[a] and spikes[b]:
                spikes[a if through[a] * around[b] < through[b] * around[a] else b] = False
        gone = spikes[self.faces].any(axis=1)
        self.faces = self.faces[~gone]
        self.say(int(spikes.sum()), "spike taken out", "spikes taken out")
        return bool(gone.any())

    def cut_crossings(self, tries: int) -> bool:
        """Take out what passes through its own body; whether there was any."""
        edges = Edges.of_faces(self.faces)
        body, _ = oriented(self.faces, edges, self.vertices[self.faces])
        order = np.argsort(body, kind="stable")
        size = np.bincount(body)
        parts = np.split(order, np.cumsum(size)[:-1])
        # Of fewer faces none crosses another of its own, and loose ones may be many.
        own = [
            rows[_crossing(self.vertices, self.faces[rows], self.extent)]
            for rows in parts
            if len(rows) >= _LEAST_FACES
        ]
        crossing = np.sort(np.concatenate(own)) if own else np.zeros(0, np.int64)
        if not len(crossing):
            return False
        if tries < _SPIKES and self._cut_spikes(crossing):
            return True
        touched = np.unique(self.faces[crossing])
        around = np.isin(self.faces, touched).any(axis=1)
        if around.sum() > len(self.faces) / 2:
            around = np.zeros(len(self.faces), bool)
            around[crossing] = True
        self.say(len(crossing), "face that crossed another", "faces that crossed each other")
        left = self.faces[~around]
        # Crumbs that stay behind belong to what was taken out.
        count, part = label_components(len(self.vertices), left[:, :2].ravel(), left[:, 1:].ravel())
        size = np.bincount(part[left[:, 0]], minlength=count)
        whole = np.unique(self.faces)
        _, before = label_components(
            len(self.vertices), self.faces[:, :2].ravel(), self.faces[:, 1:].ravel()
        )
        keep = np.zeros(len(left), bool)
        for old in np.unique(before[whole]):
            rows = np.flatnonzero(before[left[:, 0]] == old)
            if len(rows):
                largest = part[left[rows, 0]][np.argmax(size[part[left[rows, 0]]])]
                keep[rows] = part[left[rows, 0]] == largest
        self.faces = left[keep]
        return True


def _joined(mesh: Mesh, work: _Work, inside: bool = True, across: bool = True) -> Mesh:
    """Bodies that overlap made one, and what floats inside another taken away."""
    faces = mesh.faces.astype(np.int64)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    edges = Edges.of_faces(faces)
    body, _ = oriented(faces, edges, corners)
    if not len(body) or body.max() == 0:
        return mesh
    nobody = np.zeros(0, np.int64)
    floaters = inside_another(corners, body) if inside else nobody
    crossing = np.unique(body[_crossing(mesh.vertices, faces)]) if across else nobody
    if not len(floaters) and not len(crossing):
        return mesh
    work.say(len(floaters), "body inside another taken away", "bodies inside others taken away")
    if not len(crossing):
        return replace(only(mesh, ~np.isin(body, floaters)), name=mesh.name)
    try:
        whole: Solid = nothing()
        hollows = []
        for part in np.setdiff1d(np.unique(body), floaters):
            one = only(mesh, body == part)
            if measure(one).volume_mm3 < 0:
                hollows.append(replace(one, faces=np.ascontiguousarray(one.faces[:, ::-1])))
            else:
                whole = whole + solid_of(one)
        for hollow in hollows:
            whole = whole - solid_of(hollow)
    except NebrelError:
        return mesh
    work.say(len(crossing), "overlapping body joined", "overlapping bodies joined")
    return with_colours_of(replace(mesh_of(whole), name=mesh.name), mesh)


def _without_sheets(mesh: Mesh, work: _Work) -> Mesh:
    """Bodies that enclose nothing taken away, where there are others."""
    faces = mesh.faces.astype(np.int64)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    edges = Edges.of_faces(faces)
    body, _ = oriented(faces, edges, corners)
    whole = np.bincount(body, (edges.uses[edges.edge].reshape(-1, 3) != 2).any(axis=1)) == 0
    volume = np.bincount(body, volumes(corners))
    a, b, c = (corners[:, k] for k in range(3))
    area = np.bincount(body, np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2)
    sheets = whole & (np.abs(volume) <= 2 * _HAIR_MM * area)
    if not sheets.any() or sheets.all():
        return mesh
    work.say(
        int(sheets.sum()), "sheet around nothing taken away", "sheets around nothing taken away"
    )
    return only(mesh, ~sheets[body])


def walls_between(faces: Ints) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Faces that lie on one that looks the other way, as a wall between two bodies does.

    Returns
    -------
    (F,) those where all the edges around have two faces of others, too: without them the others
    are one body; and those where only some have. What is only written twice, from both sides, is
    in neither.
    """
    found, some = np.zeros(len(faces), bool), np.zeros(len(faces), bool)
    first = faces.argmin(axis=1)
    turned = faces[np.arange(len(faces))[:, None], (first[:, None] + np.arange(3)) % 3]
    one_way = turned[:, 1] < turned[:, 2]
    _, name = unique_rows(np.sort(faces, axis=1))
    forth = np.bincount(name, one_way)
    pairs = ((np.bincount(name) == 2) & (forth == 1))[name]
    if not pairs.any():
        return found, some
    edges = Edges.of_faces(faces)
    of_pairs = np.bincount(edges.edge, np.repeat(pairs, 3), len(edges.uses))
    others = edges.uses - of_pairs
    rows = np.flatnonzero(pairs)
    seat = np.full(len(faces), -1, np.int64)
    seat[rows] = np.arange(len(rows))
    own = edges.edge.reshape(-1, 3)[rows]
    # Together belongs what meets at edges that only such faces have.
    inner = others[own] == 0
    half_face, half_edge = np.repeat(np.arange(len(rows)), 3)[inner.ravel()], own[inner]
    anchor = np.full(len(edges.uses), -1, np.int64)
    anchor[half_edge] = half_face
    # Both faces of a pair belong together, whatever their edges are.
    order = np.argsort(name[rows], kind="stable")
    _, sheet = label_components(
        len(rows),
        np.concatenate([half_face, order[::2]]),
        np.concatenate([anchor[half_edge], order[1::2]]),
    )
    good = np.where(inner, True, others[own] >= 2).all(axis=1)
    edge_of_others = (~inner).any(axis=1)
    count = int(sheet.max()) + 1
    hangs = np.bincount(sheet, edge_of_others, count) > 0
    whole = np.bincount(sheet, ~good, count) == 0
    found[rows] = (hangs & whole)[sheet]
    some[rows] = (hangs & ~whole)[sheet]
    return found, some
