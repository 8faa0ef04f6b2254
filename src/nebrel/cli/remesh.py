"""`nebrel remesh`: triangles of even size."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--edge", type=length, required=True, metavar="MM", help="how long edges become"
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.deviation import deviation
    from nebrel.core.mesh.even import even

    mesh = mesh_from(options)
    found = even(mesh, options.edge)
    away = deviation(mesh, found)
    keep_mesh(options, found, max_mm=away.max_mm, rms_mm=away.rms_mm)
