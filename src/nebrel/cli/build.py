"""`nebrel build`: a piece exported from the bench to its mesh."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.cli.options import say, say_finish, warn
from nebrel.core.choices import PARTS, PRODUCT_NAMES


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("recipe", type=Path, metavar="PIECE")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.stl")
    parser.add_argument("--report", type=Path, metavar="REPORT.json", help="figures, as JSON")
    parser.add_argument(
        "--strict",
        action="store_true",
        help="refuse, writing nothing, when anything is not done as the recipe says",
    )
    parser.add_argument(
        "--product",
        metavar="NAME",
        help=f"something else to be made of it: {', '.join(PRODUCT_NAMES)}; the outline of an "
        "entry as entry-ID.svg, or of the piece at a height as height-MM.svg; or .dxf, with "
        "curves as -splines.dxf",
    )
    parser.add_argument(
        "--part",
        choices=PARTS,
        default="piece",
        help="the piece itself, or one that goes with it (piece)",
    )


def run(options: argparse.Namespace) -> None:
    """Make it."""
    import json

    from nebrel.cli import REFUSED
    from nebrel.core.formats.files import writing
    from nebrel.core.formats.meshes import check_ending, write_mesh
    from nebrel.core.products.bundle import read_bundle
    from nebrel.core.questions.evaluator import Evaluator

    recipe, pictures = read_bundle(options.recipe)
    if options.product is not None:
        _make(recipe, pictures, options)
        return
    check_ending(options.output)
    if options.part != "piece":
        from nebrel.core.mesh.measure import measure
        from nebrel.core.products.companions import part_of

        mesh = part_of(Evaluator(pictures, files=pictures.file), recipe, options.part)
        write_mesh(mesh, options.output)
        say(options.output, measure(mesh))
        return
    result = Evaluator(pictures, files=pictures.file).evaluate(recipe)
    if options.report:
        with writing(options.report) as file:
            file.write(json.dumps(result.figures(), indent=1).encode())
    if warn(recipe, result) and options.strict:
        raise SystemExit(REFUSED)
    write_mesh(result.mesh, options.output)
    say_finish(result)
    say(options.output, result.report)


def _make(recipe: Any, pictures: Any, options: argparse.Namespace) -> None:
    """Another product than the mesh with its figures."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.products.table import Making, product_of
    from nebrel.core.questions.evaluator import Evaluator

    made = product_of(options.product)
    ending = Path(options.product).suffix
    if options.part != "piece" or options.report or options.strict:
        raise InvalidValue(
            "--product",
            "it does not go with --part, --report or --strict",
            "Give one or the other",
        )
    if options.output.suffix.lower() != ending:
        raise InvalidValue(
            str(options.output),
            f"{made.called} is written as {ending[1:].upper()}",
            f"Give the output the ending {ending}",
        )
    made.write(
        Making(recipe, Evaluator(pictures, files=pictures.file), pictures.file), options.output
    )
    print(f"{options.output}: {made.called}, {options.output.stat().st_size / 1e6:.1f} MB")
