"""OFF in and out."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import UnreadableFile
from nebrel.core.formats.files import Tell, in_parts, writing
from nebrel.core.mesh.measure import merge

_CHUNK = 100_000
_MOST_CORNERS = 10_000  # of one face


def read_off(path: Path) -> Mesh:
    """Read a text OFF or COFF, whose faces may have any number of corners.

    Raises
    ------
    UnreadableFile : it is cut short, or a face names a vertex that is not there
    """
    text = path.read_bytes()
    lines = [line.split(b"#", 1)[0] for line in text.splitlines()]
    words = [line.split() for line in lines]
    rows = [row for row in words if row]
    try:
        head = rows[0][0].upper()
        if head not in (b"OFF", b"COFF"):
            raise ValueError("it does not begin with OFF")
        counts, first = (rows[0][1:], 1) if len(rows[0]) > 1 else (rows[1], 2)
        vertices, faces = int(counts[0]), int(counts[1])
        if min(vertices, faces) < 0 or first + vertices + faces > len(rows):
            raise ValueError("it is cut short")
        table = [[float(word) for word in row[:7]] for row in rows[first : first + vertices]]
        places = np.array([row[:3] for row in table], np.float64).reshape(-1, 3)
        corners: list[tuple[int, int, int]] = []
        for row in rows[first + vertices : first + vertices + faces]:
            count = int(row[0])
            own = [int(word) for word in row[1 : 1 + count]]
            if not 3 <= len(own) == count <= _MOST_CORNERS:
                raise ValueError(f"a face of {count} corners")
            if min(own) < 0 or max(own) >= vertices:
                raise ValueError(f"there is no vertex {max(own)} of {vertices}")
            corners += [(own[0], own[k], own[k + 1]) for k in range(1, count - 1)]
    except (ValueError, IndexError) as error:
        raise UnreadableFile(
            path.name, f"it cannot be read ({error})", "Export it again"
        ) from error
    colours = None
    if head == b"COFF" and all(len(row) >= 6 for row in table):
        tints = np.array([[*row[3:], 255.0 if max(row[3:6]) > 1 else 1.0][:4] for row in table])
        scale = 255 if tints.max(initial=0) <= 1 else 1
        colours = np.clip(np.round(tints * scale), 0, 255).astype(np.uint8)
    named = np.array(corners, np.int32).reshape(-1, 3)
    return merge(Mesh(places.astype(np.float32), named, path.stem, colours))


def write_off(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> None:
    """Write an OFF in mm; a COFF where there are colours."""
    with writing(path, called) as file:
        tinted = mesh.colours is not None
        file.write(f"{'COFF' if tinted else 'OFF'}\n".encode())
        file.write(f"{len(mesh.vertices)} {len(mesh.faces)} 0\n".encode())
        rows = mesh.vertices.astype(np.float64)
        words = "%.9g %.9g %.9g\n"
        if mesh.colours is not None:
            rows = np.column_stack([rows, mesh.colours])
            words = "%.9g %.9g %.9g %d %d %d %d\n"
        for start in range(0, len(rows), _CHUNK):
            chunk = rows[start : start + _CHUNK]
            file.write((words * len(chunk) % tuple(chunk.ravel().tolist())).encode())
        for some in in_parts(len(mesh.faces), _CHUNK, tell):
            faces = mesh.faces[some]
            file.write(("3 %d %d %d\n" * len(faces) % tuple(faces.ravel().tolist())).encode())
