"""`nebrel hollow`: a body with a wall around nothing."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--wall", type=length, required=True, metavar="MM", help="how thick the wall is"
    )
    parser.add_argument("--drains", type=int, default=0, metavar="N", help="holes down (0)")
    parser.add_argument(
        "--drain", type=length, default=3.0, metavar="MM", help="how wide each is (3)"
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.voxels import hollow

    drains = options.drains, options.drain
    keep_mesh(options, hollow(mesh_from(options), options.wall, *drains)[0])
