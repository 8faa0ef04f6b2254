"""`nebrel cutter`: a cutter for dough or clay, from a picture or a drawing."""

from __future__ import annotations

import argparse

from nebrel.cli.options import length
from nebrel.cli.shapes import add_shape_options


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_shape_options(parser)
    for name, standard, words in (
        ("wall", 0.84, "how thick the wall is"),
        ("high", 14.0, "how high all of it is"),
        ("blade", 0.42, "how thick the wall ends"),
        ("blade-high", 3.0, "over which height it thins"),
        ("rim", 4.0, "how far the rim reaches outside the outline"),
        ("rim-thick", 2.4, "how thick the rim is"),
    ):
        parser.add_argument(
            f"--{name}",
            type=length,
            default=standard,
            metavar="MM",
            help=f"{words} ({standard:g})",
        )
    parser.add_argument(
        "--details",
        type=length,
        metavar="MM",
        help="ridges along the holes of the shape, ending so far below the blade (none)",
    )
    parser.add_argument(
        "--as-seen",
        action="store_true",
        help="blade upwards it is as the picture is seen, and cuts the mirror image of it; "
        "without, it is mirrored, and what is cut looks like the picture",
    )


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.cli.options import say
    from nebrel.cli.shapes import outline_from
    from nebrel.core.formats.meshes import write_mesh
    from nebrel.core.solid.cutter import Cutter, check, cutter

    sizes = Cutter(
        options.wall,
        options.high,
        options.blade,
        options.blade_high,
        options.rim,
        options.rim_thick,
        options.details,
    )
    check(sizes)
    outline = outline_from(options)
    if not options.as_seen:
        (left, _), (right, _) = outline.bounds
        outline = outline.mirrored(float(left + right))
    mesh, report = cutter(outline, sizes)
    write_mesh(mesh, options.output)
    say(options.output, report)
    like = "the picture in a mirror" if options.as_seen else "the picture: the cutter is mirrored"
    print(f"note: pressed from above, what it cuts looks like {like}")
