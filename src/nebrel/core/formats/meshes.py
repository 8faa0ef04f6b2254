"""Mesh files in and out, whatever their open format."""

from __future__ import annotations

import io
import json
import logging
import struct
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, BinaryIO, Literal

import numpy as np

from nebrel.core.choices import MESHES_WRITTEN
from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NebrelError, TooLarge, UnreadableFile
from nebrel.core.formats.files import Tell, writing
from nebrel.core.formats.quantised import check_required, in_floats
from nebrel.core.formats.stl import read_any_stl, write_stl
from nebrel.core.mesh.brought import Brought, Unit
from nebrel.core.mesh.measure import merge

_MOST_BYTES = 2_000_000_000
_MOST_MM = 100_000.0
_MOST_OBJECTS = 200  # of one 3MF
_SMALL, _TINY = 8.0, 0.5  # units: less is hardly meant in mm, or in inches
_MOST_METRES = 3.0  # no glTF of a larger thing is meant in metres here
_HEADS = {
    b"glTF": ".glb",
    b"PK": ".3mf",
    b"ply": ".ply",
    b"OFF": ".off",
    b"COFF": ".off",
    b"{": ".gltf",
    b"solid": ".stl",
}
_UP_Y = np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], np.float64)


def read_mesh(path: Path, unit: Unit | None = None) -> Mesh:
    """Read a mesh file as one mesh in mm, z up.

    Parameters
    ----------
    unit : of the file, whatever it says; mm where neither says any

    Raises
    ------
    UnreadableFile : missing, damaged, of an unknown kind, or without triangles
    TooLarge : over 2 GB, or larger than 100 m
    """
    return mesh_of_brought(read_brought(path), path.name, unit)


def mesh_of_brought(brought: Brought, name: str, unit: Unit | None = None) -> Mesh:
    """All objects of a file as one mesh in mm.

    Raises
    ------
    TooLarge : larger than 100 m
    """
    mesh = brought.joined(unit)
    size = float(np.ptp(mesh.vertices.astype(np.float64), axis=0).max())
    if not size <= _MOST_MM:
        raise TooLarge(
            name, f"in that unit it would be {size / 1000:.4g} m wide", "Choose another unit"
        )
    return mesh


def read_brought(path: Path, ending: str = "") -> Brought:
    """Read STL (binary or text), OBJ, PLY, OFF, GLB, glTF or 3MF, in the file's unit.

    Parameters
    ----------
    ending : tells the format, where that of the path does not

    Raises
    ------
    UnreadableFile : missing, damaged, of an unknown kind, or without triangles
    TooLarge : over 2 GB
    """
    suffix = ending or path.suffix.lower()
    if not path.is_file():
        raise UnreadableFile(path.name, "there is no such file", "Check the path")
    if suffix not in _READ:
        raise UnreadableFile(
            path.name,
            f"“{suffix or 'no ending'}” is not a mesh format read here",
            "Bring an STL, OBJ, PLY, OFF, GLB, glTF or 3MF, or one packed in a ZIP",
        )
    if path.stat().st_size > _MOST_BYTES:
        raise TooLarge(path.name, "the file is over 2 GB", "Simplify it first")
    try:
        found = _READ[suffix](path)
    except NebrelError:
        raise
    except Exception as error:  # whatever a foreign parser raises on a damaged file
        raise UnreadableFile(path.name, "it cannot be read as a mesh", "Export it again") from error
    if not sum(len(part.faces) for part in found.parts):
        raise UnreadableFile(path.name, "it holds no triangle", "Export it again")
    for part in found.parts:
        if not np.isfinite(part.vertices).all():
            raise UnreadableFile(
                path.name, "it holds coordinates that are not numbers", "Export it again"
            )
    return found


def guess_unit_of_mesh(
    size: tuple[float, float, float],
) -> tuple[Literal["mm", "cm", "m", "in"], str]:
    """What one unit of a mesh is that does not say, from how large it is; and the reason."""
    longest = max(size)
    if longest >= _SMALL:
        return "mm", f"{longest:.4g} mm is a size that is made"
    if longest < _TINY:
        return "m", f"{longest:.3g} mm could not be made; in metres it is {longest * 1000:.4g} mm"
    return "in", f"{longest:.3g} mm is small; in inches it is {longest * 25.4:.4g} mm"


def is_mesh(file: BinaryIO, name: str) -> bool:
    """Whether what was brought is a mesh, by its ending, or by what it begins with."""
    ending = Path(name).suffix.lower()
    if ending == ".zip":
        from nebrel.core.formats.packed import meshes_in

        found = bool(meshes_in(file))
        file.seek(0)
        return found
    if ending in _READ:
        return True
    head = file.read(4)
    file.seek(0)
    return ending == "" and head in (b"glTF", b"soli", b"ply\n", b"OFF\n")


