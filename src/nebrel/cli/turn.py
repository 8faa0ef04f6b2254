"""`nebrel turn`: a mesh turned, mirrored and set down."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    for axis, order in zip("xyz", ("first", "then", "at last"), strict=True):
        parser.add_argument(
            f"-{axis}", f"--about-{axis}", type=float, metavar="DEG", help=f"about {axis}, {order}"
        )
    parser.add_argument(
        "--mirror", choices=["x", "y", "z"], help="across the plane that stands square to that axis"
    )
    parser.add_argument("--centre", action="store_true", help="its middle comes over the origin")
    parser.add_argument(
        "--leave", action="store_true", help="its lowest point does not come on the table"
    )


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped

    about = {axis: getattr(options, f"about_{axis}") for axis in "xyz"}
    down = {"centre": options.centre, "drop": not options.leave}
    keep_stepped(options, "turn", mirror=options.mirror, **about, **down)
