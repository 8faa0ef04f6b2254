"""Meshes: simplified, compared, mended, written and read, each beside a plain baseline.

PYTHONPATH=. .venv/bin/python benchmarks/meshes.py [--triangles N] [--rounds N]
"""

from __future__ import annotations

import argparse
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import fast_simplification
import numpy as np
from tests.meshes import BREAKS, WHOLE, ball

from nebrel.core.data import HeightField, Mesh
from nebrel.core.formats.meshes import read_mesh, write_mesh
from nebrel.core.formats.stl import read_loose_stl
from nebrel.core.mesh.deviation import deviation
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.nearest import Nearby
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.simplify import simplify
from nebrel.core.solid.close import close
from nebrel.core.solid.triangulate import triangulate
from nebrel.demo.pictures import smooth_noise


def quickest(rounds: int, work: Callable[[], object]) -> float:
    """Seconds of the quickest of some rounds."""
    taken = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return min(taken)


def fresh(rounds: int, path: Path, work: Callable[[], object]) -> float:
    """The same of what writes a file, which is not there before."""
    taken = []
    for _ in range(rounds + 2):
        path.unlink(missing_ok=True)
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return min(taken)


def bumpy(triangles: int) -> Mesh:
    """A closed body of about so many triangles: heights on a plate, every pixel of them."""
    side = int((triangles / 2) ** 0.5)
    field = field_of(side)
    y, x = np.mgrid[0:side, 0:side].astype(np.float32)
    top = np.column_stack([x.ravel() * 0.1, y.ravel() * 0.1, field.mm[::-1].ravel()])
    a = (np.arange(side - 1)[:, None] * side + np.arange(side - 1)).ravel()
    up = np.concatenate(
        [
            np.column_stack([a, a + 1, a + side + 1]),
            np.column_stack([a, a + side + 1, a + side]),
        ]
    )
    return close(Mesh(top.astype(np.float32), up.astype(np.int32)))


def field_of(side: int) -> HeightField:
    """Smooth heights from 1 to 5 mm."""
    mm = 1 + 4 * smooth_noise(side, side, 5, 12, 3)
    return HeightField(mm.astype(np.float32), (side - 1) * 0.1, (side - 1) * 0.1)


def simplifying(triangles: int, rounds: int) -> None:
    """To a twentieth, beside quadric collapse alone; and heights triangulated anew."""
    mesh = bumpy(triangles)
    few = len(mesh.faces) // 20
    places = mesh.vertices.astype(np.float64)

    def plain() -> tuple[np.ndarray, np.ndarray]:
        return fast_simplification.simplify(places, mesh.faces, target_count=few)

    base, ours = quickest(rounds, plain), quickest(rounds, lambda: simplify(mesh, few))
    print(f"{len(mesh.faces)} triangles to {few}: {ours:.2f} s, collapse alone {base:.2f} s, "
          f"{ours / base:.2f} x")  # fmt: skip
    found = simplify(mesh, few)
    vertices, faces = plain()
    alone = deviation(mesh, merge(Mesh(vertices.astype(np.float32), faces.astype(np.int32))))
    start = time.perf_counter()
    said = deviation(mesh, found)
    taken = time.perf_counter() - start
    print(f"  deviation {said.max_mm:.4f} mm, RMS {said.rms_mm:.4f} ({taken:.1f} s to know); "
          f"of collapse alone {alone.max_mm:.4f}")  # fmt: skip
    rng = np.random.default_rng(1)
    corners = mesh.vertices[mesh.faces[rng.integers(0, len(mesh.faces), 500_000)]]
    weights = rng.dirichlet((1, 1, 1), len(corners))
    away = Nearby.of(found).nearest(np.einsum("nk,nkx->nx", weights, corners))[0]
    print(f"  half a million places sampled: {away.max():.4f} mm at most")
    field = field_of(int((triangles / 2) ** 0.5))
    low, high = 1e-4, 0.5
    start = time.perf_counter()
    for _ in range(8):
        middle = (low * high) ** 0.5
        surface = triangulate(field, middle, 50_000_000, False, "quick")
        low, high = (middle, high) if len(surface.faces) > few else (low, middle)
    taken = time.perf_counter() - start
    print(f"  the same heights triangulated anew to as many: within {high:.4f} mm, {taken:.2f} s")


def files(triangles: int, rounds: int) -> None:
    """Binary STL, beside the same bytes."""
    mesh = bumpy(triangles)
    with tempfile.TemporaryDirectory() as folder:
        path, plain = Path(folder) / "a.stl", Path(folder) / "plain"
        write_mesh(mesh, path)
        data = np.fromfile(path, np.uint8)
        # New files, both: over an old one the system first makes room.
        write = fresh(rounds, path, lambda: write_mesh(mesh, path))
        base = fresh(rounds, plain, lambda: data.tofile(plain))
        loose = quickest(rounds, lambda: read_loose_stl(path))
        read = quickest(rounds, lambda: read_mesh(path))
        records = np.dtype([("values", "<f4", 12), ("spare", "<u2")])
        from_file = quickest(rounds, lambda: np.fromfile(path, records, offset=84))
        print(f"STL of {len(mesh.faces)} triangles: written in {write:.2f} s, "
              f"{write / base:.1f} x tofile; read in {loose:.2f} s, "
              f"{loose / from_file:.1f} x fromfile; and its corners joined in {read:.2f} s, "
              f"{read / from_file:.1f} x")  # fmt: skip
        for ending in (".3mf", ".obj", ".ply", ".glb", ".off"):
            other = Path(folder) / f"a{ending}"
            taken = quickest(1, lambda other=other: write_mesh(mesh, other))
            back = quickest(1, lambda other=other: read_mesh(other))
            print(f"  {ending[1:]}: written in {taken:.2f} s, read in {back:.2f} s, "
                  f"{other.stat().st_size / 1e6:.0f} MB")  # fmt: skip


def mending() -> None:
    """Meshes broken by code."""
    closed = worst = 0.0
    count = 0
    start = time.perf_counter()
    for fault in BREAKS.values():
        for make in WHOLE.values():
            whole = measure(make()).volume_mm3
            for seed in range(10, 13):
                count += 1
                found = repair(merge(fault(make(), seed)))
                closed += found.report.manifold
                worst = max(worst, abs(found.report.volume_mm3 / whole - 1))
    taken = time.perf_counter() - start
    print(f"{count} broken meshes: {closed:.0f} closed and manifold, volume within "
          f"{worst * 100:.2f} %, {taken / count:.2f} s each")  # fmt: skip


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--triangles", type=int, default=2_000_000)
    options.add_argument("--rounds", type=int, default=3)
    given = options.parse_args()
    simplify(ball(), 200)
    deviation(ball(), ball(9))
    simplifying(given.triangles, given.rounds)
    files(given.triangles, given.rounds)
    mending()


if __name__ == "__main__":
    main()
