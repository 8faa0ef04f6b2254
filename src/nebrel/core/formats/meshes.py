"""Mesh files in, whatever their open format."""

from __future__ import annotations

import logging
from pathlib import Path

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import NebrelError, TooLarge, UnreadableFile
from nebrel.core.formats.stl import is_binary_stl, read_stl
from nebrel.core.mesh.measure import merge

_SUFFIXES = (".stl", ".obj", ".ply", ".off", ".glb")
_MOST_BYTES = 2_000_000_000


def read_mesh(path: Path) -> Mesh:
    """Read STL (binary or text), OBJ, PLY, OFF or GLB, in the file's units.

    Raises
    ------
    UnreadableFile : missing, damaged, of an unknown kind, or without triangles
    TooLarge : over 2 GB
    """
    suffix = path.suffix.lower()
    if not path.is_file():
        raise UnreadableFile(path.name, "there is no such file", "Check the path")
    if suffix not in _SUFFIXES:
        raise UnreadableFile(
            path.name,
            f"“{suffix or 'no ending'}” is not a mesh format read here",
            "Bring an STL, OBJ, PLY, OFF or GLB",
        )
    if path.stat().st_size > _MOST_BYTES:
        raise TooLarge(path.name, "the file is over 2 GB", "Simplify it first")
    if suffix == ".stl" and is_binary_stl(path):
        mesh = read_stl(path)
    else:
        mesh = _read_other(path)
    if len(mesh.faces) == 0:
        raise UnreadableFile(path.name, "it holds no triangle", "Export it again")
    return mesh


def _read_other(path: Path) -> Mesh:
    import trimesh

    logging.getLogger("trimesh").setLevel(logging.CRITICAL)  # what is wrong is said by us, once
    try:
        loaded = trimesh.load(path, force="mesh", process=False)
        vertices = np.asarray(loaded.vertices, np.float32)
        faces = np.asarray(loaded.faces, np.int32)
        if not np.isfinite(vertices).all():
            raise ValueError("not finite")
        return merge(Mesh(vertices.reshape(-1, 3), faces.reshape(-1, 3), path.stem))
    except NebrelError:
        raise
    except Exception as error:  # whatever a foreign parser raises on a damaged file
        raise UnreadableFile(path.name, "it cannot be read as a mesh", "Export it again") from error
