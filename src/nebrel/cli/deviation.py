"""`nebrel deviation`: how far two meshes are apart."""

from __future__ import annotations

import argparse
from pathlib import Path

from nebrel.cli.bodies import UNITS


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("mesh", type=Path, metavar="A")
    parser.add_argument("other", type=Path, metavar="B")
    parser.add_argument("--unit", choices=UNITS, help="of both files, whatever they say")
    parser.add_argument("--json", action="store_true", help="as one line of JSON")


def run(options: argparse.Namespace) -> None:
    """Say it."""
    from nebrel.cli.bodies import mesh_from
    from nebrel.core.mesh.deviation import deviation

    found = deviation(mesh_from(options), mesh_from(options, "other"))
    if options.json:
        import json

        print(json.dumps(found.as_dict()))
        return
    print(
        f"{found.max_mm:.4g} mm at most, {found.rms_mm:.4g} mm RMS; "
        f"{options.mesh.name} is up to {found.a_to_b.max_mm:.4g} mm from {options.other.name}, "
        f"that one up to {found.b_to_a.max_mm:.4g} mm from the first"
    )
