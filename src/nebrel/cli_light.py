"""The commands for light: lithophane, light, wedge, photograph and calibrate."""

from __future__ import annotations

import argparse
import math
from pathlib import Path
from typing import Any

from nebrel.cli_common import add_finish_options, finish_of, form_of, say, say_finish, warn

Length = Any


def add_commands(commands: Any, length: Length) -> None:
    """Add the commands to the parser; `length` reads a length."""
    lithophane = commands.add_parser(
        "lithophane",
        help="a picture to a panel that shows it against a lamp",
        description="A picture to a panel that shows it against a lamp, as binary STL. Dark tones "
        "are thick. Lengths may carry a unit.",
    )
    lithophane.add_argument("picture", type=Path, metavar="PICTURE")
    lithophane.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.stl")
    _add_panel(lithophane, length)
    lithophane.set_defaults(run=_lithophane)

    light = commands.add_parser(
        "light",
        help="the lit panel as an 8-bit picture",
        description="What a lamp behind the panel shows, as an 8-bit sRGB PNG of the picture's "
        "size. Takes a picture with the options of lithophane, or a piece exported from the bench.",
    )
    light.add_argument("source", type=Path, metavar="RECIPE-OR-PICTURE")
    light.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
    _add_panel(light, length)
    light.set_defaults(run=_light)

    wedge = commands.add_parser("wedge", help="a step wedge to calibrate a material with")
    wedge.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.stl")
    _add_wedge(wedge, length)
    wedge.add_argument("--material", default="", help="a name to engrave")
    wedge.set_defaults(run=_wedge)

    photograph = commands.add_parser(
        "photograph", help="a simulated photograph of a wedge against a lamp"
    )
    photograph.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
    _add_wedge(photograph, length)
    photograph.add_argument("--attenuation", type=float, default=1.2, metavar="PER_MM")
    photograph.add_argument("--tilt", type=float, default=0.0, metavar="DEG")
    photograph.add_argument("--vignetting", type=float, default=0.2, metavar="SHARE")
    photograph.add_argument("--noise", type=float, default=0.01, metavar="SHARE")
    photograph.add_argument("--seed", type=int, default=1)
    photograph.set_defaults(run=_photograph)

    calibrate = commands.add_parser(
        "calibrate", help="the attenuation of a material from a photograph of its wedge"
    )
    calibrate.add_argument("photo", type=Path, metavar="PHOTO")
    calibrate.add_argument(
        "--corners",
        required=True,
        metavar="X,Y,X,Y,X,Y,X,Y",
        help="pixels around the wedge: upper left, upper right, lower right, lower left",
    )
    _add_wedge(calibrate, length)
    calibrate.add_argument("--json", action="store_true", help="as one line of JSON")
    calibrate.set_defaults(run=_calibrate)


def _add_panel(parser: argparse.ArgumentParser, length: Length) -> None:
    parser.add_argument("--wide", type=length, metavar="MM", help="width of the panel")
    parser.add_argument("--thinnest", type=length, metavar="MM", help="whole thickness of white")
    parser.add_argument("--thickest", type=length, metavar="MM", help="whole thickness of black")
    parser.add_argument(
        "--form", choices=["panel", "arc", "tube", "globe", "disc", "dome"], default="panel"
    )
    parser.add_argument("--bend", type=float, metavar="DEG", help="of an arc or a dome (90)")
    parser.add_argument(
        "--diameter", type=length, metavar="MM", help="inner, of a tube or globe, for the width"
    )
    parser.add_argument("--rim", type=length, metavar="MM", help="width of a rim as thick as black")
    parser.add_argument("--by", choices=["straight", "light"], default="light")
    parser.add_argument("--attenuation", type=float, metavar="PER_MM", help="of the material (1.2)")
    add_finish_options(parser, length)


