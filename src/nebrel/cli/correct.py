"""`nebrel correct`: a corrected picture."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.cli import corrections as typed


def add(parser: argparse.ArgumentParser) -> None:
    """Its options, which apply in the order in which they are given."""
    parser.description = (
        "Correct a picture and save it as a 16-bit gray PNG. Options apply in the order given. "
        "Tones run from 0 (black) to 1 (white); above 1 they are read as 0 to 255."
    )
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
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
        parser.add_argument(flag, type=parse, action=_InOrder, metavar=metavar, help=words)
    stroke = "X1,Y1,X2,Y2,…,WIDTH"
    for flag, parse, metavar, words in (
        ("--box", typed.box, "X,Y,W,H", "isolate what lies in a box of the picture, in pixels"),
        ("--keep", typed.stroke("keep"), stroke, "a stroke over what is isolated; repeatable"),
        ("--drop", typed.stroke("drop"), stroke, "a stroke over what is not; repeatable"),
    ):
        parser.add_argument(flag, type=parse, action=_Marks, metavar=metavar, help=words)
    parser.add_argument(
        "--invert", action=_InOrder, nargs=0, const={"kind": "invert"}, help="dark for light"
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


def run(options: argparse.Namespace) -> None:
    """Make it."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.png import write_png
    from nebrel.core.picture.decode import decode
    from nebrel.core.questions.evaluator import Evaluator
    from nebrel.core.recipe.models import load_recipe

    if options.output.suffix.lower() != ".png":
        raise InvalidValue(
            str(options.output), "a corrected picture is a PNG", "Give the output the ending .png"
        )
    picture = decode(options.picture)
    wide = picture.cols >= picture.rows
    pictured = {
        "file": {"sha256": "0" * 64},
        "along": "wide" if wide else "tall",
        "corrections": getattr(options, "steps_in_order", []),
    }
    recipe = load_recipe({"begins": {"art": {"picture": pictured}}})
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
