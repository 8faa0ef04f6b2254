"""`nebrel photograph`: a simulated photograph of a wedge against a lamp."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.wedge import add_wedge_options, wedge_of


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("-o", "--output", type=Path, required=True, metavar="OUT.png")
    add_wedge_options(parser)
    parser.add_argument("--attenuation", type=float, default=1.2, metavar="PER_MM")
    parser.add_argument("--tilt", type=float, default=0.0, metavar="DEG")
    parser.add_argument("--vignetting", type=float, default=0.2, metavar="SHARE")
    parser.add_argument("--noise", type=float, default=0.01, metavar="SHARE")
    parser.add_argument("--seed", type=int, default=1)


def run(options: argparse.Namespace) -> None:
    """Take it."""
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
    picture, corners = photograph(wedge_of(options), options.attenuation, camera)
    with writing(options.output) as file:
        file.write(cv2.imencode(".png", picture)[1].tobytes())
    print(",".join(f"{value:.2f}" for value in corners.ravel()))
