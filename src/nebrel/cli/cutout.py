"""`nebrel cutout`: a shape with a thickness, from a picture or a drawing."""

from __future__ import annotations

import argparse

from nebrel.cli.options import length
from nebrel.cli.shapes import add_shape_options


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_shape_options(parser)
    parser.add_argument("--thick", type=length, required=True, metavar="MM", help="of the shape")
    parser.add_argument(
        "--edge", choices=["sharp", "chamfer", "round"], default="sharp", help="of its top (sharp)"
    )
    parser.add_argument(
        "--edge-size", type=length, default=0.6, metavar="MM", help="how far in the edge reaches"
    )
    parser.add_argument(
        "--backing",
        choices=["none", "plate", "round", "along"],
        default="none",
        help="below the shape (none)",
    )
    parser.add_argument(
        "--margin", type=length, default=3.0, metavar="MM", help="of the backing (3)"
    )
    parser.add_argument(
        "--backing-thick", type=length, default=2.0, metavar="MM", help="of the backing (2)"
    )


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.cli.options import say
    from nebrel.cli.shapes import outline_from
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.meshes import write_mesh
    from nebrel.core.solid.cutout import cutout

    if options.margin < 0:
        raise InvalidValue("--margin", f"{options.margin:g} mm is none", "Try 0 mm or more")
    mesh, report = cutout(
        outline_from(options),
        options.thick,
        options.edge,
        options.edge_size,
        options.backing,
        options.margin,
        options.backing_thick,
    )
    write_mesh(mesh, options.output)
    say(options.output, report)
