"""`nebrel light`: the lit panel as an 8-bit picture."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.panel import add_panel_options, from_picture


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.description = (
        "What a lamp behind the panel shows, as an 8-bit sRGB PNG of the picture's size. Takes a "
        "picture with the options of lithophane, or a piece exported from the bench."
    )
    parser.add_argument("source", type=Path, metavar="RECIPE-OR-PICTURE")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
    add_panel_options(parser)


def run(options: argparse.Namespace) -> None:
    """Make it."""
    import cv2

    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.files import writing
    from nebrel.core.products.bundle import read_bundle
    from nebrel.core.proof.light import to_tone
    from nebrel.core.questions.evaluator import Evaluator
    from nebrel.core.questions.shine import lamp_of, shine

    if options.output.suffix.lower() != ".png":
        raise InvalidValue(
            str(options.output), "the lit panel is a PNG", "Give the output the ending .png"
        )
    if options.source.suffix.lower() in (".zip", ".json"):
        recipe, pictures = read_bundle(options.source)
        evaluator = Evaluator(pictures, files=pictures.file)
    else:
        recipe, pictures, _ = from_picture(options, options.source)
        evaluator = Evaluator(pictures)
    relief = evaluator.relief(recipe)
    shone = shine(lamp_of(recipe), relief, evaluator.correct(recipe).work.tone)
    tones = (to_tone(shone.light) * 255 + 0.5).astype("uint8")
    data = cv2.imencode(".png", cv2.cvtColor(tones, cv2.COLOR_GRAY2BGR))[1]
    with writing(options.output) as file:
        file.write(data.tobytes())
    rows, cols = tones.shape
    print(
        f"{options.output}: {cols} × {rows} pixels, light within {shone.error() * 100:.1f} % RMS "
        "of the picture's"
    )
