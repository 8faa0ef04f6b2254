"""`nebrel report`: what of a picture will not print as meant."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.options import length


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    for flag, default, words in (
        ("--wide", None, "width of the piece (100 on the longer side)"),
        ("--depth", 3.0, "relief depth (3)"),
        ("--nozzle", 0.42, "width of a nozzle line (0.42)"),
        ("--layer", 0.12, "layer height (0.12)"),
    ):
        parser.add_argument(flag, type=length, default=default, metavar="MM", help=words)
    parser.add_argument("--json", action="store_true", help="as a list in JSON")


def run(options: argparse.Namespace) -> None:
    """Say it."""
    from nebrel.core.errors import InvalidValue
    from nebrel.core.picture.decode import decode
    from nebrel.core.picture.report import Printing
    from nebrel.core.picture.working import begin
    from nebrel.core.questions.judge import judge

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
