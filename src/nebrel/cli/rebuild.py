"""`nebrel rebuild`: a new surface from a voxel grid."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--voxel", type=length, required=True, metavar="MM", help="how fine the grid is"
    )
    parser.add_argument(
        "--offset",
        type=length,
        default=0.0,
        metavar="MM",
        help="by how much it grows, or shrinks below 0 (0)",
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.voxels import rebuild

    keep_mesh(options, rebuild(mesh_from(options), options.voxel, options.offset)[0])
