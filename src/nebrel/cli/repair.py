"""`nebrel repair`: a broken mesh mended."""

from __future__ import annotations

import argparse

from nebrel.cli.bodies import add_mesh


def add(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_mesh(parser, json=True)


def run(options: argparse.Namespace) -> None:
    """Do it."""
    from nebrel.cli.bodies import keep_mesh, mesh_from
    from nebrel.core.errors import NotSolid
    from nebrel.core.mesh.repair import repair

    found = repair(mesh_from(options))
    if found.another:
        raise NotSolid(
            found.mesh.name,
            f"mending it would leave {found.report.volume_mm3:.4g} of {found.before_mm3:.4g} mm³",
            "Rebuild it instead, or mend it on the bench",
        )
    keep_mesh(options, found.mesh, mended=list(found.done))