def ending_of(path: Path) -> str:
    """The ending that suits what a mesh file holds, from its first bytes."""
    with path.open("rb") as file:
        head = file.read(512).lstrip()
    for begins, ending in _HEADS.items():
        if head.startswith(begins):
            return ".zip" if ending == ".3mf" and _packs_a_mesh(path) else ending
    words = [line.split(maxsplit=1)[:1] for line in head.splitlines()]
    return ".obj" if [b"v"] in words or [b"mtllib"] in words or [b"o"] in words else ".stl"


def _packs_a_mesh(path: Path) -> bool:
    """Whether a ZIP is no 3MF, but has a mesh in it."""
    from nebrel.core.formats.packed import meshes_in

    return bool(meshes_in(path))


def _stl(path: Path) -> Brought:
    mesh, notes = read_any_stl(path)
    return Brought((mesh,), None, notes)


def _obj(path: Path) -> Brought:
    from nebrel.core.formats.obj import read_obj

    return read_obj(path)


def _3mf(path: Path) -> Brought:
    from nebrel.core.formats.threemf import read_3mf

    return read_3mf(path)


def _zip(path: Path) -> Brought:
    from nebrel.core.formats.packed import unpack_mesh

    with tempfile.TemporaryDirectory(prefix="nebrel-mesh-") as folder:
        return read_brought(unpack_mesh(path, Path(folder)))


def _off(path: Path) -> Brought:
    from nebrel.core.formats.off import read_off

    return Brought((read_off(path),))


def _ply(path: Path) -> Brought:
    loaded = _trimesh(path, "ply", force="mesh")
    return Brought((_of(loaded, path.stem, np.eye(4)),))


def _gltf(path: Path) -> Brought:
    document = _document(path)
    check_required(document, path.name)
    extras = document.get("asset", {}).get("extras", {})
    ours = isinstance(extras, dict) and extras.get("unit") == "mm"
    plain = io.BytesIO(in_floats(path.read_bytes(), path.name))
    scene = _loaded(plain, "gltf" if ending_of(path) == ".gltf" else "glb")
    parts = []
    for node in scene.graph.nodes_geometry:
        matrix, name = scene.graph[node]
        geometry = scene.geometry[name]
        if not hasattr(geometry, "faces"):
            continue
        turned = np.array(matrix, np.float64)
        if not ours:  # y up, as glTF has it
            turned[:3] = _UP_Y @ turned[:3]
        part = _of(geometry, str(node), turned)
        if part.colours is not None and geometry.visual.kind == "vertex":
            part = replace(part, colours=_as_displayed(part.colours))
        parts.append(part)
    if ours:
        return Brought(tuple(parts), "mm")
    size = max(float(np.ptp(part.vertices, axis=0).max(initial=0.0)) for part in parts)
    if size > _MOST_METRES:  # many programs write whatever number they had
        note = f"in metres, as glTF has it, it would be {size:.4g} m wide: taken as millimetres"
        return Brought(tuple(parts), "mm", (note,))
    return Brought(tuple(parts), "m")


def _trimesh(path: Path, kind: str, **more: Any) -> Any:
    with path.open("rb") as file:  # so that nothing beside it is read
        return _loaded(file, kind, **more)


def _loaded(file: BinaryIO, kind: str, **more: Any) -> Any:
    import trimesh

    logging.getLogger("trimesh").setLevel(logging.CRITICAL)  # what is wrong is said by us, once
    return trimesh.load(file, file_type=kind, process=False, **more)


def _of(loaded: Any, name: str, matrix: np.ndarray) -> Mesh:
    vertices = np.asarray(loaded.vertices, np.float64).reshape(-1, 3)
    faces = np.asarray(loaded.faces, np.int32).reshape(-1, 3)
    if len(faces) and (faces.min() < 0 or faces.max() >= len(vertices)):
        raise ValueError("a face names a vertex that is not there")
    if not np.isfinite(vertices).all():
        raise ValueError("not finite")
    if not np.array_equal(matrix, np.eye(4)):
        vertices = vertices @ matrix[:3, :3].T + matrix[:3, 3]
        if np.linalg.det(matrix[:3, :3]) < 0:
            faces = np.ascontiguousarray(faces[:, ::-1])
    colours = _tints(loaded.visual, len(vertices), faces)
    return merge(Mesh(vertices.astype(np.float32), faces, name, colours))


def _tints(visual: Any, count: int, faces: np.ndarray) -> np.ndarray | None:
    """Colours of the vertices, from those or from a texture."""
    if not getattr(visual, "defined", False):
        return None
    if visual.kind == "vertex":
        return np.asarray(visual.vertex_colors, np.uint8).reshape(count, 4)
    if visual.kind == "face":
        found = np.full((count, 4), 255, np.uint8)
        found[faces.ravel()] = np.asarray(visual.face_colors, np.uint8).repeat(3, axis=0)
        return found
    try:
        return np.asarray(visual.to_color().vertex_colors, np.uint8).reshape(count, 4)
    except Exception:  # a texture that cannot be read costs the colours, not the mesh
        return None


