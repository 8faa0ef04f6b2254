"""Binary STL in and out."""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh, box_of
from nebrel.core.errors import UnreadableFile
from nebrel.core.formats.files import Tell, in_parts, writing
from nebrel.core.mesh.many import many
from nebrel.core.mesh.measure import merge_corners

_HEADER = 80
_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("spare", "<u2")])
_CHUNK = 200_000


def write_stl(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> int:
    """Write a binary STL in mm; a file that was there stays whole until the new one is done.

    Parameters
    ----------
    tell : told the share done; may raise to call it off

    Returns
    -------
    bytes written

    Raises
    ------
    StorageFailed : the disk is full or refuses

    Source: the binary STL layout, 80-byte header, uint32 count, 50 bytes a triangle.
    """
    with writing(path, called) as file:
        return _write(mesh, file, tell)


def encode_stl(mesh: Mesh) -> bytes:
    """The same as bytes."""
    buffer = io.BytesIO()
    _write(mesh, buffer)
    return buffer.getvalue()


def _write(mesh: Mesh, file: BinaryIO, tell: Tell = None) -> int:
    header = b"Nebrel relief, millimetres".ljust(_HEADER, b" ")
    file.write(header + np.uint32(len(mesh.faces)).tobytes())
    # While some are written the next are made ready; neither holds the other up.
    with ThreadPoolExecutor(1) as aside:
        ready = aside.submit(_records, mesh, slice(0, _CHUNK))
        for some in in_parts(len(mesh.faces), _CHUNK, tell):
            records = ready.result()
            ready = aside.submit(_records, mesh, slice(some.stop, some.stop + _CHUNK))
            file.write(records.data)
    return _HEADER + 4 + _RECORD.itemsize * len(mesh.faces)


def _records(mesh: Mesh, some: slice) -> NDArray[np.uint16]:
    """Normal, corners and the spare bytes of some faces, (n, 25)."""
    faces = mesh.faces[some]
    records = np.empty((len(faces), _RECORD.itemsize // 2), np.uint16)
    if many(len(mesh.faces)):
        from nebrel.core.mesh.compiled import fill_records

        fill_records(mesh.vertices, faces, records)
        return records
    rows = np.empty((len(faces), 12), np.float32)
    corners = mesh.vertices[faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    rows[:, :3] = normals / np.where(length > 0, length, 1)
    rows[:, 3:] = corners.reshape(-1, 9)
    records[:, :24] = rows.view(np.uint16)
    records[:, 24] = 0
    return records


def is_binary_stl(path: Path) -> bool:
    """Whether size and triangle count agree, the only sign a binary STL has."""
    size = path.stat().st_size
    return size >= _HEADER + 4 and size == _HEADER + 4 + _count(path) * _RECORD.itemsize


def _count(path: Path) -> int:
    with path.open("rb") as file:
        return int(np.frombuffer(file.read(_HEADER + 4)[_HEADER:], "<u4")[0])


def read_any_stl(path: Path) -> tuple[Mesh, tuple[str, ...]]:
    """Read an STL, binary or text, and what had to be mended.

    Raises
    ------
    UnreadableFile : it is neither, or cut short
    """
    if is_binary_stl(path):
        return read_stl(path), ()
    from nebrel.core.formats.text_stl import looks_like_text_stl, read_text_stl

    if looks_like_text_stl(path):
        return read_text_stl(path)
    size = path.stat().st_size - _HEADER - 4
    if size < _RECORD.itemsize:
        raise UnreadableFile(path.name, "it is cut short or not an STL", "Export it again")
    claimed, there = _count(path), size // _RECORD.itemsize
    if claimed > there or size % _RECORD.itemsize:
        raise UnreadableFile(
            path.name,
            f"it claims {claimed} triangles and holds {there}: it is cut short or not an STL",
            "Export it again",
        )
    note = f"it claims {claimed} triangles and holds {there}: all {there} were read"
    return _read(path), (note,)


def read_stl(path: Path) -> Mesh:
    """Read a binary STL, joining vertices at the same place.

    Raises
    ------
    UnreadableFile : the size does not fit the triangle count, or a coordinate is not a number
    """
    if not is_binary_stl(path):
        raise UnreadableFile(path.name, "it is cut short or not an STL", "Export it again")
    return _read(path)


def stl_box(path: Path) -> tuple[int, Floats, Floats]:
    """How many triangles a binary STL holds, and its box, without reading it whole.

    Raises
    ------
    UnreadableFile : as `read_stl`
    """
    corners = _corners(path)
    return len(corners) // 3, *box_of(corners)


def read_loose_stl(path: Path) -> Mesh:
    """A binary STL as it lies in the file: no two triangles share a vertex.

    Raises
    ------
    UnreadableFile : as `read_stl`
    """
    corners = _corners(path)
    faces = np.arange(len(corners), dtype=np.int32).reshape(-1, 3)
    return Mesh(corners, faces, path.stem)


def _read(path: Path) -> Mesh:
    return merge_corners(_corners(path), path.stem)


def _corners(path: Path) -> Floats:
    records = np.fromfile(path, _RECORD, offset=_HEADER + 4)
    corners = np.ascontiguousarray(records["corners"]).reshape(-1, 3)
    corners = corners.astype(np.float32, copy=False)
    if not np.isfinite(corners).all():
        raise UnreadableFile(
            path.name, "it holds coordinates that are not numbers", "Export it again"
        )
    if not len(corners):
        raise UnreadableFile(path.name, "it holds no triangle", "Export it again")
    return corners
