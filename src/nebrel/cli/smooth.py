"""`nebrel smooth`: a mesh calmed without shrinking."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument("--rounds", type=int, default=10, metavar="N", help="how often (10)")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.smooth import smooth

    keep_mesh(options, smooth(mesh_from(options), options.rounds))
