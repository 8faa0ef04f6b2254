"""Art on bodies: how long it takes, beside refining a region and pushing its vertices; how upright.

PYTHONPATH=. .venv/bin/python benchmarks/decorations.py [--rounds N]
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Callable

import numpy as np
import trimesh
from benchmarks.meshes import quickest

from nebrel.core.data import HeightField, Mesh
from nebrel.core.forms.unrolled import Unrolled, unroll
from nebrel.core.kernel import Solid, cylinder, solid_of
from nebrel.core.mesh.crossing_kernels import first_hits
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.refine import refine
from nebrel.core.solid.close import close
from nebrel.core.solid.decorate import decorate
from nebrel.core.solid.ready import ready_mesh
from nebrel.core.solid.triangulate import triangulate
from nebrel.demo.pictures import smooth_noise

_SIDE_MM, _DETAIL_MM = 20.0, 0.05
_UPPER, _LOWER = 0.92, 0.6  # mm above the surface
_AT, _UP = (30.0, 1.0, 2.0), (0.0, 0.0, 1.0)


def body() -> Mesh:
    """A ball of 30 mm radius and half a million triangles, lumpy."""
    made = trimesh.creation.icosphere(subdivisions=8, radius=30)
    places = made.vertices * (1 + 0.01 * np.sin(made.vertices / 4).sum(axis=1, keepdims=True))
    mesh = Mesh(places.astype(np.float32), made.faces.astype(np.int32), "ball")
    from nebrel.core.mesh.simplify import simplify

    return simplify(mesh, 500_000)


def art() -> tuple[Solid, Callable[[np.ndarray], np.ndarray]]:
    """A disc of 1 mm among fine heights, 20 mm wide, on 0.4 mm; and the same as heights."""
    side = round(_SIDE_MM / _DETAIL_MM) + 1
    mm = 0.4 + 0.5 * smooth_noise(side, side, 40, 3, 1).astype(np.float32)
    field = HeightField(mm, _SIDE_MM, _SIDE_MM)
    flat = solid_of(close(triangulate(field, 0.005)))
    half = _SIDE_MM / 2
    disc = cylinder(1.4, 6, 128).translate((half, half, 0))

    def heights(spots: np.ndarray) -> np.ndarray:
        col, row = np.clip(np.round((spots + half) / _DETAIL_MM).astype(int), 0, side - 1).T
        own = mm[side - 1 - row, col] - 0.4
        return np.where(np.hypot(*spots.T) < 6, 1.0, own)

    return flat + disc, heights


def pushed(whole: Mesh, heights: Callable[[np.ndarray], np.ndarray]) -> Mesh:
    """The plain way: the region cut to that edge length, its vertices moved along their normals."""

    def wanted(vertices: np.ndarray, faces: np.ndarray) -> np.ndarray:
        corners = vertices[faces]
        close_by = np.linalg.norm(corners - np.array(_AT, np.float32), axis=2).min(1) < 15
        sides = ((corners - np.roll(corners, 1, axis=1)) ** 2).sum(axis=2).max(axis=1)
        return close_by & (sides > _DETAIL_MM**2)

    fine, _ = refine(whole, wanted, 8_000_000)
    made = trimesh.Trimesh(fine.vertices, fine.faces, process=False)
    ahead = np.array(_AT) / np.linalg.norm(_AT)
    right = np.cross(_UP, ahead)
    right /= np.linalg.norm(right)
    up = np.cross(ahead, right)
    off = fine.vertices - np.array(_AT)
    spots = np.column_stack([off @ right, off @ up])
    on = (np.abs(spots) <= _SIDE_MM / 2).all(axis=1) & (off @ ahead > -12)
    high = np.zeros(len(spots))
    high[on] = heights(spots[on])
    moved = fine.vertices + made.vertex_normals * high[:, None]
    return Mesh(moved.astype(np.float32), fine.faces)


def walls(mesh: Mesh, place: Unrolled) -> float:
    """How far the wall around the disc leans from upright, degrees, by the median around it.

    Straight down on the surface it is asked how high the mesh is, every 5 micrometres across the
    rim; between two heights, both above what lies around the disc, it may not run outwards.
    """
    away = np.arange(5.4, 6.6, 0.005)
    angle = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    spots = away[None, :, None] * np.stack([np.cos(angle), np.sin(angle)], axis=1)[:, None]
    flat = spots.reshape(-1, 2)
    above, on = (place.place(np.column_stack([flat, np.full(len(flat), h)])) for h in (3.0, 0.0))
    near = Nearby.of(mesh)
    ways = np.ascontiguousarray((on - above) / 3.0)
    deep, _ = first_hits(near.corners, near.boxes, np.ascontiguousarray(above), ways, 0.0, np.inf)
    high = (3.0 - deep).reshape(len(angle), len(away))
    ends = [away[np.argmax(high < level, axis=1)] for level in (_UPPER, _LOWER)]
    run = np.maximum(ends[1] - ends[0], 0)
    return float(np.degrees(np.arctan(np.median(run) / (_UPPER - _LOWER))))


def bodies() -> dict[str, tuple[Mesh, tuple[float, float, float]]]:
    """Bodies, and a place on each."""
    lumpy = body()
    return {
        "ball": (ready_mesh("sphere", diameter=50.0), (25.0, 0.0, 25.0)),
        "column": (ready_mesh("cylinder", diameter=40.0, tall=50.0, round=0.0), (20.0, 0.0, 25.0)),
        "torus": (ready_mesh("torus", diameter=80.0, thick=30.0), (40.0, 0.0, 15.0)),
        "lumpy": (lumpy, _AT),
    }


def honest() -> None:
    """How deep a disc is at 500 places away from its rim, and what volume it adds or takes."""
    wide, deep = 12.0, 0.8
    disc = cylinder(0.4 + deep, wide / 2, 360).translate((wide / 2, wide / 2, 0))
    for name, (mesh, at) in bodies().items():
        place = unroll(mesh, at, _UP, 0, wide * 0.75)
        before = measure(mesh).volume_mm3
        for does, sign in (("raise", 1), ("sink", -1)):
            made, report = decorate(mesh, disc, 0.4, [place], (wide, wide), does, 0.004)
            rng = np.random.default_rng(0)
            away, angle = 5.4 * np.sqrt(rng.random(500)), 2 * np.pi * rng.random(500)
            spots = np.column_stack([away * np.cos(angle), away * np.sin(angle)])
            off = _depths(made, place, spots) - sign * deep
            wanted = _between(place, wide / 2, sign * deep)
            found = report.volume_mm3 - before
            share = 100 * (found / wanted - 1)
            print(f"  {name}, {does}: depth off by {np.abs(off).max():.4f} mm at most; volume "
                  f"{found:+.2f} mm3, {share:+.2f} % of the integral")  # fmt: skip


def _depths(mesh: Mesh, place: Unrolled, spots: np.ndarray) -> np.ndarray:
    """How high the mesh is over spots of the surface, along the surface's normals."""
    near = Nearby.of(mesh)
    above, on = (place.place(np.column_stack([spots, np.full(len(spots), h)])) for h in (3.0, 0.0))
    ways = np.ascontiguousarray((on - above) / 3.0)
    deep, _ = first_hits(near.corners, near.boxes, np.ascontiguousarray(above), ways, 0.0, np.inf)
    return 3.0 - deep


