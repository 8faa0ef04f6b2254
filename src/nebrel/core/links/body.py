"""Links of a body: a mesh as it was brought."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

from nebrel.core.data import Mesh
from nebrel.core.formats.brought import Brought
from nebrel.core.formats.meshes import ending_of, mesh_of_brought, read_brought
from nebrel.core.formats.stl import is_binary_stl, read_loose_stl
from nebrel.core.links.link import Link, file
from nebrel.core.links.shape import Shape
from nebrel.core.mesh.lighter import gathered, lighter
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.place import turned
from nebrel.core.recipe.body import BodyUnit, ImportedBody
from nebrel.core.solid.build import Built

_DRAFT_TRIANGLES = 30_000
_LARGE = 8  # times as many
_UP_Y = (90.0, 0.0, 0.0)  # degrees


def brought(body: ImportedBody) -> Link[Mesh]:
    """The mesh of a file in mm, z up."""
    ending = Path(body.file.filename).suffix.lower()
    given = file("mesh", body.file.sha256), ending, body.unit, body.up
    return Link(_brought, given, "reading the mesh", 2)


def begun(body: ImportedBody, draft: bool) -> Link[Shape]:
    """The same with its figures; lighter, where it is looked at while something moves."""
    if not draft:
        return Link(_measured, (brought(body),), "measuring it", 1)
    ending = Path(body.file.filename).suffix.lower()
    given = file("mesh", body.file.sha256), ending, body.unit, body.up
    return Link(_measured, (Link(_light, given, "reading the mesh", 2),), "measuring it", 1)


def _light(content: Path | bytes, ending: str, unit: BodyUnit, up: str) -> Mesh:
    """A lighter mesh; of a large STL without looking which corners meet."""
    large = _DRAFT_TRIANGLES * _LARGE
    if isinstance(content, Path) and content.stat().st_size > 50 * large and is_binary_stl(content):
        loose = gathered(read_loose_stl(content), _DRAFT_TRIANGLES * 4)
        said = None if unit == "file" else unit
        mesh = _standing(mesh_of_brought(Brought((loose,)), "mesh", said), up)
    else:
        mesh = _brought(content, ending, unit, up)
    return lighter(mesh, _DRAFT_TRIANGLES)


def _brought(content: Path | bytes, ending: str, unit: BodyUnit, up: str) -> Mesh:
    said = None if unit == "file" else unit
    if isinstance(content, bytes):
        with TemporaryDirectory() as folder:
            path = Path(folder) / "brought"
            path.write_bytes(content)
            found = read_brought(path, ending or ending_of(path))
    else:
        found = read_brought(content, ending or ending_of(content))
    return _standing(mesh_of_brought(found, "mesh", said), up)


def _standing(mesh: Mesh, up: str) -> Mesh:
    return replace(turned(mesh, _UP_Y) if up == "y" else mesh, name="piece")


def _measured(mesh: Mesh) -> Shape:
    report = measure(mesh)
    return Shape(Built(mesh, report=report), report)
