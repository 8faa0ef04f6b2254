"""`nebrel split`: a body cut in two that fits together again, or taken apart."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh, plane
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    where = parser.add_mutually_exclusive_group(required=True)
    where.add_argument("--plane", type=plane, metavar="x|y|z=MM", help="where it is cut in two")
    where.add_argument(
        "--bodies", action="store_true", help="into the bodies there are, in a row on the table"
    )
    parser.add_argument("--pins", type=int, metavar="N", help="that hold the halves together (2)")
    parser.add_argument("--wide", type=length, metavar="MM", help="of a pin (4)")
    parser.add_argument("--long", type=length, metavar="MM", help="of a pin (8)")
    parser.add_argument(
        "--clearance", type=length, metavar="MM", help="of a pin in its socket (0.3)"
    )
    parser.add_argument("--gap", type=length, metavar="MM", help="between the parts (5)")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped, mm

    axis, at = options.plane or (None, None)
    lengths = {name: mm(getattr(options, name)) for name in ("wide", "long", "clearance", "gap")}
    into = "bodies" if options.bodies else "halves"
    keep_stepped(options, "split", into=into, axis=axis, at=mm(at), pins=options.pins, **lengths)
