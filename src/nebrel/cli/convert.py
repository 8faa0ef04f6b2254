"""`nebrel convert`: a mesh in another format, unit or size."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument("--scale", type=float, default=1.0, metavar="S", help="times (1)")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.place import scaled

    keep_mesh(options, scaled(mesh_from(options), options.scale))
