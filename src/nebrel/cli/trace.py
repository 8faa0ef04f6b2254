"""`nebrel trace`: the shape in a picture as an outline for another program."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.shapes import add_output_and_width, add_trace_options


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    add_output_and_width(parser, "OUT.svg|OUT.dxf")
    add_trace_options(parser)
    parser.add_argument(
        "--centre-line", action="store_true", help="the middle of the strokes, not both edges"
    )
    parser.add_argument("--as", dest="lines", choices=["polylines", "splines"], default="polylines")
    parser.add_argument("--json", action="store_true", help="print figures as JSON")


def run(options: argparse.Namespace) -> None:
    """Trace it."""
    from nebrel.cli.options import say_outline, write_outline
    from nebrel.cli.shapes import how, shape_of
    from nebrel.core.errors import InvalidValue
    from nebrel.core.outline.sized import traced_wide

    if options.wide <= 0:
        raise InvalidValue("--wide", f"{options.wide:g} mm is no width", "Try 50 mm")
    if options.centre_line:
        _trace_strokes(options)
        return
    traced = traced_wide(shape_of(options), options.wide, options.drop_below, *how(options))
    write_outline(options.output, traced.outline, options.lines)
    say_outline(options, traced.outline, traced.curves, traced.off_mm)


def _trace_strokes(options: argparse.Namespace) -> None:
    import json

    from nebrel.cli.shapes import shape_of
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.dxf import write_strokes_dxf
    from nebrel.core.formats.svg import write_strokes_svg
    from nebrel.core.outline.centre_lines import strokes_wide

    ending = options.output.suffix.lower()
    if ending not in (".svg", ".dxf"):
        raise InvalidValue(
            str(options.output), "lines are an SVG or a DXF", "Give it the ending .svg or .dxf"
        )
    strokes = strokes_wide(shape_of(options), options.wide)
    if ending == ".svg":
        write_strokes_svg(strokes, options.output)
    else:
        write_strokes_dxf(strokes, options.output, options.lines)
    low, high = strokes.bounds
    curves = sum(len(one) for one in strokes.curves)
    figures = {
        "parts": len(strokes.curves),
        "holes": 0,
        "curves": curves,
        "area_mm2": 0.0,
        "length_mm": round(strokes.length, 4),
        "wide_mm": round(float(high[0] - low[0]), 4),
        "tall_mm": round(float(high[1] - low[1]), 4),
    }
    if options.json:
        print(json.dumps(figures))
        return
    print(
        f"{options.output}: {figures['wide_mm']:.3f} × {figures['tall_mm']:.3f} mm, "
        f"{figures['parts']} lines, {curves} curves"
    )
