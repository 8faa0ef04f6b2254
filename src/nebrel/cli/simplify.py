"""`nebrel simplify`: fewer triangles."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    most = parser.add_mutually_exclusive_group(required=True)
    most.add_argument("--triangles", type=int, metavar="N", help="the most triangles")
    most.add_argument("--deviation", type=length, metavar="MM", help="the farthest it may be off")
    most.add_argument("--bytes", type=int, metavar="N", help="the largest file")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.formats.fewer_bytes import to_bytes
    from nebrel.core.mesh.deviation import deviation
    from nebrel.core.mesh.simplify import simplify, within

    mesh = mesh_from(options)
    if options.deviation is not None:
        found, away = within(mesh, options.deviation)
    else:
        if options.triangles is not None:
            found = simplify(mesh, options.triangles)
        else:
            found = to_bytes(mesh, options.bytes, options.output.suffix or ".stl")
        away = deviation(mesh, found)
    before = len(mesh.faces)
    keep_mesh(
        options,
        found,
        triangles_before=before,
        max_mm=away.max_mm,
        rms_mm=away.rms_mm,
        deviation=away.as_dict(),
    )
