"""`nebrel thicken`: an open surface given a back."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--thick",
        type=length,
        required=True,
        metavar="MM",
        help="how far behind the surface its back lies; below 0 on its other side",
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped, mm

    keep_stepped(options, "thicken", thick=mm(options.thick))
