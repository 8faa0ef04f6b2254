"""Options of the commands that take a mesh and write one, and what they print."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from nebrel.cli.options import length, mesh_output

UNITS = ("mm", "cm", "m", "in")


def add_mesh(parser: argparse.ArgumentParser, json: bool = False) -> None:
    """A mesh, its unit, and what is written."""
    parser.add_argument("mesh", type=Path, metavar="MESH")
    add_output(parser, json)


def add_output(parser: argparse.ArgumentParser, json: bool = False) -> None:
    """What is written, and the unit of what is read."""
    parser.add_argument("-o", "--output", type=mesh_output, required=True, metavar="OUT")
    parser.add_argument(
        "--unit", choices=UNITS, help="of the file, whatever it says (mm where it says none)"
    )
    if json:
        parser.add_argument("--json", action="store_true", help="say it as one line of JSON")


def plane(text: str) -> tuple[str, float]:
    """A plane across an axis: which, and where in mm."""
    axis, equals, where = text.partition("=")
    if axis.strip().lower() not in ("x", "y", "z") or not equals:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is no plane, as in z=12.5")
    return axis.strip().lower(), length(where)


def mesh_from(options: argparse.Namespace, name: str = "mesh") -> Any:
    """The mesh that an option names, in mm; what reading decided is said on stderr."""
    import sys

    from nebrel.core.formats.meshes import mesh_of_brought, read_brought

    path = getattr(options, name)
    brought = read_brought(path)
    for note in brought.notes:
        print(f"note: {path.name}: {note}", file=sys.stderr)
    return mesh_of_brought(brought, path.name, getattr(options, "unit", None))


def keep_mesh(options: argparse.Namespace, mesh: Any, **said: Any) -> None:
    """Write it, and say what it is: as JSON where that is asked for."""
    from nebrel.cli.options import say
    from nebrel.core.formats.meshes import write_mesh
    from nebrel.core.mesh.measure import measure

    write_mesh(mesh, options.output)
    report = measure(mesh)
    if getattr(options, "json", False):
        import json

        print(json.dumps({**report.as_dict(), **said}))
        return
    for name, value in said.items():
        if isinstance(value, (list, tuple)):
            for line in value:
                print(f"note: {line}")
        elif not isinstance(value, dict):
            shown = f"{value:.4g}" if isinstance(value, float) else value
            print(f"note: {name.replace('_', ' ')} {shown}")
    say(options.output, report)
