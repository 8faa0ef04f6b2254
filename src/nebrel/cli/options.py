"""Options that several commands share, and what they print."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.core.choices import FORMS, MESHES_WRITTEN
from nebrel.core.errors import NebrelError
from nebrel.core.lengths import parse_length


def length(text: str) -> float:
    """A length as it is typed, in mm."""
    try:
        return parse_length(text)
    except NebrelError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def triple(text: str) -> tuple[float, float, float]:
    """A place or a way in space."""
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError as error:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is no place, as in 10,0,25.5") from error
    return x, y, z


def mesh_output(text: str) -> Path:
    """Where a mesh is written: the format follows the ending, an STL where there is none."""
    path = Path(text)
    if path.suffix and path.suffix.lower() not in MESHES_WRITTEN:
        endings = ", ".join(ending[1:].upper() for ending in MESHES_WRITTEN)
        raise argparse.ArgumentTypeError(
            f"“{path.name[:60]}” has no ending of a mesh format written here: {endings}"
        )
    return path


def area(text: str) -> float:
    """An area as it is typed, in mm²."""
    number = text.strip().lower().removesuffix("mm2").removesuffix("mm²").strip()
    try:
        found = float(number)
    except ValueError:
        found = -1.0
    if not 0 <= found < 1e9:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is not an area in mm², as in 0.5")
    return found


def add_form_options(parser: argparse.ArgumentParser) -> None:
    """`--form`, `--bend` and `--diameter`."""
    parser.add_argument(
        "--form", choices=FORMS, default="panel", help="what the heights are laid on (panel)"
    )
    parser.add_argument("--bend", type=float, metavar="DEG", help="of an arc or a dome (90)")
    parser.add_argument(
        "--diameter",
        type=length,
        metavar="MM",
        help="of the inner surface of a tube or globe, instead of the width",
    )


def add_heights_options(parser: argparse.ArgumentParser) -> None:
    """`--smooth` and `--tones`."""
    from nebrel.cli.corrections import pins

    parser.add_argument(
        "--smooth", type=length, default=0.0, metavar="MM", help="calm the heights within a radius"
    )
    parser.add_argument(
        "--tones",
        type=pins,
        metavar='"T=MM,T=cut"',
        help="flat tones, each with its height above the backing or cut through",
    )


def form_of(options: argparse.Namespace) -> dict[str, Any]:
    """The form that `--form`, `--bend` and `--diameter` say; sets the width from a diameter.

    Raises
    ------
    InvalidValue : they do not go together
    """
    import math

    from nebrel.core.errors import InvalidValue
    from nebrel.core.recipe.forms import FORM

    kind: Any = "panel" if options.form == "disc" else options.form
    model = FORM[kind]
    form: dict[str, Any] = {"kind": kind}
    if options.bend is not None:
        if "bend" not in model.model_fields:
            raise InvalidValue("--bend", f"a {options.form} has no bend", "Use --form arc")
        if not 1 <= options.bend <= 350:
            raise InvalidValue(
                "--bend",
                f"{options.bend:g}° is outside 1 to 350°",
                f"The nearest that works is {1 if options.bend < 1 else 350}°",
            )
        form["bend"] = options.bend
    if options.diameter is not None:
        if not model.around:
            raise InvalidValue(
                "--diameter", f"a {options.form} has none", "Use --form tube or globe, or --wide"
            )
        if options.wide is not None or getattr(options, "tall", None) is not None:
            raise InvalidValue(
                "--diameter", "the size is given twice", "Give the diameter or the width, not both"
            )
        options.wide = math.pi * options.diameter
    if "opening" in model.model_fields:
        wide = options.wide or 100.0
        form["opening"] = min(20.0, max(1.0, 0.3 * wide / math.pi))
    return form


def edge_of(options: argparse.Namespace) -> dict[str, Any]:
    """The edge that `--form` says: a disc is a panel with a round one."""
    return {"kind": "round" if options.form == "disc" else "rectangle"}


def add_finish_options(parser: argparse.ArgumentParser) -> None:
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


def triangles_of(options: argparse.Namespace, heights: bool = False) -> dict[str, Any]:
    """What those options say.

    Parameters
    ----------
    heights : the picture holds heights, which are kept exactly
    """
    exact = heights or options.tolerance is not None
    found: dict[str, Any] = {"detail": options.detail or ("picture" if exact else "made")}
    if options.tolerance is not None:
        found["tolerance"] = options.tolerance
    if options.most is not None:
        found["most_triangles"] = options.most
    return found


def keep(output: Path, recipe: Any, picture: Any, result: Any) -> None:
    """Write the mesh of a picture, and print what there is to say of it."""
    from nebrel.core.formats.meshes import write_mesh

    warn(recipe, result)
    write_mesh(result.mesh, output)
    for note in picture.notes:
        print(f"note: {note}")
    say_finish(result)
    say(output, result.report)


def say_finish(result: Any) -> None:
    """Print how fine it was made, and what a limit cost."""
    if result.raised is None:  # a mesh as it was brought follows no heights
        return
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

    from nebrel.core.questions.evaluation import complaints

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


def recipe_of(picture: Any, options: argparse.Namespace, backing: float | None, **more: Any) -> Any:
    """The recipe that `relief` and `heights` share.

    Parameters
    ----------
    more : of the recipe, and of how it begins
    """
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
    tones = {"raised": options.raised, "depth": depth, "smooth": options.smooth}
    if kept is not None:
        tones["cut_dropped"] = True
    if options.tones:
        tones |= {"mapping": "plateaus", "pins": options.tones}
    art = {
        "picture": {"file": {"sha256": "0" * 64}, "along": along, "side": side},
        "backing": own_backing if backing is None else backing,
        "build_up": [{"kind": "picture", "id": "picture", **tones}],
    }
    begins = {"art": art | more.pop("art", {}), **more.pop("begins", {})}
    return load_recipe({"begins": begins} | more)


def write_outline(path: Path, outline: Any, lines: Any = "polylines") -> None:
    """Write an outline as its ending says. Raises NebrelError."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.dxf import write_dxf
    from nebrel.core.formats.svg import write_svg

    ending = path.suffix.lower()
    if ending == ".svg":
        write_svg(outline, path)
    elif ending == ".dxf":
        write_dxf([outline], path, lines)
    else:
        raise InvalidValue(
            str(path), "an outline is an SVG or a DXF", "Give it the ending .svg or .dxf"
        )


def say_outline(
    options: argparse.Namespace,
    outline: Any,
    curves: int,
    off_mm: float,
    more: dict[str, Any] | None = None,
) -> None:
    """Print what was written, or its figures with `--json` and more of them."""
    import json

    from nebrel.core.outline.smooth_lines import parted

    low, high = outline.exact_bounds
    wide, tall = (float(value) for value in high - low)
    parts = len(parted(outline))
    figures = {
        "parts": parts,
        "holes": len(outline.loops) - parts,
        "curves": curves,
        "area_mm2": round(outline.area_mm2, 4),
        "length_mm": round(outline.length_mm, 4),
        "wide_mm": round(wide, 4),
        "tall_mm": round(tall, 4),
        "largest_distance_mm": round(off_mm, 5),
    }
    if options.json:
        print(json.dumps(figures | (more or {})))
        return
    print(
        f"{options.output}: {wide:.3f} × {tall:.3f} mm, {parts} "
        f"{'part' if parts == 1 else 'parts'}, {figures['holes']} holes, {curves} curves"
        + (f", within {off_mm:.3g} mm of the picture" if off_mm > 0 else "")
    )
