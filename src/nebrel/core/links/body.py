"""Links of a body: a mesh as it was brought, or a ready shape."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from nebrel.core.data import Mesh
from nebrel.core.formats.meshes import ending_of, mesh_of_brought, read_brought
from nebrel.core.formats.stl import is_binary_stl, read_loose_stl
from nebrel.core.links.link import Link, file
from nebrel.core.links.shape import Shape
from nebrel.core.mesh.brought import Brought
from nebrel.core.mesh.lighter import gathered, lighter
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.place import Place, middle_of, scaled, set_down, turned
from nebrel.core.recipe.body import BodyBegin, BodyUnit, ImportedBody
from nebrel.core.recipe.ready import ReadyBody, sizes_of
from nebrel.core.solid.build import Built
from nebrel.core.solid.ready import ready_mesh

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


def ready(body: ReadyBody, draft: bool) -> Link[Shape]:
    """A ready shape with its figures; lighter, where it is looked at while something moves."""
    sizes = sizes_of(body)
    given = body.kind, tuple(sizes), tuple(map(_plain, sizes.values())), draft
    return Link(_ready, given, "making the body", 0.3)


def _plain(value: Any) -> Any:
    return tuple(map(tuple, value)) if isinstance(value, list) else value


def _ready(kind: str, names: tuple[str, ...], values: tuple[Any, ...], draft: bool) -> Shape:
    mesh = ready_mesh(kind, **dict(zip(names, values, strict=True)))
    mesh = replace(lighter(mesh, _DRAFT_TRIANGLES) if draft else mesh, name="piece")
    return _measured(mesh)


def moved(before: Link[Shape], begins: BodyBegin) -> Link[Shape]:
    """The same, made larger, turned and set down as its piece says."""
    if not begins.moved:
        return before
    turn = begins.turn_x, begins.turn_y, begins.turn_z
    return Link(_moved, (before, begins.times, turn, begins.set_down), "turning it", 0.3)


def _moved(before: Shape, times: float, turn: Place, down: bool) -> Shape:
    mesh = turned(scaled(before.mesh, times, middle_of(before.mesh)), turn)
    return before.become(set_down(mesh, centre=down, drop=down))


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