def _as_displayed(colours: np.ndarray) -> np.ndarray:
    """Amounts of light, as glTF has them in its vertices, as colours on a screen."""
    light = np.arange(256) / 255
    shown = np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
    found = colours.copy()
    found[:, :3] = np.round(shown * 255).astype(np.uint8)[colours[:, :3]]
    return found


def _document(path: Path) -> Any:
    """The JSON of a glTF or GLB; it may not name anything outside of the file."""
    data = path.read_bytes()
    if data[:4] == b"glTF":
        size, kind = struct.unpack_from("<II", data, 12)
        if kind != 0x4E4F534A:
            raise ValueError("no JSON")
        data = data[20 : 20 + size]
    document = json.loads(data)
    for group in ("buffers", "images"):
        for entry in document.get(group, []):
            uri = entry.get("uri")
            if uri is not None and not str(uri).startswith("data:"):
                raise UnreadableFile(
                    path.name,
                    f"it needs “{str(uri)[:60]}”, which is not in it",
                    "Export it with everything embedded",
                )
    return document


# A new format is a function and a line in either table.
_READ: dict[str, Callable[[Path], Brought]] = {
    ".stl": _stl,
    ".obj": _obj,
    ".ply": _ply,
    ".off": _off,
    ".glb": _gltf,
    ".gltf": _gltf,
    ".3mf": _3mf,
    ".zip": _zip,
}


def _to_3mf(mesh: Mesh, path: Path, called: str, tell: Tell) -> None:
    from nebrel.core.formats.threemf import write_3mf
    from nebrel.core.mesh.bodies import bodies_of

    # An object a body, so that the next program can tell them apart; crumbs stay together.
    bodies = bodies_of(mesh)
    if 1 < len(bodies) <= _MOST_OBJECTS:
        named = [replace(one, name=f"{mesh.name} {n}") for n, one in enumerate(bodies, 1)]
        write_3mf(named, path, called, mesh.name, tell)
    else:
        write_3mf([mesh], path, called, tell=tell)


def _to_zip(mesh: Mesh, path: Path, called: str, tell: Tell) -> None:
    from nebrel.core.formats.packed import write_packed

    write_packed(mesh, path, called, tell)


def _to_obj(mesh: Mesh, path: Path, called: str, tell: Tell) -> None:
    from nebrel.core.formats.obj import write_obj

    write_obj(mesh, path, called, tell)


def _to_ply(mesh: Mesh, path: Path, called: str, tell: Tell) -> None:
    from nebrel.core.formats.ply import write_ply

    write_ply(mesh, path, called, tell)


def _to_off(mesh: Mesh, path: Path, called: str, tell: Tell) -> None:
    from nebrel.core.formats.off import write_off

    write_off(mesh, path, called, tell)


def _to_glb(mesh: Mesh, path: Path, called: str, _: Tell) -> None:
    from nebrel.core.formats.glb import encode_glb

    with writing(path, called) as file:
        file.write(encode_glb(mesh, standing=True))


def _to_stl(mesh: Mesh, path: Path, called: str, tell: Tell) -> None:
    write_stl(mesh, path, called, tell)


_WRITE: dict[str, Callable[[Mesh, Path, str, Tell], None]] = {
    ".stl": _to_stl,
    ".obj": _to_obj,
    ".ply": _to_ply,
    ".off": _to_off,
    ".glb": _to_glb,
    ".3mf": _to_3mf,
    ".zip": _to_zip,
}


def check_ending(path: Path) -> None:
    """Refuse an output that is no mesh format written here, before anything is computed.

    Raises
    ------
    InvalidValue
    """
    if path.suffix and path.suffix.lower() not in _WRITE:
        endings = ", ".join(ending[1:].upper() for ending in MESHES_WRITTEN)
        raise InvalidValue(
            path.name, "that ending is not a mesh format written here", f"Use one of {endings}"
        )


def write_mesh(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> int:
    """Write a mesh in mm, in the format of the ending; an STL where there is none.

    A ZIP holds an OBJ with its MTL.

    Parameters
    ----------
    tell : told the share done; may raise to call it off

    Returns
    -------
    bytes written

    Raises
    ------
    InvalidValue : no mesh format has that ending
    StorageFailed : the disk is full or refuses
    """
    check_ending(path)
    write = _WRITE[path.suffix.lower() or ".stl"]
    write(replace(mesh, name=mesh.name or path.stem), path, called, tell)
    return path.stat().st_size
