"""`nebrel trim`: what of a body lies on one side of a plane."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh, plane


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--plane", type=plane, required=True, metavar="x|y|z=MM", help="where it is cut"
    )
    parser.add_argument(
        "--keep", choices=["above", "below"], required=True, help="which side stays"
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.combine import trim

    axis, where = options.plane
    keep_mesh(options, trim(mesh_from(options), axis, where, options.keep)[0])
