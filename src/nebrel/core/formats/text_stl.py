"""Text STL in and out."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import UnreadableFile
from nebrel.core.formats.files import Tell, in_parts, writing
from nebrel.core.mesh.measure import merge

_FACET = re.compile(rb"\bfacet\b(.*?)\bendfacet\b", re.DOTALL | re.IGNORECASE)
_VERTEX = re.compile(rb"\bvertex\s+(\S+)\s+(\S+)\s+(\S+)", re.IGNORECASE)
_CHUNK = 50_000


def looks_like_text_stl(path: Path) -> bool:
    """Whether a file begins as a text STL does."""
    with path.open("rb") as file:
        start = file.read(2048)
    words = start.split(None, 1)
    text = b"\0" not in start and bool(words) and words[0].lower() == b"solid"
    return text and (b"facet" in start.lower() or b"endsolid" in start.lower())


def read_text_stl(path: Path) -> tuple[Mesh, tuple[str, ...]]:
    """Read a text STL, joining vertices at the same place; and what was left out of it.

    Raises
    ------
    UnreadableFile : no facet of it is whole
    """
    data = path.read_bytes()
    begun = len(re.findall(rb"(?<!end)facet\s+normal", data, re.IGNORECASE))
    found = [match.groups() for match in _VERTEX.finditer(data)]
    notes: tuple[str, ...] = ()
    whole = data.lower().count(b"endfacet")
    good = begun == whole and len(found) == 3 * begun
    values = _numbers(found) if good else None
    if values is None or not np.isfinite(values).all():
        rows = []
        for match in _FACET.finditer(data):
            own = _numbers([vertex.groups() for vertex in _VERTEX.finditer(match[1])])
            if own is not None and len(own) == 3 and np.isfinite(own).all():
                rows.append(own)
        if not rows:
            raise UnreadableFile(path.name, "no facet of it has three corners", "Export it again")
        values = np.concatenate(rows)
        broken = max(begun - len(rows), 1)
        notes = (f"{broken} broken facet{'s were' if broken > 1 else ' was'} left out",)
    faces = np.arange(len(values), dtype=np.int32).reshape(-1, 3)
    return merge(Mesh(values, faces, _name(data) or path.stem)), notes


def _numbers(rows: list[tuple[bytes, ...]]) -> np.ndarray | None:
    try:
        return np.array([[float(value) for value in row] for row in rows], np.float32).reshape(
            -1, 3
        )
    except ValueError:
        return None


def _name(data: bytes) -> str:
    first = data.split(b"\n", 1)[0].strip()[5:].strip()
    return first.decode("utf-8", "replace")[:80]


def write_text_stl(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> None:
    """Write a text STL in mm, with as many digits as single precision has."""
    with writing(path, called) as file:
        name = " ".join(mesh.name.split()) or "piece"
        file.write(f"solid {name}\n".encode())
        for some in in_parts(len(mesh.faces), _CHUNK, tell):
            corners = mesh.vertices[mesh.faces[some]]
            normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            length = np.linalg.norm(normals, axis=1, keepdims=True)
            normals = normals / np.where(length > 0, length, 1)
            rows = np.concatenate([normals[:, None], corners], axis=1).reshape(-1, 12)
            file.write("".join(_WORDS % tuple(row) for row in rows.tolist()).encode())
        file.write(f"endsolid {name}\n".encode())


_WORDS = (
    "facet normal %.6g %.6g %.6g\n outer loop\n"
    + "  vertex %.9g %.9g %.9g\n" * 3
    + " endloop\nendfacet\n"
)
