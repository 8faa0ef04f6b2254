"""Links of a body: a mesh as it was brought."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

from nebrel.core.data import Mesh
from nebrel.core.formats.meshes import ending_of, mesh_of_brought, read_brought
from nebrel.core.links.link import Link, file
from nebrel.core.links.shape import Shape
from nebrel.core.mesh.lighter import lighter
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.place import turned
from nebrel.core.recipe.body import BodyUnit, ImportedBody
from nebrel.core.solid.build import Built

_DRAFT_TRIANGLES = 80_000
_UP_Y = (90.0, 0.0, 0.0)  # degrees


def brought(body: ImportedBody) -> Link[Mesh]:
    """The mesh of a file in mm, z up."""
    ending = Path(body.file.filename).suffix.lower()
    given = file("mesh", body.file.sha256), ending, body.unit, body.up
    return Link(_brought, given, "reading the mesh", 2)


def begun(body: ImportedBody, draft: bool) -> Link[Shape]:
    """The same with its figures; lighter, where it is looked at while something moves."""
    whole = brought(body)
    if draft:
        whole = Link(lighter, (whole, _DRAFT_TRIANGLES), "making a lighter one", 1)
    return Link(_measured, (whole,), "measuring it", 1)


def _brought(content: Path | bytes, ending: str, unit: BodyUnit, up: str) -> Mesh:
    said = None if unit == "file" else unit
    if isinstance(content, bytes):
        with TemporaryDirectory() as folder:
            path = Path(folder) / "brought"
            path.write_bytes(content)
            found = read_brought(path, ending or ending_of(path))
    else:
        found = read_brought(content, ending or ending_of(content))
    mesh = merge(mesh_of_brought(found, "mesh", said))
    return replace(turned(mesh, _UP_Y) if up == "y" else mesh, name="piece")


def _measured(mesh: Mesh) -> Shape:
    report = measure(mesh)
    return Shape(Built(mesh, report=report), report)
