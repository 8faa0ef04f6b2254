"""What several commands share."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any


def form_of(options: argparse.Namespace) -> dict[str, Any]:
    """What `--form`, `--bend` and `--diameter` say; sets the width from a diameter.

    Raises
    ------
    InvalidValue : they do not go together
    """
    import math

    from nebrel.core.errors import InvalidValue

    form: dict[str, Any] = {"kind": options.form}
    if options.bend is not None:
        if options.form not in ("arc", "dome"):
            raise InvalidValue("--bend", f"a {options.form} has no bend", "Use --form arc")
        if not 1 <= options.bend <= 350:
            raise InvalidValue(
                "--bend",
                f"{options.bend:g}° is outside 1 to 350°",
                f"The nearest that works is {1 if options.bend < 1 else 350}°",
            )
        form["bend"] = options.bend
    if options.diameter is not None:
        if options.form not in ("tube", "globe"):
            raise InvalidValue(
                "--diameter", f"a {options.form} has none", "Use --form tube or globe, or --wide"
            )
        if options.wide is not None or getattr(options, "tall", None) is not None:
            raise InvalidValue(
                "--diameter", "the size is given twice", "Give the diameter or the width, not both"
            )
        options.wide = math.pi * options.diameter
    if options.form == "globe":
        wide = options.wide or 100.0
        form["opening"] = min(20.0, max(1.0, 0.3 * wide / math.pi))
    return form


def add_finish_options(parser: argparse.ArgumentParser, length: Any) -> None:
    """`--tolerance`, `--detail` and `--most`."""
    parser.add_argument(
        "--tolerance",
        type=length,
        metavar="MM",
        help="largest height error at any pixel (by the layer; 0.01 for what is in the picture)",
    )
    parser.add_argument(
        "--detail",
        choices=["made", "picture"],
        help="as fine as the machine can make it, or all that is in the picture (made; picture "
        "when a tolerance is given)",
    )
    parser.add_argument("--most", type=int, metavar="N", help="the most triangles")


def finish_of(options: argparse.Namespace, heights: bool = False) -> dict[str, Any]:
    """What those options say.

    Parameters
    ----------
    heights : the picture holds heights, which are kept exactly
    """
    exact = heights or options.tolerance is not None
    finish: dict[str, Any] = {"detail": options.detail or ("picture" if exact else "made")}
    if options.tolerance is not None:
        finish["tolerance"] = options.tolerance
    if options.most is not None:
        finish["most_triangles"] = options.most
    return finish


def say_finish(result: Any) -> None:
    """Print how fine it was made, and what a limit cost."""
    fine = result.finish
    detail = "all that is in the picture"
    if fine.pitch_mm is not None:
        detail = f"detail from {fine.pitch_mm:.3g} mm"
    print(f"note: {detail}, within {fine.within_mm:.3g} mm", end="")
    cost = fine.within_mm > fine.wanted_mm * 1.0001
    print(f" instead of {fine.wanted_mm:.3g} mm to keep the limit" if cost else "")


def warn(recipe: Any, result: Any) -> int:
    """Print on stderr, a line each, what was not done as the recipe says; returns how much."""
    import sys

    from nebrel.core.recipe.evaluation import complaints

    found = complaints(recipe, result)
    for sentence in found:
        print(f"nebrel: {' '.join(sentence.split())}", file=sys.stderr)
    return len(found)


def say(output: Path, report: Any) -> None:
    """Print what was written."""
    size = report.size_mm
    islands = f", {report.bodies} separate parts" if report.bodies > 1 else ""
    print(
        f"{output}: {size[0]:.3f} × {size[1]:.3f} × {size[2]:.3f} mm, "
        f"{report.triangles} triangles, {'closed' if report.closed else 'open'}, "
        f"{report.volume_mm3 / 1000:.2f} cm³{islands}"
    )
