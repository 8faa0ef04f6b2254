"""`nebrel figure`: one picture of a subject to a closed, coloured mesh in the round."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.options import length, mesh_output


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    parser.add_argument(
        "--way",
        choices=["inflate", "half"],
        default="inflate",
        help="in the round, or half (inflate)",
    )
    parser.add_argument("--mask", type=Path, metavar="MASK", help="light is the subject")
    parser.add_argument("--tall", type=length, default=80.0, metavar="MM", help="(80)")
    parser.add_argument("--thick", type=length, metavar="MM", help="where it is thickest")
    parser.add_argument(
        "--back",
        choices=["mirror", "flat", "smooth"],
        help="as the front, flat, or shallower (mirror; flat where it is half)",
    )
    parser.add_argument("--base", type=length, default=0.0, metavar="MM", help="a plate under it")
    parser.add_argument("--resolution", type=int, default=512, metavar="N", help="(512)")
    parser.add_argument("--colours", type=int, metavar="N", help="no more than so many")
    parser.add_argument("--json", action="store_true", help="say it as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    import time

    from nebrel.cli.bodies import keep_mesh
    from nebrel.core.figure.figure import Back, Wanted, inflate
    from nebrel.core.figure.subject import find_subject
    from nebrel.core.mesh.colour import reduced
    from nebrel.core.picture.decode import decode

    start = time.perf_counter()
    mask = None if options.mask is None else decode(options.mask).tone
    subject = find_subject(decode(options.picture), mask)
    back: Back = options.back or ("flat" if options.way == "half" else "mirror")
    wanted = Wanted(
        options.tall,
        options.thick,
        back,
        base_mm=options.base,
        resolution=options.resolution,
    )
    found = inflate(subject, wanted)
    mesh = found.mesh if options.colours is None else reduced(found.mesh, options.colours)
    keep_mesh(
        options,
        mesh,
        notes=list(found.notes),
        tips_at_degrees=round(found.tips_deg, 2),
        seconds=round(time.perf_counter() - start, 3),
    )
