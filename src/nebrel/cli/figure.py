"""`nebrel figure`: one picture of a subject to a closed, coloured mesh in the round."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from nebrel.cli.options import length, mesh_output

if TYPE_CHECKING:
    from nebrel.core.recipe.models import Recipe

_FILES = ("picture", "mask", "depth_picture", "back_picture", "network")
_KEPT = {name: f"{k}" * 64 for k, name in enumerate(_FILES)}  # how its recipe names its files


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    parser.add_argument(
        "--way",
        choices=["inflate", "turn", "half", "learned"],
        default="inflate",
        help="inflated, turned about its axis, half round for a wall, or as the network that ships "
        "with Nebrel has learned it (inflate)",
    )
    parser.add_argument("--mask", type=Path, metavar="MASK", help="light is the subject")
    parser.add_argument("--tall", type=length, default=80.0, metavar="MM", help="(80)")
    parser.add_argument("--thick", type=length, metavar="MM", help="where it is thickest")
    parser.add_argument(
        "--detail", type=length, default=0.0, metavar="MM", help="of fine light and dark (0)"
    )
    parser.add_argument("--dark-stands", action="store_true", help="dark stands out, not light")
    parser.add_argument(
        "--back",
        choices=["mirror", "flat", "smooth"],
        default="mirror",
        help="as the front, flat, or shallower (mirror; flat where it is half)",
    )
    parser.add_argument(
        "--back-picture",
        type=Path,
        metavar="FILE",
        help="seen from behind: its colours and detail, and its shape where it is learned",
    )
    parser.add_argument(
        "--wall", type=length, default=0.0, metavar="MM", help="turn: hollow, open above"
    )
    parser.add_argument("--half-round", action="store_true", help="turn: flat behind its axis")
    parser.add_argument("--base", type=length, default=0.0, metavar="MM", help="a plate under it")
    parser.add_argument("--feet", type=length, default=0.0, metavar="MM", help="four, under all")
    parser.add_argument("--resolution", type=int, default=512, metavar="N", help="(512)")
    parser.add_argument(
        "--depth-picture", type=Path, metavar="FILE", help="of the picture's size, light is near"
    )
    parser.add_argument(
        "--network", type=Path, metavar="FILE.onnx", help="of your own: its depth or normals"
    )
    parser.add_argument(
        "--network-gives", choices=["depth", "normals"], default="depth", help="(depth)"
    )
    parser.add_argument(
        "--network-near", choices=["large", "small"], default="large", help="its depth (large)"
    )
    parser.add_argument(
        "--network-values",
        choices=["0 to 1", "-1 to 1", "0 to 255", "photograph"],
        default="photograph",
        help="that it takes; photograph: less their mean, by their spread (photograph)",
    )
    parser.add_argument("--network-order", choices=["rgb", "bgr"], default="rgb", help="(rgb)")
    parser.add_argument("--network-size", type=int, metavar="N", help="where it takes any (384)")
    parser.add_argument("--colours", type=int, metavar="N", help="no more than so many")
    parser.add_argument("--json", action="store_true", help="say it as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Do it."""
    import time

    from pydantic import ValidationError

    from nebrel.cli.bodies import keep_mesh
    from nebrel.core.picture.decode import decode
    from nebrel.core.questions.evaluator import Evaluator
    from nebrel.core.recipe.explain import explain

    start = time.perf_counter()
    try:
        recipe = _recipe(options)
    except ValidationError as error:
        raise explain(error.errors(), exact=True) from error
    files = {kept: getattr(options, name) for name, kept in _KEPT.items()}
    evaluator = Evaluator(lambda kept: decode(files[kept]), 0, meshes=files.__getitem__)
    found = evaluator.evaluate(recipe)
    assert found.figure is not None
    keep_mesh(
        options,
        found.mesh,
        notes=list(found.figure.notes),
        tips_at_degrees=found.figure.tips_deg,
        seconds=round(time.perf_counter() - start, 3),
    )


def _recipe(options: argparse.Namespace) -> Recipe:
    """What is asked for, as the bench would write it; its files are those of the options."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.recipe.figure import FigureBegin
    from nebrel.core.recipe.models import Recipe

    def file(name: str) -> dict[str, str] | None:
        path = getattr(options, name)
        return None if path is None else {"sha256": _KEPT[name], "filename": path.name}

    network = None
    if options.network is not None:
        if options.depth_picture is not None:
            raise InvalidValue("network", "there is a depth picture, too", "Use one of the two")
        network = {
            "file": file("network"),
            "gives": options.network_gives,
            "near": options.network_near,
            "values": options.network_values,
            "order": options.network_order,
            "size": options.network_size,
        }
    begins = {
        "kind": "figure",
        "picture": {"file": file("picture")},
        "mask": file("mask"),
        "way": options.way,
        "tall": options.tall,
        "thick": options.thick,
        "back": options.back,
        "detail": options.detail,
        "dark_stands": options.dark_stands,
        "half_round": options.half_round,
        "wall": options.wall,
        "base": options.base,
        "feet": options.feet,
        "depth_picture": file("depth_picture"),
        "network": network,
        "back_picture": file("back_picture"),
        "colours": options.colours,
        "resolution": options.resolution,
    }
    return Recipe(begins=FigureBegin.model_validate(begins))
