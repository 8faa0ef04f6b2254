"""`nebrel texture`: a picture of heights made from a few numbers and a seed."""

from __future__ import annotations

import argparse
from pathlib import Path


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    from nebrel.core.picture.patterns import PATTERNS

    parser.add_argument("kind", choices=PATTERNS, metavar="KIND", help=", ".join(PATTERNS))
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
    parser.add_argument("--seed", type=int, default=1, metavar="N", help="another one (1)")
    parser.add_argument("--pixels", type=int, default=1024, metavar="N", help="of a side (1024)")
    parser.add_argument(
        "--across", type=int, default=6, metavar="N", help="how many lie side by side, about (6)"
    )
    parser.add_argument(
        "--uneven", type=float, default=0.4, metavar="SHARE", help="0 regular, 1 not (0.4)"
    )
    parser.add_argument(
        "--soft", type=float, default=0.5, metavar="SHARE", help="of its edges, 0 to 1 (0.5)"
    )
    parser.add_argument(
        "--tile", action="store_true", help="without a seam, however often it is repeated"
    )


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.files import writing
    from nebrel.core.formats.png import encode_png
    from nebrel.core.picture.patterns import Dials, pattern

    if options.output.suffix.lower() != ".png":
        raise InvalidValue(
            "output", f"“{options.output.suffix}” is no ending for it", "End its name in .png"
        )
    if options.seed < 0:
        raise InvalidValue("seed", f"{options.seed} is below 0", "Use 0 or more")
    names = "pixels", "seed", "across", "uneven", "soft", "tile"
    made = pattern(options.kind, Dials(**{name: getattr(options, name) for name in names}))
    with writing(options.output) as file:
        file.write(encode_png(made))
    rows, cols = made.shape
    print(f"{options.output}: {cols} × {rows} pixels, 16-bit")
