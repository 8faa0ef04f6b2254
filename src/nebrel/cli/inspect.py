"""`nebrel inspect`: figures of a mesh file."""

from __future__ import annotations

import argparse
from pathlib import Path


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("mesh", type=Path, metavar="MESH")
    parser.add_argument("--json", action="store_true", help="as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Say them."""
    from nebrel.core.formats.meshes import read_mesh
    from nebrel.core.mesh.measure import measure

    report = measure(read_mesh(options.mesh))
    if options.json:
        import json

        print(json.dumps(report.as_dict()))
        return
    size = " × ".join(f"{value:.3f}" for value in report.size_mm)
    state = "manifold" if report.manifold else "closed" if report.closed else "open"
    print(
        f"{options.mesh.name}: {size} mm, {report.triangles} triangles, "
        f"{report.vertices} vertices, volume {report.volume_mm3:.3f} mm³, "
        f"surface {report.area_mm2:.3f} mm², {state}, bodies: {report.bodies}"
    )
