"""`nebrel lay`: a mesh laid on one of its faces."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import triple


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--towards",
        type=triple,
        required=True,
        metavar="X,Y,Z",
        help="the way the face looks now that comes to lie on the table",
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped

    keep_stepped(options, "lay", towards=options.towards)
