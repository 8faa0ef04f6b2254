"""Options of the commands that take a shape out of a picture or a drawing, and that shape."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Any

from nebrel.cli.options import area, length, mesh_output


def add_trace_options(parser: argparse.ArgumentParser) -> None:
    """What of a picture is the shape."""
    parser.add_argument(
        "--threshold",
        default="otsu",
        metavar="T|otsu",
        help="the tone from 0 to 1 that parts the shape from the rest (otsu)",
    )
    parser.add_argument("--invert", action="store_true", help="what is light is the shape")
    parser.add_argument(
        "--fit", type=length, metavar="MM", help="how close curves follow (as the pixels tell)"
    )
    parser.add_argument(
        "--corner", type=float, metavar="DEG", help="the smallest turn that stays a corner (35)"
    )
    parser.add_argument(
        "--drop-below", type=area, default=0.0, metavar="MM2", help="leave out what is smaller"
    )


def add_shape_options(parser: argparse.ArgumentParser) -> None:
    """A picture or a drawing, its width, and how a picture is traced."""
    parser.add_argument("source", type=Path, metavar="PICTURE-OR-DRAWING")
    add_output_and_width(parser, "OUT", mesh_output)
    add_trace_options(parser)


def add_output_and_width(
    parser: argparse.ArgumentParser, called: str, kind: Callable[[str], Path] = Path
) -> None:
    """What is written, and how wide the shape becomes."""
    parser.add_argument("-o", "--output", type=kind, required=True, metavar=called)
    parser.add_argument(
        "--wide", type=length, required=True, metavar="MM", help="width of the shape itself"
    )


def outline_from(options: argparse.Namespace) -> Any:
    """The outline of a picture or a drawing, as wide as asked. Raises NebrelError."""
    import sys

    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.drawing import looks_like_drawing
    from nebrel.core.formats.read_drawing import read_drawing
    from nebrel.core.outline.sized import lines_wide, traced_wide

    if options.wide <= 0:
        raise InvalidValue("--wide", f"{options.wide:g} mm is no width", "Try 50 mm")
    if looks_like_drawing(options.source):
        found = read_drawing(options.source).wide(options.wide)
        for note in found.notes:
            print(f"note: {note}", file=sys.stderr)
        return lines_wide(found.outline, options.wide)
    options.picture = options.source
    traced = traced_wide(shape_of(options), options.wide, options.drop_below, *how(options))
    return lines_wide(traced.outline, options.wide)


def how(options: argparse.Namespace) -> tuple[float | None, float]:
    """How close, and what is a corner. Raises InvalidValue."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.outline.fit_curves import CORNER_DEG

    corner = CORNER_DEG if options.corner is None else options.corner
    if not 1 <= corner <= 180:
        raise InvalidValue(
            "--corner",
            f"{corner:g}° is outside 1 to 180°",
            f"The nearest that works is {1 if corner < 1 else 180}°",
        )
    if options.fit is not None and options.fit <= 0:
        raise InvalidValue("--fit", f"{options.fit:g} mm is not a distance", "Try 0.05 mm")
    return options.fit, corner


def shape_of(options: argparse.Namespace) -> Any:
    """What of the picture is the shape. Raises NebrelError."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.outline.tracing import shape_field
    from nebrel.core.picture.decode import decode

    level = None
    if options.threshold != "otsu":
        try:
            level = float(options.threshold)
        except ValueError:
            level = -1.0
        if not 0 <= level <= 1:
            raise InvalidValue(
                "--threshold",
                f"“{options.threshold[:40]}” is neither otsu nor a tone from 0 to 1",
                "Give black as 0 and white as 1",
            )
    picture = decode(options.picture)
    alpha = picture.alpha
    return shape_field(picture.tone, alpha, "light" if options.invert else "dark", level)
