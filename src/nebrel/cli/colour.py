"""`nebrel colour`: a mesh in other colours."""

from __future__ import annotations

import argparse
import re

from nebrel.cli.bodies import add_mesh
from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    parser.add_argument(
        "--by",
        choices=["one", "height", "part", "fewer", "match", "none"],
        required=True,
        help="one for all; another from each height on, or for each body; as many of its own as "
        "--count; those of --colours that are most like its own; or none any more",
    )
    parser.add_argument(
        "--colours",
        type=_colours,
        metavar="#RRGGBB,…",
        help="the one; from below upwards; of the bodies, the largest first; or the palette",
    )
    parser.add_argument(
        "--changes",
        type=lambda text: [length(one) for one in text.split(",")],
        metavar="MM,…",
        help="heights above the underside where the next colour begins: one fewer than colours",
    )
    parser.add_argument("--count", type=int, metavar="N", help="how many are left of its own (4)")


def _colours(text: str) -> list[str]:
    found = [one.strip() for one in text.split(",")]
    for one in found:
        if not re.fullmatch("#[0-9a-fA-F]{6}", one):
            raise argparse.ArgumentTypeError(f"“{one[:40]}” is no colour, as in #d8ccbb")
    return found


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped, mm

    changes = options.changes and [mm(one) for one in options.changes]
    given = {"colours": options.colours, "changes": changes, "count": options.count}
    keep_stepped(options, "colour", by=options.by, **given)
