"""Binary PLY out."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.formats.files import Tell, in_parts, writing

_CHUNK = 500_000


def write_ply(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> None:
    """Write a binary PLY in mm, with colours where there are any.

    Source: Turk, The PLY Polygon File Format (1994).
    """
    fields = [("place", "<f4", 3)]
    tinted = mesh.colours is not None
    if tinted:
        fields.append(("tint", "u1", 4))
    vertices = np.empty(len(mesh.vertices), np.dtype(fields))
    vertices["place"] = mesh.vertices
    if mesh.colours is not None:
        vertices["tint"] = mesh.colours
    faces = np.empty(len(mesh.faces), np.dtype([("count", "u1"), ("corners", "<i4", 3)]))
    faces["count"], faces["corners"] = 3, mesh.faces
    header = [
        "ply", "format binary_little_endian 1.0", "comment millimetres",
        f"element vertex {len(vertices)}",
        *(f"property float {axis}" for axis in "xyz"),
        *(f"property uchar {tint}" for tint in ("red", "green", "blue", "alpha") if tinted),
        f"element face {len(faces)}", "property list uchar int vertex_indices", "end_header", "",
    ]  # fmt: skip
    with writing(path, called) as file:
        file.write("\n".join(header).encode())
        file.write(vertices.tobytes())
        for some in in_parts(len(faces), _CHUNK, tell):
            file.write(faces[some].tobytes())
