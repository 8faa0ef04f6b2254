"""The same recipes without a browser.

Every command is a module of its own, and loads only what it uses: a quick question has a quick
answer. A new one is a module with `add` and `run`, and a line in `COMMANDS`.
"""

from __future__ import annotations

import argparse
import os
import re
import sys
from importlib import import_module
from typing import NoReturn

from nebrel.core.errors import NebrelError

COMMANDS = {
    "relief": "a picture to a printable relief",
    "heights": "a picture to heights, as a float TIFF in mm",
    "build": "a piece exported from the bench to its mesh",
    "lithophane": "a picture to a panel that shows it against a lamp",
    "light": "the lit panel as an 8-bit picture",
    "wedge": "a step wedge to calibrate a material with",
    "photograph": "a simulated photograph of a wedge against a lamp",
    "calibrate": "the attenuation of a material from a photograph of its wedge",
    "correct": "correct a picture; options apply in the order given",
    "report": "what of a picture will not print as meant",
    "trace": "the shape in a picture as an outline, SVG or DXF",
    "drawing": "an SVG or DXF mended and sized, as SVG or DXF",
    "cutout": "a shape in a picture or a drawing, with a thickness",
    "cutter": "a cutter for dough or clay from a picture or a drawing",
    "simplify": "a mesh with fewer triangles",
    "repair": "a broken mesh mended",
    "convert": "a mesh in another format, unit or size",
    "remesh": "a mesh of even triangles",
    "rebuild": "a mesh made anew from a voxel grid",
    "smooth": "a mesh calmed without shrinking",
    "soften": "a body with its edges and corners made round",
    "push": "a mesh pushed out, or pressed in, under strokes of a brush",
    "trim": "what of a body lies on one side of a plane",
    "split": "a body in two halves that fit together again, or in its parts",
    "join": "one body out of two",
    "hollow": "a body with a wall around nothing",
    "thicken": "an open surface given a back",
    "scale": "a mesh in another size",
    "turn": "a mesh turned, mirrored and set down",
    "lay": "a mesh laid on one of its faces",
    "colour": "a mesh in other colours",
    "body": "a ready shape by its sizes",
    "decorate": "a picture, a drawing or a recipe raised from a body, or sunk into it",
    "figure": "a picture of a subject to a closed, coloured mesh in the round",
    "texture": "a picture of heights made from a few numbers and a seed",
    "deviation": "how far two meshes are apart",
    "inspect": "figures and faults of a mesh file",
    "serve": "the application, for the browser",
}
REFUSED = 2


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        words = " ".join(message.split()).rstrip(".")
        print(f"nebrel: {words}. See {self.prog} --help.", file=sys.stderr)
        raise SystemExit(REFUSED)


def _parser(called: str | None) -> argparse.ArgumentParser:
    """All commands by name; the options of the one that is called."""
    parser = _Parser(prog="nebrel", description="From a picture to a piece you can hold.")
    parser.add_argument("--version", action="store_true", help="say which version this is")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")
    for name, words in COMMANDS.items():
        own = commands.add_parser(name, help=words)
        if name == called:
            module = import_module(f"nebrel.cli.{name}")
            module.add(own)
            own.set_defaults(run=module.run)
    return parser


def _with_values(given: list[str]) -> list[str]:
    """Values that begin with a minus, as `--at -3,0,2`, tied to their option: they are none."""
    tied: list[str] = []
    for word in given:
        option = tied[-1] if tied else ""
        if re.match(r"-\.?\d", word) and option.startswith("--") and "=" not in option:
            tied[-1] = f"{option}={word}"
        else:
            tied.append(word)
    return tied


def main(arguments: list[str] | None = None) -> int:
    """Run one command; 0 on success, 2 on refused input with one line on stderr."""
    given = sys.argv[1:] if arguments is None else arguments
    parser = _parser(next((word for word in given if word in COMMANDS), None))
    options = parser.parse_args(_with_values(given))
    if options.version:
        from nebrel import __version__

        print(f"nebrel {__version__}")
        return 0
    if options.command is None:
        parser.print_help()
        return 0
    try:
        options.run(options)
        sys.stdout.flush()
    except NebrelError as error:
        print(f"nebrel: {' '.join(str(error).split())}", file=sys.stderr)
        return REFUSED
    except BrokenPipeError:
        # Whoever reads has enough, as `head` does. The rest goes nowhere, quietly.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        return 130
    return 0
