"""`nebrel wedge`: a step wedge to calibrate a material with."""

from __future__ import annotations

import argparse
from typing import Any

from nebrel.cli.options import length, mesh_output, say


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    add_wedge_options(parser)
    parser.add_argument("--material", default="", help="a name to engrave")


def add_wedge_options(parser: argparse.ArgumentParser) -> None:
    """How many steps it has, and its thickest."""
    parser.add_argument("--steps", type=int, default=10, metavar="N")
    parser.add_argument("--thickest", type=length, default=4.0, metavar="MM")


def wedge_of(options: argparse.Namespace) -> Any:
    """The wedge that those options say."""
    from nebrel.core.proof.wedge import Wedge

    return Wedge(options.steps, options.thickest, getattr(options, "material", ""))


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.core.formats.meshes import write_mesh
    from nebrel.core.mesh.measure import measure
    from nebrel.core.proof.wedge import make_wedge

    mesh = make_wedge(wedge_of(options))
    write_mesh(mesh, options.output)
    say(options.output, measure(mesh))
