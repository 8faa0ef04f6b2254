"""`nebrel smooth`: a mesh calmed without shrinking."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.bodies import add_mesh


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument("--rounds", type=int, default=10, metavar="N", help="how often (10)")
    parser.add_argument(
        "--strokes", type=Path, metavar="FILE", help="only under them; written as for push"
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.cli.stepped import keep_stepped, strokes_of
    from nebrel.core.mesh.smooth import smooth

    if options.strokes is None:
        keep_mesh(options, smooth(mesh_from(options), options.rounds))
    else:
        given = {"where": "brush", "strokes": strokes_of(options.strokes)}
        keep_stepped(options, "smooth", rounds=options.rounds, **given)
