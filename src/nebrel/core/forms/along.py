"""Lines on a body that things are set along: beside an edge of it, or around it at one height."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.forms.lying import triple
from nebrel.core.mesh.components import label_components
from nebrel.core.mesh.even import sharp_edges
from nebrel.core.mesh.faults import Edges
from nebrel.core.mesh.nearest import Nearby, known_near
from nebrel.core.mesh.only import only
from nebrel.core.mesh.refine import refine
from nebrel.core.mesh.section import level_lines

Floats64 = NDArray[np.float64]
Place = tuple[float, float, float]
LineKind = Literal["edge", "level"]

_STRAIGHT = 60  # the length of a line in parts by which the way along it is told
_BESIDE = 0.08  # of its distance from the edge, that triangles beside it may be large
_MOST = 600_000
_KNIFE = 1e-4  # of the size of a body: nearer to an edge is on it


@dataclass(frozen=True)
class Line:
    """A line on a body.

    Attributes
    ----------
    places : (n, 3) mm; a closed one ends where it begins
    lengths : (n,) along it
    """

    places: Floats64
    lengths: Floats64

    @classmethod
    def through(cls, places: Floats64) -> Line:
        """Through places, in their order."""
        steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
        kept = np.concatenate([[True], steps > 1e-9])
        lengths = np.concatenate([[0.0], np.cumsum(steps)])
        return cls(places[kept], lengths[kept])

    @property
    def closed(self) -> bool:
        """Whether it ends where it begins."""
        return bool(np.linalg.norm(self.places[0] - self.places[-1]) < 1e-6 * (1 + self.long_mm))

    @property
    def long_mm(self) -> float:
        """Its length."""
        return float(self.lengths[-1])

    def at(self, away: Floats64) -> Floats64:
        """Places (n, 3) so far along it (n,); around and around where it is closed."""
        away = np.mod(away, self.long_mm) if self.closed else np.clip(away, 0, self.long_mm)
        each = [np.interp(away, self.lengths, self.places[:, k]) for k in range(3)]
        return np.column_stack(each)

    def nearest(self, place: Floats64) -> tuple[float, float]:
        """How far along it is nearest to a place, and how far it is away there."""
        a, b = self.places[:-1], self.places[1:]
        ways = b - a
        share = np.einsum("ij,ij->i", place - a, ways) / np.einsum("ij,ij->i", ways, ways)
        share = np.clip(share, 0, 1)
        away = np.linalg.norm(a + share[:, None] * ways - place, axis=1)
        n = int(away.argmin())
        length = self.lengths[n] + share[n] * (self.lengths[n + 1] - self.lengths[n])
        return float(length), float(away[n])


def line_through(body: Mesh, at: Place, kind: LineKind, axis: int) -> Line:
    """The line on a body that goes through a place of its surface.

    Parameters
    ----------
    body : closed
    at : mm; the nearest place of the surface is taken
    kind : `edge` keeps its distance from the nearest sharp edge that the surface there ends at,
        `level` its height
    axis : that height is along; 0 is x, 2 is z

    Raises
    ------
    InvalidValue : there is no edge, or the place is on it; or no such line
    """
    near = known_near(body)
    _, found_face, on = near.nearest(np.asarray([at], np.float64))
    place, face = on[0], int(near.order[found_face[0]])
    scale = float(np.ptp(body.vertices, axis=0).max())
    if kind == "level":
        mesh, height = body, body.vertices[:, axis].astype(np.float64) - place[axis]
    else:
        region, edge = _edge_near(body, place, face)
        away_mm = edge.nearest(place)[1]
        if away_mm < _KNIFE * scale:
            raise InvalidValue("place", "it is on the edge itself", "Choose a place beside it")
        mesh, height = _beside(region, edge, away_mm)
    found = [Line.through(run) for run in level_lines(mesh, height) if len(run) > 1]
    found = [one for one in found if one.long_mm > 1e-6 * scale]
    best = min(found, key=lambda one: one.nearest(place)[1], default=None)
    if best is None or best.nearest(place)[1] > 0.02 * scale:
        raise InvalidValue("place", "no line goes through it there", "Choose another place")
    return best


def set_along(
    body: Mesh,
    line: Line,
    at: Place,
    up: Place,
    repeat: int,
    gap_mm: float,
) -> list[tuple[Place, Place]]:
    """Places along a line, the first at a place of its own, each with what is up there.

    Up keeps its angle to the line. Around a closed line they are evenly apart; along an open one
    as wide as asked for, the place in their middle.

    Raises
    ------
    InvalidValue : the line is too short
    """
    near = known_near(body)
    start, _ = line.nearest(near.nearest(np.asarray([at], np.float64))[2][0])
    numbers = np.arange(repeat, dtype=np.float64)
    if line.closed:
        away = start + numbers * (line.long_mm / repeat)
    else:
        away = start + (numbers - (repeat - 1) / 2) * gap_mm
        if away[0] < -1e-6 or away[-1] > line.long_mm + 1e-6:
            room = 2 * min(start, line.long_mm - start)
            most = 1 + int(room / gap_mm)
            raise InvalidValue(
                "repeat",
                f"the line is {line.long_mm:.4g} mm long, and from its middle there they reach "
                f"{(repeat - 1) * gap_mm / 2:.4g} mm to each side",
                f"Lay it {most} times or fewer, nearer together, or in the middle of the edge",
            )
    step = line.long_mm / _STRAIGHT if line.closed else min(line.long_mm / _STRAIGHT, gap_mm / 2)
    places = near.nearest(line.at(away))
    corners = near.corners[places[1]]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    ways: Floats64 = line.at(away + step / 2) - line.at(away - step / 2)
    ways -= np.einsum("ij,ij->i", ways, normals)[:, None] * normals
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)
    aside = np.cross(normals, ways)
    first = 0 if line.closed else (repeat - 1) // 2
    wanted = np.asarray(up, np.float64)
    along, across = float(wanted @ ways[first]), float(wanted @ aside[first])
    if np.hypot(along, across) < 1e-3 * np.linalg.norm(wanted):
        along, across = 0.0, 1.0  # up is straight out of the surface there
    ups = along * ways + across * aside
    return [(triple(p), triple(u)) for p, u in zip(places[2], ups, strict=True)]


def _edge_near(body: Mesh, place: Floats64, face: int) -> tuple[Mesh, Line]:
    """The smooth part of a body that a place lies in, and its nearest edge. Raises InvalidValue.

    Parameters
    ----------
    face : of the body, which the place lies in
    """
    faces = body.faces.astype(np.int64)
    edges = Edges.of_faces(faces)
    width = int(faces.max()) + 1
    ends = sharp_edges(body)
    soft = ~np.isin(edges.ends @ (width, 1), ends @ (width, 1)) & (edges.uses == 2)
    order = np.argsort(edges.edge, kind="stable")
    first = (np.cumsum(edges.uses) - edges.uses)[soft]
    _, part = label_components(len(faces), order[first] // 3, order[first + 1] // 3)
    region = only(Mesh(body.vertices, body.faces), part == part[face])
    loops = Edges.of_faces(region.faces.astype(np.int64)).loops()
    places = region.vertices.astype(np.float64)
    lines = [Line.through(places[np.append(loop, loop[0])]) for loop in loops]
    if not lines:
        raise InvalidValue(
            "edge",
            "the surface there ends at no sharp edge",
            "Set it around the body at one height instead",
        )
    return region, min(lines, key=lambda line: line.nearest(place)[1])


def _beside(region: Mesh, edge: Line, away_mm: float) -> tuple[Mesh, Floats64]:
    """A surface in triangles that are fine so far from an edge, and by how much each is beyond."""
    ends = np.stack([edge.places[:-1], edge.places[1:], edge.places[1:]], axis=1)
    near = Nearby.of_corners(ends)
    size = max(_BESIDE * away_mm, edge.long_mm / 4000)

    def coarse(vertices: NDArray[np.float32], faces: NDArray[np.int32]) -> NDArray[np.bool_]:
        corners = vertices[faces].astype(np.float64)
        sides = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
        rows = np.flatnonzero(sides > size)
        away = near.nearest(corners[rows].mean(axis=1))[0]
        found = np.zeros(len(faces), bool)
        found[rows[np.abs(away - away_mm) <= sides[rows]]] = True
        return found

    fine = refine(region, coarse, _MOST)[0]
    return fine, near.nearest(fine.vertices.astype(np.float64))[0] - away_mm
