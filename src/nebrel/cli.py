"""The same recipes without a browser.

Every command loads only what it uses, so that a quick question has a quick answer.
"""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path
from threading import Thread
from typing import Any, NoReturn

from nebrel.cli_common import add_finish_options, finish_of, form_of, say, say_finish, warn
from nebrel.cli_light import add_commands
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
        metavar="MM",
        help="from the backing to the highest point (3)",
    )
    relief.add_argument(
        "--backing",
        type=_length,
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
    add_finish_options(relief, _length)
    relief.add_argument(
        "--form",
        choices=["panel", "arc", "tube", "globe", "disc", "dome"],
        default="panel",
        help="what the relief is laid on (panel)",
    )
    relief.add_argument("--bend", type=float, metavar="DEG", help="of an arc or a dome (90)")
    relief.add_argument(
        "--diameter",
        type=_length,
        metavar="MM",
        help="of the inner surface of a tube or globe, instead of the width",
    )
    _add_heights_options(relief)
    relief.set_defaults(run=_relief)

    heights = commands.add_parser("heights", help="a picture to heights, as a float TIFF in mm")
    heights.add_argument("picture", type=Path, metavar="PICTURE")
    heights.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.tif")
    heights.add_argument("--wide", type=_length, metavar="MM", help="width of the piece")
    heights.add_argument("--depth", type=_length, metavar="MM", help="relief depth (3)")
    heights.add_argument("--raise", dest="raised", choices=["light", "dark"], default="light")
    _add_heights_options(heights)
    heights.set_defaults(run=_heights)

    build = commands.add_parser("build", help="a piece exported from the bench to its mesh")
    build.add_argument("recipe", type=Path, metavar="RECIPE.json")
    build.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.stl")
    build.add_argument("--report", type=Path, metavar="REPORT.json", help="figures, as JSON")
    build.add_argument(
        "--strict",
        action="store_true",
        help="refuse, writing nothing, when anything is not done as the recipe says",
    )
    build.add_argument(
        "--part",
        choices=["piece", "holder", "cap", "side", "base", "lid"],
        default="piece",
        help="the piece itself, or one that goes with it (piece)",
    )
    build.set_defaults(run=_build)

    add_commands(commands, _length)
    _add_correct(commands)
    _add_report(commands)

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


def _add_heights_options(parser: argparse.ArgumentParser) -> None:
    from nebrel.cli_corrections import pins

    parser.add_argument(
        "--smooth", type=_length, default=0.0, metavar="MM", help="calm the heights within a radius"
    )
    parser.add_argument(
        "--tones",
        type=pins,
        metavar='"T=MM,T=cut"',
        help="flat tones, each with its height above the backing or cut through",
    )


class _InOrder(argparse.Action):
    """Collects corrections in the order in which they were typed."""

    def __call__(
        self,
        parser: argparse.ArgumentParser,
        namespace: argparse.Namespace,
        values: Any,
        option_string: str | None = None,
    ) -> None:
        steps = [*(getattr(namespace, "steps_in_order", None) or [])]
        steps.append(self.const if values == [] else values)
        namespace.steps_in_order = steps


class _Marks(argparse.Action):
    """Adds a box or a stroke to the isolation being typed, or begins one."""

    def __call__(
        self,
        parser: argparse.ArgumentParser,
        namespace: argparse.Namespace,
        values: Any,
        option_string: str | None = None,
    ) -> None:
        steps = [*(getattr(namespace, "steps_in_order", None) or [])]
        if not steps or steps[-1].get("method") != "strokes" or "box" in values.keys() & steps[-1]:
            steps.append({"kind": "isolate", "method": "strokes", "keep": [], "drop": []})
        last = dict(steps[-1])
        for name, value in values.items():
            last[name] = value if name == "box" else [*last[name], value]
        namespace.steps_in_order = [*steps[:-1], last]


def _add_correct(commands: Any) -> None:
    from nebrel import cli_corrections as typed

    correct = commands.add_parser(
        "correct",
        help="correct a picture; options apply in the order given",
        description="Correct a picture and save it as a 16-bit gray PNG. Options apply in the "
        "order given. Tones run from 0 (black) to 1 (white); above 1 they are read as 0 to 255.",
    )
    correct.add_argument("picture", type=Path, metavar="PICTURE")
    correct.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
    for flag, parse, metavar, words in (
        ("--crop", typed.crop, "X,Y,W,H", "keep a box, pixels from the upper left corner"),
        ("--levels", typed.levels, "auto|B,W[,GAMMA]", "black point, white point, mid-tone"),
        ("--threshold", typed.threshold, "otsu|local|T", "black and white only"),
        ("--steps", typed.steps, "N", "reduce to N flat tones"),
        ("--smooth", typed.smooth, "MM", "calm within a radius"),
        ("--despeckle", typed.despeckle, "MM2", "take out specks up to an area"),
        ("--wide", typed.wide, "MM", "how wide the picture is from here on"),
        ("--read", typed.read, "CHANNEL", "luminance, red, green, blue, alpha or lightness"),
        ("--drop-background", typed.drop_background, "TOLERANCE", "make it transparent"),
        ("--extend", typed.extend, "MM,TONE", "more canvas all around, in a tone"),
        ("--enlarge", typed.enlarge, "FACTOR", "more pixels for a small photograph, 1 to 16 times"),
    ):
        correct.add_argument(flag, type=parse, action=_InOrder, metavar=metavar, help=words)
    stroke = "X1,Y1,X2,Y2,…,WIDTH"
    for flag, parse, metavar, words in (
        ("--box", typed.box, "X,Y,W,H", "isolate what lies in a box of the picture, in pixels"),
        ("--keep", typed.stroke("keep"), stroke, "a stroke over what is isolated; repeatable"),
        ("--drop", typed.stroke("drop"), stroke, "a stroke over what is not; repeatable"),
    ):
        correct.add_argument(flag, type=parse, action=_Marks, metavar=metavar, help=words)
    correct.add_argument(
        "--invert", action=_InOrder, nargs=0, const={"kind": "invert"}, help="dark for light"
    )
    correct.set_defaults(run=_correct)


def _add_report(commands: Any) -> None:
    report = commands.add_parser("report", help="what of a picture will not print as meant")
    report.add_argument("picture", type=Path, metavar="PICTURE")
    for flag, default, words in (
        ("--wide", None, "width of the piece (100 on the longer side)"),
        ("--depth", 3.0, "relief depth (3)"),
        ("--nozzle", 0.42, "width of a nozzle line (0.42)"),
        ("--layer", 0.12, "layer height (0.12)"),
    ):
        report.add_argument(flag, type=_length, default=default, metavar="MM", help=words)
    report.add_argument("--json", action="store_true", help="as a list in JSON")
    report.set_defaults(run=_report)


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
        sys.stdout.flush()
    except NebrelError as error:
        print(f"nebrel: {' '.join(str(error).split())}", file=sys.stderr)
        return _REFUSED
    except BrokenPipeError:
        # Whoever reads has enough, as `head` does. The rest goes nowhere, quietly.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except KeyboardInterrupt:
        return 130
    return 0


def _recipe(picture: Any, options: argparse.Namespace, **more: Any) -> Any:
    """The recipe that relief and heights share."""
    from nebrel.core.recipe.models import load_recipe

    kept = picture.heights  # a file that says what its tones are worth is taken at its word
    along, side = "wide", options.wide
    if side is None and kept is not None and getattr(options, "tall", None) is None:
        side = kept.wide_mm
    if getattr(options, "tall", None) is not None:
        along, side = "tall", options.tall
    elif side is None:
        along, side = ("wide" if picture.cols >= picture.rows else "tall"), 100.0
    own_depth, own_backing = (3.0, 1.0) if kept is None else (kept.white_mm, 0.0)
    if kept is not None and kept.above == "backing":
        own_backing = 1.0
    depth = own_depth if options.depth is None else options.depth
    heights = {"raised": options.raised, "depth": depth, "smooth": options.smooth}
    if kept is not None:
        heights["cut_dropped"] = True
    if options.tones:
        heights |= {"mapping": "plateaus", "pins": options.tones}
    backing = more.pop("backing")
    heights["backing"] = own_backing if backing is None else backing
    return load_recipe(
        {"picture": {"sha256": "0" * 64, "along": along, "side": side}, "heights": heights} | more
    )


def _relief(options: argparse.Namespace) -> None:
    from nebrel.core.formats.stl import write_stl
    from nebrel.core.picture.decode import decode
    from nebrel.core.recipe.evaluator import Evaluator

    form = form_of(options)
    # While the picture is read, which is not Python's own work.
    Thread(target=_warm, daemon=True).start()
    picture = decode(options.picture)
    recipe = _recipe(
        picture,
        options,
        backing=options.backing,
        form=form,
        finish=finish_of(options, picture.heights is not None),
    )
    result = Evaluator(lambda _: picture, cache_bytes=0).evaluate(recipe)
    warn(recipe, result)
    write_stl(result.mesh, options.output)
    for note in picture.notes:
        print(f"note: {note}")
    say_finish(result)
    say(options.output, result.report)


def _warm() -> None:
    from nebrel.core.solid import triangulate

    triangulate.warm()


def _heights(options: argparse.Namespace) -> None:
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.heights import write_heights
    from nebrel.core.picture.decode import decode
    from nebrel.core.recipe.evaluator import Evaluator

    if options.output.suffix.lower() not in (".tif", ".tiff", ".png"):
        raise InvalidValue(
            str(options.output), "heights are a TIFF or a PNG", "Give it the ending .tif or .png"
        )
    picture = decode(options.picture)
    recipe = _recipe(picture, options, backing=0)
    field, cover = Evaluator(lambda _: picture, cache_bytes=0).heights(recipe)
    own = picture.heights
    write_heights(options.output, field, cover, "backing" if own is None else own.above)
    low, high = float(field.mm.min()), float(field.mm.max())
    rows, cols = field.mm.shape
    print(f"{options.output}: {cols} × {rows} pixels, {low:.3f} to {high:.3f} mm")


def _build(options: argparse.Namespace) -> None:
    import json

    from nebrel.core.formats.files import writing
    from nebrel.core.formats.stl import write_stl
    from nebrel.core.recipe.bundle import read_bundle
    from nebrel.core.recipe.evaluator import Evaluator

    recipe, pictures = read_bundle(options.recipe)
    if options.part != "piece":
        from nebrel.core.mesh.measure import measure
        from nebrel.core.recipe.companions import companion, company_of

        mesh = companion(company_of(recipe), Evaluator(pictures).relief(recipe), options.part)
        write_stl(mesh, options.output)
        say(options.output, measure(mesh))
        return
    result = Evaluator(pictures).evaluate(recipe)
    if options.report:
        with writing(options.report) as file:
            file.write(json.dumps(result.figures(), indent=1).encode())
    if warn(recipe, result) and options.strict:
        raise SystemExit(_REFUSED)
    write_stl(result.mesh, options.output)
    say_finish(result)
    say(options.output, result.report)


def _correct(options: argparse.Namespace) -> None:
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.png import write_png
    from nebrel.core.picture.decode import decode
    from nebrel.core.recipe.evaluator import Evaluator
    from nebrel.core.recipe.models import load_recipe

    if options.output.suffix.lower() != ".png":
        raise InvalidValue(
            str(options.output), "a corrected picture is a PNG", "Give the output the ending .png"
        )
    picture = decode(options.picture)
    wide = picture.cols >= picture.rows
    recipe = load_recipe(
        {
            "picture": {
                "sha256": "0" * 64,
                "along": "wide" if wide else "tall",
                "corrections": getattr(options, "steps_in_order", []),
            }
        }
    )
    found = Evaluator(lambda _: picture, cache_bytes=0).correct(recipe)
    if found.failures:
        raise found.failures[0].error
    work = found.work
    write_png(options.output, work.tone, work.alpha, 25.4 / work.pitch_mm)
    for note in found.notes:
        print(f"note: {note}")
    print(
        f"{options.output}: {work.cols} × {work.rows} pixels, "
        f"{work.size_mm[0]:.2f} × {work.size_mm[1]:.2f} mm"
        + (", partly transparent" if work.alpha is not None else "")
    )


def _report(options: argparse.Namespace) -> None:
    from nebrel.core.errors import InvalidValue
    from nebrel.core.picture.decode import decode
    from nebrel.core.picture.report import Printing
    from nebrel.core.picture.working import begin
    from nebrel.core.recipe.judge import judge

    for name in ("wide", "depth", "nozzle", "layer"):
        value = getattr(options, name)
        if value is not None and not 0.001 <= value <= 5000:
            raise InvalidValue(
                f"--{name}", f"{value:g} mm is outside 0.001 to 5000 mm", "Give it in millimetres"
            )
    picture = decode(options.picture)
    wide = options.wide or 100.0 * min(1.0, (picture.cols - 1) / (picture.rows - 1))
    printing = Printing(options.depth, options.nozzle, options.layer)
    findings = judge(begin(picture, None, wide), printing)
    if options.json:
        import json

        print(json.dumps([finding.as_dict() for finding in findings]))
        return
    for finding in findings:
        print(f"{finding.severity}: {finding.text}")
    if not findings:
        print("Nothing stands in the way.")


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
