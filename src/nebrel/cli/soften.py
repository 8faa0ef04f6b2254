"""`nebrel soften`: a body with its edges and corners made round."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument("--radius", type=length, default=1.0, metavar="MM", help="of an edge (1)")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped, mm

    keep_stepped(options, "soften", radius=mm(options.radius))
