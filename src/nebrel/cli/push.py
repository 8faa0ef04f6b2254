"""`nebrel push`: the surface of a mesh pushed out, or pressed in, under strokes of a brush."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.bodies import add_mesh


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--strokes",
        type=Path,
        required=True,
        metavar="FILE",
        help='JSON: [{"places": [[x, y, z], …], "size": MM, "strength": MM}, …] on the mesh',
    )
    parser.add_argument("--way", choices=["out", "in"], default="out", help="which way (out)")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped, strokes_of

    keep_stepped(options, "push", way=options.way, strokes=strokes_of(options.strokes))
