"""The same recipes without a browser.

Every command loads only what it uses, so that a quick question has a quick answer.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import NoReturn

from nebrel.core.errors import NebrelError
from nebrel.core.lengths import parse_length

_REFUSED = 2


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        words = " ".join(message.split()).rstrip(".")
        print(f"nebrel: {words}. See {self.prog} --help.", file=sys.stderr)
        raise SystemExit(_REFUSED)


def _length(text: str) -> float:
    try:
        return parse_length(text)
    except NebrelError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="nebrel", description="From a picture to a piece you can hold.")
    parser.add_argument("--version", action="store_true", help="say which version this is")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")

    relief = commands.add_parser("relief", help="a picture to a printable relief")
    relief.add_argument("picture", type=Path, metavar="PICTURE")
    relief.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.stl")
    side = relief.add_mutually_exclusive_group()
    side.add_argument("--wide", type=_length, metavar="MM", help="width of the piece")
    side.add_argument("--tall", type=_length, metavar="MM", help="height of the piece")
    relief.add_argument(
        "--depth",
        type=_length,
        default=3.0,
        metavar="MM",
        help="from the backing to the highest point (3)",
    )
    relief.add_argument(
        "--backing",
        type=_length,
        default=1.0,
        metavar="MM",
        help="solid thickness below the relief (1)",
    )
    relief.add_argument(
        "--raise",
        dest="raised",
        choices=["light", "dark"],
        default="light",
        help="which tones stand high (light)",
    )
    relief.add_argument(
        "--tolerance",
        type=_length,
        default=0.01,
        metavar="MM",
        help="largest height error at any pixel (0.01)",
    )
    relief.set_defaults(run=_relief)

    inspect = commands.add_parser("inspect", help="figures of a mesh file")
    inspect.add_argument("mesh", type=Path, metavar="MESH")
    inspect.add_argument("--json", action="store_true", help="as one line of JSON")
    inspect.set_defaults(run=_inspect)

    serve = commands.add_parser("serve", help="the application, for the browser")
    serve.add_argument("--host", default="127.0.0.1")
    serve.add_argument("--port", type=int, default=8765)
    serve.add_argument("--data", type=Path, metavar="DIR", help="where pieces are kept")
    serve.add_argument(
        "--demo", action="store_true", help="with the demo pieces, in their own folder"
    )
    serve.set_defaults(run=_serve)
    return parser


def main(arguments: list[str] | None = None) -> int:
    """Run one command; 0 on success, 2 on refused input with one line on stderr."""
    parser = _parser()
    options = parser.parse_args(arguments)
    if options.version:
        from nebrel import __version__

        print(f"nebrel {__version__}")
        return 0
    if options.command is None:
        parser.print_help()
        return 0
    try:
        options.run(options)
    except NebrelError as error:
        print(f"nebrel: {' '.join(str(error).split())}", file=sys.stderr)
        return _REFUSED
    except KeyboardInterrupt:
        return 130
    return 0


def _relief(options: argparse.Namespace) -> None:
    from nebrel.core.formats.stl import write_stl
    from nebrel.core.picture.decode import decode
    from nebrel.core.recipe.evaluator import Evaluator
    from nebrel.core.recipe.models import load_recipe

    picture = decode(options.picture)
    sha256 = "0" * 64
    if options.tall is not None:
        along, side = "tall", options.tall
    elif options.wide is not None:
        along, side = "wide", options.wide
    else:
        along, side = ("wide" if picture.cols >= picture.rows else "tall"), 100.0
    recipe = load_recipe(
        {
            "schema_version": 1,
            "picture": {"sha256": sha256, "along": along, "side": side},
            "heights": {
                "raised": options.raised,
                "depth": options.depth,
                "backing": options.backing,
            },
            "finish": {"tolerance": options.tolerance},
        }
    )
    result = Evaluator(lambda _: picture, cache_bytes=0).evaluate(recipe)
    write_stl(result.mesh, options.output)
    for note in picture.notes:
        print(f"note: {note}")
    size, report = result.report.size_mm, result.report
    print(
        f"{options.output}: {size[0]:.3f} × {size[1]:.3f} × {size[2]:.3f} mm, "
        f"{report.triangles} triangles, closed, {report.volume_mm3 / 1000:.2f} cm³"
    )


def _inspect(options: argparse.Namespace) -> None:
    from nebrel.core.formats.meshes import read_mesh
    from nebrel.core.mesh.measure import measure

    report = measure(read_mesh(options.mesh))
    if options.json:
        import json

        print(json.dumps(report.as_dict()))
        return
    size = " × ".join(f"{value:.3f}" for value in report.size_mm)
    state = "manifold" if report.manifold else "closed" if report.closed else "open"
    print(
        f"{options.mesh.name}: {size} mm, {report.triangles} triangles, "
        f"{report.vertices} vertices, volume {report.volume_mm3:.3f} mm³, "
        f"surface {report.area_mm2:.3f} mm², {state}, bodies: {report.bodies}"
    )


def _serve(options: argparse.Namespace) -> None:
    from nebrel.web.serve import serve

    serve(options.host, options.port, options.data, options.demo)


if __name__ == "__main__":
    raise SystemExit(main())
