"""`nebrel calibrate`: the attenuation of a material from a photograph of its wedge."""

from __future__ import annotations

import argparse
import math
from pathlib import Path

from nebrel.cli.wedge import add_wedge_options, wedge_of


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("photo", type=Path, metavar="PHOTO")
    parser.add_argument(
        "--corners",
        required=True,
        metavar="X,Y,X,Y,X,Y,X,Y",
        help="pixels around the wedge: upper left, upper right, lower right, lower left",
    )
    add_wedge_options(parser)
    parser.add_argument("--json", action="store_true", help="as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Say it."""
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
    found = calibrate(tone, np.array(values).reshape(4, 2), wedge_of(options))
    if options.json:
        print(json.dumps(found.as_dict()))
        return
    print(
        f"attenuation {found.attenuation_per_mm:.4f} ± {found.error:.4f} per mm, "
        f"r² {found.r2:.4f}, lamp {found.lamp:.3f}, {len(found.thickness_mm)} steps used"
    )
