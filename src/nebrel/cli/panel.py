"""A panel to be seen against a lamp, from options."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.cli.options import (
    add_finish_options,
    add_form_options,
    edge_of,
    form_of,
    length,
    triangles_of,
)


def add_panel_options(parser: argparse.ArgumentParser) -> None:
    """Its size, form, rim and material."""
    parser.add_argument("--wide", type=length, metavar="MM", help="width of the panel")
    parser.add_argument("--thinnest", type=length, metavar="MM", help="whole thickness of white")
    parser.add_argument("--thickest", type=length, metavar="MM", help="whole thickness of black")
    add_form_options(parser)
    parser.add_argument("--rim", type=length, metavar="MM", help="width of a rim as thick as black")
    parser.add_argument("--by", choices=["straight", "light"], default="light")
    parser.add_argument("--attenuation", type=float, metavar="PER_MM", help="of the material (1.2)")
    add_finish_options(parser)


def panel_recipe(options: argparse.Namespace, form: dict[str, Any]) -> Any:
    """The recipe of a panel from its options.

    Raises
    ------
    InvalidValue : a bound is missing, or the bounds cannot be printed
    """
    from nebrel.core.errors import InvalidValue
    from nebrel.core.recipe.models import load_recipe

    for name in ("wide", "thinnest", "thickest"):
        if getattr(options, name) is None:
            raise InvalidValue(f"--{name}", "it is needed", "Give it in millimetres")
    thin, thick = options.thinnest, options.thickest
    layer = 0.12
    if thin < layer:
        raise InvalidValue(
            "--thinnest",
            f"{thin:g} mm is thinner than one print layer",
            f"The nearest that works is {layer:g} mm",
        )
    if thick <= thin + 1e-6:
        raise InvalidValue(
            "--thinnest",
            f"{thin:g} mm is not below the thickest of {thick:g} mm",
            f"The nearest that works is {max(layer, thick - layer):g} mm, "
            f"or a thickest of {thin + layer:g} mm",
        )
    if options.attenuation is not None and not 0.01 <= options.attenuation <= 50:
        nearest = 0.01 if options.attenuation < 0.01 else 50
        raise InvalidValue(
            "--attenuation",
            f"{options.attenuation:g} per mm is outside 0.01 to 50",
            f"The nearest that works is {nearest:g}",
        )
    picture = {"kind": "picture", "raised": "dark", "mapping": options.by, "depth": thick - thin}
    build_up: list[dict[str, Any]] = [picture]
    if options.rim is not None:
        build_up.append(rim(options.rim, thick - thin))
    material = {} if options.attenuation is None else {"attenuation_per_mm": options.attenuation}
    return load_recipe(
        {
            "begins": {
                "art": {
                    "picture": {"file": {"sha256": "0" * 64}, "side": options.wide},
                    "backing": thin,
                    "build_up": build_up,
                    "edge": edge_of(options),
                },
                "form": form,
            },
            "triangles": triangles_of(options),
            "made_with": {"material": material},
        }
    )


def rim(wide_mm: float, height_mm: float) -> dict[str, Any]:
    """A rim all around as an entry of the build-up."""
    return {
        "kind": "frame",
        "id": "rim",
        "name": "Rim",
        "wide": wide_mm,
        "height": height_mm,
    }


def from_picture(options: argparse.Namespace, path: Path) -> tuple[Any, Any, Any]:
    """The recipe, what gives its picture, and the picture."""
    from nebrel.core.picture.decode import decode

    form = form_of(options)
    picture = decode(path)
    return panel_recipe(options, form), (lambda _: picture), picture
