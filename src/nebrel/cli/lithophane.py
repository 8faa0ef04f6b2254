"""`nebrel lithophane`: a picture to a panel that shows it against a lamp."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.options import keep, mesh_output
from nebrel.cli.panel import add_panel_options, from_picture


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.description = (
        "A picture to a panel that shows it against a lamp, as binary STL. Dark tones are thick. "
        "Lengths may carry a unit."
    )
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    add_panel_options(parser)


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.core.questions.evaluator import Evaluator

    recipe, pictures, picture = from_picture(options, options.picture)
    result = Evaluator(pictures, cache_bytes=0).evaluate(recipe)
    refused = [remark.error for remark in result.remarks if remark.refused]
    if refused:
        raise refused[0]
    keep(options.output, recipe, picture, result)