def _add_wedge(parser: argparse.ArgumentParser, length: Length) -> None:
    parser.add_argument("--steps", type=int, default=10, metavar="N")
    parser.add_argument("--thickest", type=length, default=4.0, metavar="MM")


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
    build_up: list[dict[str, Any]] = [{"kind": "picture", "id": "picture"}]
    if options.rim is not None:
        build_up.append(rim(options.rim, thick - thin))
    material = {} if options.attenuation is None else {"attenuation_per_mm": options.attenuation}
    return load_recipe(
        {
            "picture": {"sha256": "0" * 64, "along": "wide", "side": options.wide},
            "material": material,
            "heights": {
                "raised": "dark",
                "mapping": options.by,
                "backing": thin,
                "depth": thick - thin,
                "build_up": build_up,
            },
            "form": form,
            "finish": finish_of(options),
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


def _from_picture(options: argparse.Namespace, path: Path) -> tuple[Any, Any, Any]:
    from nebrel.core.picture.decode import decode

    form = form_of(options)
    picture = decode(path)
    return panel_recipe(options, form), (lambda _: picture), picture


def _lithophane(options: argparse.Namespace) -> None:
    from nebrel.core.formats.stl import write_stl
    from nebrel.core.recipe.evaluator import Evaluator

    recipe, pictures, picture = _from_picture(options, options.picture)
    result = Evaluator(pictures, cache_bytes=0).evaluate(recipe)
    refused = [remark.error for remark in result.remarks if remark.refused]
    if refused:
        raise refused[0]
    warn(recipe, result)
    write_stl(result.mesh, options.output)
    for note in picture.notes:
        print(f"note: {note}")
    say_finish(result)
    say(options.output, result.report)


def _light(options: argparse.Namespace) -> None:
    import cv2

    from nebrel.core.errors import InvalidValue
    from nebrel.core.formats.files import writing
    from nebrel.core.proof.light import to_tone
    from nebrel.core.recipe.bundle import read_bundle
    from nebrel.core.recipe.evaluator import Evaluator
    from nebrel.core.recipe.shine import lamp_of, shine

    if options.output.suffix.lower() != ".png":
        raise InvalidValue(
            str(options.output), "the lit panel is a PNG", "Give the output the ending .png"
        )
    if options.source.suffix.lower() == ".json":
        recipe, pictures = read_bundle(options.source)
    else:
        recipe, pictures, _ = _from_picture(options, options.source)
    evaluator = Evaluator(pictures)
    relief = evaluator.relief(recipe)
    shone = shine(lamp_of(recipe), relief, evaluator.correct(recipe).work.tone)
    tones = (to_tone(shone.light) * 255 + 0.5).astype("uint8")
    data = cv2.imencode(".png", cv2.cvtColor(tones, cv2.COLOR_GRAY2BGR))[1]
    with writing(options.output) as file:
        file.write(data.tobytes())
    rows, cols = tones.shape
    print(
        f"{options.output}: {cols} × {rows} pixels, light within {shone.error() * 100:.1f} % RMS "
        "of the picture's"
    )


def _made(options: argparse.Namespace) -> Any:
    from nebrel.core.proof.wedge import Wedge

    return Wedge(options.steps, options.thickest, getattr(options, "material", ""))


def _wedge(options: argparse.Namespace) -> None:
    from nebrel.core.formats.stl import write_stl
    from nebrel.core.mesh.measure import measure
    from nebrel.core.proof.wedge import make_wedge

    mesh = make_wedge(_made(options))
    write_stl(mesh, options.output)
    say(options.output, measure(mesh))


def _photograph(options: argparse.Namespace) -> None:
    import cv2

    from nebrel.core.formats.files import writing
    from nebrel.core.proof.wedge import Camera, photograph

    camera = Camera(
        tilt_deg=(options.tilt, 0.0),
        vignetting=options.vignetting,
        noise=options.noise,
        exposure=0.95,
        seed=options.seed,
    )
    picture, corners = photograph(_made(options), options.attenuation, camera)
    with writing(options.output) as file:
        file.write(cv2.imencode(".png", picture)[1].tobytes())
    print(",".join(f"{value:.2f}" for value in corners.ravel()))


def _calibrate(options: argparse.Namespace) -> None:
    import json

    import numpy as np

    from nebrel.core.errors import InvalidValue
    from nebrel.core.picture.decode import decode
    from nebrel.core.picture.tone import read_tone
    from nebrel.core.proof.calibrate import calibrate

    try:
        values = [float(part) for part in options.corners.replace(";", ",").split(",")]
    except ValueError:
        values = []
    if len(values) != 8 or not all(math.isfinite(value) for value in values):
        raise InvalidValue(
            "--corners", "they are not four places", "Write them as X,Y,X,Y,X,Y,X,Y in pixels"
        )
    tone = read_tone(decode(options.photo))
    found = calibrate(tone, np.array(values).reshape(4, 2), _made(options))
    if options.json:
        print(json.dumps(found.as_dict()))
        return
    print(
        f"attenuation {found.attenuation_per_mm:.4f} ± {found.error:.4f} per mm, "
        f"r² {found.r2:.4f}, lamp {found.lamp:.3f}, {len(found.thickness_mm)} steps used"
    )
