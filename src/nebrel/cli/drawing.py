"""`nebrel drawing`: an SVG or DXF cleaned, in millimetres, as SVG or DXF."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("drawing", type=Path, metavar="IN.svg|IN.dxf")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.svg|OUT.dxf")
    parser.add_argument("--wide", type=length, metavar="MM", help="width of what is drawn")
    parser.add_argument(
        "--unit", choices=["mm", "cm", "m", "in"], help="of the file, whatever it says"
    )
    parser.add_argument(
        "--join", type=length, default=0.1, metavar="MM", help="open ends this close are joined"
    )
    parser.add_argument(
        "--layer", action="append", metavar="NAME", help="only that layer or group; may be repeated"
    )
    parser.add_argument("--as", dest="lines", choices=["polylines", "splines"], default="polylines")
    parser.add_argument("--json", action="store_true", help="print figures as JSON")


def run(options: argparse.Namespace) -> None:
    """Read, mend and write it."""
    import sys

    from nebrel.cli.options import say_outline, write_outline
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.read_drawing import read_drawing
    from nebrel.core.outline.smooth_lines import with_curves

    layers = frozenset(options.layer) if options.layer else None
    found = read_drawing(options.drawing, options.unit, options.join, layers)
    if options.wide is not None:
        if options.wide <= 0:
            raise InvalidValue("--wide", f"{options.wide:g} mm is no width", "Try 50 mm")
        found = found.wide(options.wide)
    outline = with_curves(found.outline)
    write_outline(options.output, outline, options.lines)
    for note in found.notes:
        print(f"note: {note}", file=sys.stderr)
    curves = sum(len(one) for one in outline.curves)
    more = {
        "notes": list(found.notes),
        "layers": found.layers,
        "unit": found.unit,
        "page_mm": found.page_mm,
    }
    say_outline(options, outline, curves, 0.0, more)
