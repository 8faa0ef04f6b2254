"""`nebrel join`: one body out of two."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.bodies import add_output


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("mesh", type=Path, metavar="A")
    parser.add_argument("other", type=Path, metavar="B")
    add_output(parser, json=True)
    parser.add_argument(
        "--by",
        choices=["add", "subtract", "common"],
        required=True,
        help="both, A without B, or what both have",
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.combine import join

    keep_mesh(options, join(mesh_from(options), mesh_from(options, "other"), options.by)[0])
