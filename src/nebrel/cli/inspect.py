"""`nebrel inspect`: figures and faults of a mesh file."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.bodies import UNITS


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("mesh", type=Path, metavar="MESH")
    parser.add_argument("--unit", choices=UNITS, help="of the file, whatever it says")
    parser.add_argument("--json", action="store_true", help="as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Say them."""
    from nebrel.cli.bodies import mesh_from
    from nebrel.core.mesh.faults import find_faults
    from nebrel.core.mesh.measure import measure

    mesh = mesh_from(options)
    report, faults = measure(mesh), find_faults(mesh).as_dict()
    if options.json:
        import json

        print(json.dumps({**report.as_dict(), **faults}))
        return
    size = " × ".join(f"{value:.3f}" for value in report.size_mm)
    state = "manifold" if report.manifold else "closed" if report.closed else "open"
    print(
        f"{options.mesh.name}: {size} mm, {report.triangles} triangles, "
        f"{report.vertices} vertices, volume {report.volume_mm3:.3f} mm³, "
        f"surface {report.area_mm2:.3f} mm², {state}, bodies: {report.bodies}"
    )
    thinnest = faults.pop("thinnest_mm")
    wrong = [f"{count} {name.replace('_', ' ')}" for name, count in faults.items() if count]
    if wrong:
        print(f"faults: {', '.join(wrong)}")
    if thinnest is not None:
        print(f"thinnest wall: {thinnest:.3g} mm")
