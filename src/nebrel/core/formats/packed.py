"""A mesh and what lies beside it, packed in a ZIP."""

from __future__ import annotations

from pathlib import Path, PurePosixPath
from typing import BinaryIO
from zipfile import ZIP_DEFLATED, BadZipFile, ZipFile, ZipInfo

from nebrel.core.data import Mesh
from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.formats.files import Tell, writing
from nebrel.core.formats.obj import material_lines, mesh_lines

_MESHES = (".obj", ".stl", ".ply", ".off", ".glb", ".gltf", ".3mf")
_BESIDE = (".mtl", ".png", ".jpg", ".jpeg", ".bmp", ".tif", ".tiff", ".webp", ".gif")
_MOST_BYTES = 2_000_000_000  # unpacked
_MOST_RATIO = 400  # of what is larger than this unpacked
_SMALL_BYTES = 50_000_000
_MOST_ENTRIES = 10_000
_PART = 1 << 20
_EPOCH = (1980, 1, 1, 0, 0, 0)  # the same mesh makes the same file, whenever it is written


def meshes_in(file: Path | BinaryIO) -> list[str]:
    """The names of the meshes in a ZIP; none where it is none."""
    try:
        with ZipFile(file) as packed:
            return [name for name in packed.namelist() if _ending(name) in _MESHES]
    except (BadZipFile, NotImplementedError, EOFError, OSError, ValueError):
        return []


def unpack_mesh(path: Path, folder: Path) -> Path:
    """Unpack the one mesh of a ZIP, its materials and textures, flat into a folder.

    Raises
    ------
    UnreadableFile : it holds no mesh or several, is damaged, or names what lies outside of it
    TooLarge : it unpacks to more than 2 GB, or to far more than it looks
    """
    try:
        with ZipFile(path) as packed:
            entries = [entry for entry in packed.infolist() if not entry.is_dir()]
            _check(entries, path.name)
            meshes = [entry for entry in entries if _ending(entry.filename) in _MESHES]
            if len(meshes) != 1:
                raise UnreadableFile(
                    path.name,
                    f"it holds {len(meshes)} meshes, not one" if meshes else "it holds no mesh",
                    "Pack one with its materials and textures",
                )
            left = _MOST_BYTES
            for entry in entries:
                if entry is not meshes[0] and _ending(entry.filename) not in _BESIDE:
                    continue
                target = folder / PurePosixPath(entry.filename.replace("\\", "/")).name
                with packed.open(entry) as source, target.open("wb") as into:
                    while part := source.read(min(_PART, left + 1)):
                        left -= len(part)
                        if left < 0:  # whatever it claims
                            raise TooLarge(path.name, "it unpacks to over 2 GB", "Pack less")
                        into.write(part)
    except (BadZipFile, NotImplementedError, EOFError, OSError, ValueError, RuntimeError) as error:
        raise UnreadableFile(path.name, "it is damaged, or locked", "Pack it again") from error
    return folder / PurePosixPath(meshes[0].filename.replace("\\", "/")).name


def _check(entries: list[ZipInfo], name: str) -> None:
    whole = sum(entry.file_size for entry in entries)
    packed_size = max(1, sum(entry.compress_size for entry in entries))
    bomb = whole > _SMALL_BYTES and whole > _MOST_RATIO * packed_size
    if len(entries) > _MOST_ENTRIES or whole > _MOST_BYTES or bomb:
        raise TooLarge(name, f"it unpacks to {whole / 1e6:.0f} MB", "Pack less")
    for entry in entries:
        parts = entry.filename.replace("\\", "/").split("/")
        if entry.filename.startswith(("/", "\\")) or ".." in parts or ":" in parts[0]:
            raise UnreadableFile(name, "something in it lies outside of it", "Pack it again")


def _ending(name: str) -> str:
    # What other systems leave in every ZIP is not meant.
    return "" if name.startswith("__MACOSX") else PurePosixPath(name).suffix.lower()


def write_packed(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> None:
    """Write a ZIP of an OBJ in mm with the MTL of its colours."""
    name = "_".join(mesh.name.split()).replace("/", "_").replace("\\", "_").strip(".") or "piece"
    with writing(path, called) as file, ZipFile(file, "w", ZIP_DEFLATED, compresslevel=1) as packed:
        materials, which = material_lines(mesh)
        with packed.open(_entry(f"{name}.mtl"), "w") as out:
            out.write(materials)
        with packed.open(_entry(f"{name}.obj"), "w", force_zip64=True) as out:
            for part in mesh_lines(mesh, tell, f"{name}.mtl", which):
                out.write(part)


def _entry(name: str) -> ZipInfo:
    entry = ZipInfo(name, _EPOCH)
    entry.compress_type = ZIP_DEFLATED
    return entry
