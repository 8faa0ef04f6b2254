"""`nebrel heights`: a picture to heights, as a float TIFF in mm."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.options import add_heights_options, length, recipe_of


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.tif")
    parser.add_argument("--wide", type=length, metavar="MM", help="width of the piece")
    parser.add_argument("--depth", type=length, metavar="MM", help="relief depth (3)")
    parser.add_argument("--raise", dest="raised", choices=["light", "dark"], default="light")
    add_heights_options(parser)


def run(options: argparse.Namespace) -> None:
    """Make them."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.heights import write_heights
    from nebrel.core.picture.decode import decode
    from nebrel.core.questions.evaluator import Evaluator

    if options.output.suffix.lower() not in (".tif", ".tiff", ".png"):
        raise InvalidValue(
            str(options.output), "heights are a TIFF or a PNG", "Give it the ending .tif or .png"
        )
    picture = decode(options.picture)
    recipe = recipe_of(picture, options, backing=0)
    field, cover = Evaluator(lambda _: picture, cache_bytes=0).heights(recipe)
    own = picture.heights
    write_heights(options.output, field, cover, "backing" if own is None else own.above)
    low, high = float(field.mm.min()), float(field.mm.max())
    rows, cols = field.mm.shape
    print(f"{options.output}: {cols} × {rows} pixels, {low:.3f} to {high:.3f} mm")
