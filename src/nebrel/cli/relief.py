"""`nebrel relief`: a picture to a printable relief."""

from __future__ import annotations

import argparse
from pathlib import Path
from threading import Thread

from nebrel.cli.options import (
    add_finish_options,
    add_form_options,
    add_heights_options,
    edge_of,
    form_of,
    keep,
    length,
    mesh_output,
    recipe_of,
    triangles_of,
)


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    side = parser.add_mutually_exclusive_group()
    side.add_argument("--wide", type=length, metavar="MM", help="width of the piece")
    side.add_argument("--tall", type=length, metavar="MM", help="height of the piece")
    parser.add_argument(
        "--depth",
        type=length,
        metavar="MM",
        help="from the backing to the highest point (3)",
    )
    parser.add_argument(
        "--backing",
        type=length,
        metavar="MM",
        help="solid thickness below the relief (1)",
    )
    parser.add_argument(
        "--raise",
        dest="raised",
        choices=["light", "dark"],
        default="light",
        help="which tones stand high (light)",
    )
    add_finish_options(parser)
    add_form_options(parser)
    add_heights_options(parser)


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.core.picture.decode import decode
    from nebrel.core.questions.evaluator import Evaluator

    form = form_of(options)
    # While the picture is read, which is not Python's own work.
    Thread(target=_warm, daemon=True).start()
    picture = decode(options.picture)
    recipe = recipe_of(
        picture,
        options,
        backing=options.backing,
        art={"edge": edge_of(options)},
        begins={"form": form},
        triangles=triangles_of(options, picture.heights is not None),
    )
    result = Evaluator(lambda _: picture, cache_bytes=0).evaluate(recipe)
    keep(options.output, recipe, picture, result)


def _warm() -> None:
    from nebrel.core.solid import triangulate

    triangulate.warm()
