"""Meshes made by code, whole and broken, for tests."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.mesh.measure import merge


def mesh_from(made: trimesh.Trimesh, name: str = "made") -> Mesh:
    return merge(Mesh(made.vertices.astype(np.float32), made.faces.astype(np.int32), name))


def ball(radius: float = 10.0, fine: int = 4) -> Mesh:
    return mesh_from(trimesh.creation.icosphere(subdivisions=fine, radius=radius))


def box(*sides: float, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    """A box whose middle is at a place, finely triangulated."""
    made = trimesh.creation.box(extents=sides).subdivide().subdivide().subdivide()
    made.apply_translation(at)
    return mesh_from(made)


def doughnut(radius: float = 12.0, thick: float = 4.0) -> Mesh:
    return mesh_from(trimesh.creation.torus(radius, thick, 60, 30))


def beaker() -> Mesh:
    made = trimesh.creation.annulus(r_min=8, r_max=10, height=20, sections=60)
    return mesh_from(made.subdivide_to_size(3))


def joined(*meshes: Mesh) -> Mesh:
    """Side by side, as they are."""
    starts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes)])
    return Mesh(
        np.concatenate([mesh.vertices for mesh in meshes]),
        np.concatenate(
            [mesh.faces + np.int32(n) for mesh, n in zip(meshes, starts[:-1], strict=True)]
        ),
    )


def _soup(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    return mesh.vertices.copy(), mesh.faces.copy()


def _patch(mesh: Mesh, seed: int, count: int) -> np.ndarray:
    """Some faces next to each other."""
    middle = mesh.vertices[mesh.faces].mean(axis=1)
    here = middle[np.random.default_rng(seed).integers(len(middle))]
    return np.argsort(((middle - here) ** 2).sum(axis=1))[:count]


def with_hole(mesh: Mesh, seed: int = 0) -> Mesh:
    vertices, faces = _soup(mesh)
    return Mesh(vertices, np.delete(faces, _patch(mesh, seed, 6), axis=0))


def with_flips(mesh: Mesh, seed: int = 0) -> Mesh:
    vertices, faces = _soup(mesh)
    some = _patch(mesh, seed, 40)
    faces[some] = faces[some][:, ::-1]
    return Mesh(vertices, faces)


def with_doubles(mesh: Mesh, seed: int = 0) -> Mesh:
    vertices, faces = _soup(mesh)
    return Mesh(
        vertices, np.concatenate([faces, np.roll(faces[_patch(mesh, seed, 25)], 1, axis=1)])
    )


def with_t_junctions(mesh: Mesh, seed: int = 0) -> Mesh:
    """Faces cut at the middle of an edge, and the faces beside them not."""
    vertices, faces = _soup(mesh)
    some = np.random.default_rng(seed).choice(len(faces), 12, replace=False)
    middles = (vertices[faces[some, 0]] + vertices[faces[some, 1]]) / 2
    number = len(vertices) + np.arange(len(some), dtype=np.int32)
    a, b, c = faces[some].T
    cut = np.concatenate([np.column_stack([a, number, c]), np.column_stack([number, b, c])])
    return Mesh(
        np.concatenate([vertices, middles.astype(np.float32)]),
        np.concatenate([np.delete(faces, some, axis=0), cut.astype(np.int32)]),
    )


def with_spike(mesh: Mesh, seed: int = 0) -> Mesh:
    """One vertex pulled through the other side."""
    vertices, faces = _soup(mesh)
    number = np.random.default_rng(seed).integers(len(vertices))
    middle = vertices.mean(axis=0)
    vertices[number] = middle - 1.3 * (vertices[number] - middle)
    return Mesh(vertices, faces)


def with_needles(mesh: Mesh, seed: int = 0) -> Mesh:
    """Vertices put on edges, with faces of no area beside them."""
    vertices, faces = _soup(mesh)
    some = np.random.default_rng(seed).choice(len(faces), 10, replace=False)
    middles = (vertices[faces[some, 0]] + vertices[faces[some, 1]]) / 2
    number = len(vertices) + np.arange(len(some), dtype=np.int32)
    a, b, c = faces[some].T
    cut = [np.column_stack([a, number, c]), np.column_stack([number, b, c])]
    cut.append(np.column_stack([a, b, number]))
    return Mesh(
        np.concatenate([vertices, middles.astype(np.float32)]),
        np.concatenate([np.delete(faces, some, axis=0), *cut]).astype(np.int32),
    )


def with_floater(mesh: Mesh, seed: int = 0) -> Mesh:
    """A small body inside the thick of another, or two that overlap."""
    small = ball(0.7, 2)
    face = mesh.faces[np.random.default_rng(seed).integers(len(mesh.faces))]
    a, b, c = mesh.vertices[face]
    inwards = -np.cross(b - a, c - a)
    place = (a + b + c) / 3 + inwards / np.linalg.norm(inwards) * 0.9
    return joined(mesh, Mesh(small.vertices + place.astype(np.float32), small.faces))


BREAKS: dict[str, Callable[[Mesh, int], Mesh]] = {
    "holes": with_hole,
    "flips": with_flips,
    "doubles": with_doubles,
    "T-junctions": with_t_junctions,
    "self-crossings": with_spike,
    "needles": with_needles,
    "floaters": with_floater,
}
WHOLE: dict[str, Callable[[], Mesh]] = {
    "ball": ball,
    "doughnut": doughnut,
    "beaker": beaker,
    "box": lambda: box(20, 14, 9),
}