def _between(place: Unrolled, radius_mm: float, high_mm: float) -> float:
    """The volume between a disc of the surface and the same so much higher, by the mean of sums."""
    rings, sectors, layers = 120, 360, 5
    edges = [np.linspace(0, radius_mm, rings + 1), np.linspace(0, 2 * np.pi, sectors + 1)]
    r, a = (0.5 * (edge[1:] + edge[:-1]) for edge in edges)
    h = (np.arange(layers) + 0.5) / layers * high_mm
    r, a, h = (grid.ravel() for grid in np.meshgrid(r, a, h, indexing="ij"))
    flat = np.column_stack([r * np.cos(a), r * np.sin(a), h])
    step = 1e-3
    ways = [
        (place.place(flat + by) - place.place(flat - by)) / (2 * step) for by in np.eye(3) * step
    ]
    size = np.einsum("ij,ij->i", np.cross(ways[0], ways[1]), ways[2])
    cell = radius_mm / rings * 2 * np.pi / sectors * high_mm / layers
    return float((size * r).sum() * cell)


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--rounds", type=int, default=3)
    given = options.parse_args()
    honest()
    whole, (flat, heights) = body(), art()
    size = _SIDE_MM, _SIDE_MM
    place = unroll(whole, _AT, _UP, 0, 14.5)

    def ours() -> Mesh:
        return decorate(whole, flat, 0.4, [unroll(whole, _AT, _UP, 0, 14.5)], size, "raise", 0.004)[
            0
        ]

    found = ours()
    taken = quickest(given.rounds, ours)
    alone = quickest(given.rounds, lambda: unroll(whole, _AT, _UP, 0, 14.5))
    start = time.perf_counter()
    plain = pushed(whole, heights)
    base = time.perf_counter() - start
    report = measure(found)
    print(f"{_SIDE_MM:g} mm of {_DETAIL_MM:g} mm detail on {len(whole.faces)} triangles: "
          f"{taken:.2f} s ({alone:.2f} to unroll it), {report.triangles} triangles, "
          f"closed {report.manifold}; refined and pushed {base:.2f} s, {base / taken:.1f} x, "
          f"{len(plain.faces)} triangles")  # fmt: skip
    print(f"  its walls lean {walls(found, place):.1f} degrees; pushed {walls(plain, place):.1f}")


if __name__ == "__main__":
    main()
