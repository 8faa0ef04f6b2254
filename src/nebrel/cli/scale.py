"""`nebrel scale`: a mesh in another size, from the middle of its underside."""

from __future__ import annotations

import argparse
from typing import Any

from nebrel.cli.bodies import add_mesh, plane


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)
    how = parser.add_mutually_exclusive_group(required=True)
    how.add_argument(
        "--times", type=_factors, metavar="S|X,Y,Z", help="by a factor, or one along each axis"
    )
    how.add_argument(
        "--size", type=plane, metavar="x|y|z=MM", help="as long along an axis, its proportions kept"
    )
    how.add_argument("--volume", type=float, metavar="CM3", help="to hold so much, the same way")


def _factors(text: str) -> tuple[float, float, float]:
    try:
        found = [float(part) for part in text.split(",")]
    except ValueError:
        found = []
    if len(found) == 1:
        found *= 3
    if len(found) != 3:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is no factor, as 1.5 or 1,1,0.5")
    return found[0], found[1], found[2]


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.stepped import keep_stepped, mm

    given: dict[str, Any]
    if options.times is not None:
        given = {"by": "factor", **dict(zip("xyz", options.times, strict=True))}
    elif options.size is not None:
        axis, long = options.size
        given = {"by": "size", "axis": axis, "size": mm(long)}
    else:
        given = {"by": "volume", "volume_cm3": options.volume}
    keep_stepped(options, "scale", **given)
