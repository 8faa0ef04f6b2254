"""A mesh whose file is no larger than it may be."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.formats.meshes import write_mesh
from nebrel.core.mesh.simplify import simplify

_LEAST = 4
_TRIES = 10


def to_bytes(mesh: Mesh, most: int, ending: str) -> Mesh:
    """The same, so that its file has no more than so many bytes.

    Raises
    ------
    InvalidValue : no mesh is that small in that format
    """
    with TemporaryDirectory() as folder:
        path = Path(folder) / f"tried{ending}"

        def size(tried: Mesh) -> int:
            return write_mesh(tried, path)

        found, count = mesh, len(mesh.faces)
        for _ in range(_TRIES):
            there = size(found)
            if there <= most:
                return found
            count = int(count * min(0.98, most / there * 0.995))
            if count < _LEAST:
                break
            found = simplify(mesh, count)
    raise InvalidValue("bytes", f"no mesh is as small as {most} bytes as {ending[1:]}", "Use more")
