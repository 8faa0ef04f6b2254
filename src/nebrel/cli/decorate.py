"""`nebrel decorate`: a picture, a drawing or a recipe raised from a body, or sunk into it."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.cli.bodies import add_output
from nebrel.cli.options import length, triple

_DRAWINGS = (".svg", ".dxf")
_PIECES = (".zip", ".json")
_ART, _BODY = "0" * 64, "1" * 64


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("mesh", type=Path, metavar="BODY")
    parser.add_argument("art", type=Path, metavar="PICTURE-OR-DRAWING-OR-RECIPE")
    add_output(parser, json=True)
    parser.add_argument(
        "--at", type=triple, required=True, metavar="X,Y,Z", help="its middle: the nearest place"
    )
    parser.add_argument(
        "--up", type=triple, default=(0.0, 0.0, 1.0), metavar="X,Y,Z", help="its up in space (z)"
    )
    parser.add_argument(
        "--wide", type=length, required=True, metavar="MM", help="along the surface"
    )
    parser.add_argument("--depth", type=length, required=True, metavar="MM", help="along normals")
    parser.add_argument(
        "--lie",
        choices=["surface", "axis", "straight"],
        default="surface",
        help="along the surface, bent around an axis, or laid on straight (surface)",
    )
    parser.add_argument(
        "--axis", choices=["x", "y", "z"], default="z", help="that it is bent around (z)"
    )
    parser.add_argument(
        "--level", action="store_true", help="around an axis: lines across stay level on a cone"
    )
    parser.add_argument(
        "--fillet",
        type=length,
        default=0.0,
        metavar="MM",
        help="radius at its foot (0)",
    )
    parser.add_argument(
        "--lift", type=length, default=0.0, metavar="MM", help="a plate under it, so high (0)"
    )
    way = parser.add_mutually_exclusive_group()
    way.add_argument("--sink", action="store_true", help="into the body, not out of it")
    way.add_argument("--through", action="store_true", help="right through the wall")
    parser.add_argument(
        "--repeat", type=int, default=1, metavar="N", help="so often around the upright axis (1)"
    )
    parser.add_argument("--turn", type=float, default=0.0, metavar="DEG", help="to the left")
    parser.add_argument(
        "--raise", dest="raised", choices=["light", "dark"], default="light", help="(light)"
    )
    flat = parser.add_mutually_exclusive_group()
    flat.add_argument("--relief", action="store_true", help="tones are heights (so it is)")
    flat.add_argument(
        "--flat", action="store_true", help="what is darker than the threshold, at full depth"
    )
    parser.add_argument("--threshold", type=float, default=0.5, metavar="T", help="(0.5)")
    parser.add_argument("--mirror", action="store_true", help="left for right")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    import time

    from pydantic import ValidationError

    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.mesh.measure import measure
    from nebrel.core.questions.evaluator import Evaluator
    from nebrel.core.recipe.explain import explain

    start = time.perf_counter()
    before = measure(mesh_from(options))
    try:
        recipe, pictures, files = _recipe(options)
    except ValidationError as error:
        raise explain(error.errors(), exact=True) from error
    evaluator = Evaluator(pictures, files=files, meshes=lambda _: options.mesh)
    _check_art(evaluator, recipe)
    found = evaluator.evaluate(recipe)
    (done,) = found.decorations
    if done.error is not None:
        raise done.error
    keep_mesh(
        options,
        found.mesh,
        notes=[] if done.doubt is None else [done.doubt.why],
        volume_before_mm3=before.volume_mm3,
        stretch=list(done.laid.stretch) if options.json else _words(done.laid.stretch),
        seconds=round(time.perf_counter() - start, 3),
    )


def _check_art(evaluator: Any, recipe: Any) -> None:
    """Raises what an entry of the art was refused for: alone, the others would go on without it."""
    from nebrel.core.links.decoration import as_relief

    found = evaluator.evaluate(as_relief(recipe, recipe.body.decorations[0]), "draft")
    refused = [remark.error for remark in found.raised.remarks if remark.refused]
    if refused:
        raise refused[0]


def _content(path: Path) -> bytes:
    from nebrel.core.errors import UnreadableFile

    try:
        return path.read_bytes()
    except FileNotFoundError as error:
        raise UnreadableFile(path.name, "there is no such file", "Check the path") from error
    except OSError as error:
        reason = (error.strerror or "").lower()
        raise UnreadableFile(path.name, f"it cannot be read ({reason})", "Check it") from error


def _words(stretch: tuple[float, float]) -> str:
    return f"{stretch[0]:.4f} to {stretch[1]:.4f}"


def _recipe(options: argparse.Namespace) -> tuple[Any, Any, Any]:
    """The body with the one decoration, and what gives its pictures and files."""
    from nebrel.core.recipe.models import load_recipe

    backing = min(0.4, options.depth)
    art: dict[str, Any]
    more: dict[str, Any] = {}
    if options.art.suffix.lower() in _PIECES:
        art, more, bundle = _of_piece(options)
        pictures, files = bundle, bundle.file
        backing /= more["deep_times"]
    else:
        drawing = options.art.suffix.lower() in _DRAWINGS
        if drawing:
            _content(options.art)
        art, picture = _drawn(options) if drawing else _pictured(options)
        pictures, files = (lambda _: picture), (lambda _: _content(options.art))
    decoration = {
        **more,
        "art": {**art, "backing": backing, "mirror": options.mirror != art.get("mirror", False)},
        "at": options.at,
        "up": options.up,
        "turn": options.turn,
        "does": "sink" if options.sink else "through" if options.through else "raise",
        "repeat": options.repeat,
        "lie": options.lie,
        "axis": options.axis,
        "level": options.level,
        "lift": options.lift,
        "fillet": options.fillet,
    }
    body = {
        "file": {"sha256": _BODY, "filename": options.mesh.name},
        "unit": options.unit or "file",
    }
    begins = {"kind": "body", "body": body, "decorations": [decoration]}
    return load_recipe({"begins": begins}), pictures, files


def _of_piece(options: argparse.Namespace) -> tuple[dict[str, Any], dict[str, Any], Any]:
    """The art of a piece from the bench, and how many times as large and deep it becomes."""
    from nebrel.core.products.bundle import read_bundle
    from nebrel.core.questions.evaluator import Evaluator

    recipe, bundle = read_bundle(options.art)
    art = recipe.relief.art
    wide, _ = Evaluator(bundle, files=bundle.file).extent(recipe)
    times = {"times": options.wide / wide, "deep_times": options.depth / art.depth_mm}
    return art.model_dump(mode="json"), times, bundle


def _pictured(options: argparse.Namespace) -> tuple[dict[str, Any], Any]:
    from nebrel.core.errors import InvalidValue
    from nebrel.core.picture.decode import decode
    from nebrel.core.questions.fresh_art import flat_shape, of_picture
    from nebrel.core.recipe.step import PictureFile

    tones: dict[str, Any] = {"raised": options.raised}
    if options.flat:
        if not 0.01 <= options.threshold <= 0.99:
            raise InvalidValue("threshold", f"{options.threshold:g} is not possible", "Use 0.5")
        tones |= flat_shape(options.threshold, options.depth)
    art = of_picture(PictureFile(sha256=_ART), options.wide, options.depth, **tones)
    return art.model_dump(mode="json"), decode(options.art)


def _drawn(options: argparse.Namespace) -> tuple[dict[str, Any], None]:
    """A drawing as a shape at full depth, on nothing."""
    entry = {
        "kind": "drawing",
        "id": "drawing",
        "file": {"sha256": _ART, "filename": options.art.name},
        "along": "wide",
        "side": options.wide,
        "height": options.depth,
    }
    side = {"wide": options.wide, "tall": options.wide}
    return {"extent": side, "build_up": [entry], "edge": {"kind": "along", "margin": 0}}, None
