"""A piece in one file: its recipe with all that it is made from.

A ZIP with `manifest.json`, `recipe.json`, `preview.png` and `files/<sha256>`. Pieces were kept as
JSON with their pictures in base64 before; these are read as well.
"""

from __future__ import annotations

import base64
import hashlib
import json
import zlib
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, BinaryIO
from zipfile import ZIP_DEFLATED, ZIP_STORED, BadZipFile, ZipFile, ZipInfo, is_zipfile

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidRecipe, NotFound, TooLarge, UnreadableFile
from nebrel.core.recipe.files import files_of, names_of
from nebrel.core.recipe.models import Recipe, load_recipe

_KIND = "nebrel piece"
_MOST_BYTES = 1_000_000_000
_MOST_RECIPE = 50_000_000
_DAMAGED = (BadZipFile, OSError, RuntimeError, EOFError, ValueError, zlib.error)
# The same recipe and files make the same bundle, whenever it is written.
_NEVER = (1980, 1, 1, 0, 0, 0)

Files = Callable[[str], bytes]


def write_bundle(
    out: BinaryIO, recipe: Recipe, files: Mapping[str, Path | bytes], preview: bytes | None = None
) -> None:
    """Write a recipe with its files.

    Parameters
    ----------
    out : a file that is open for writing
    files : by SHA-256, all that `files_of` names, as bytes or where they lie
    preview : a PNG of the piece, to be looked at without opening it
    """
    names = files_of(recipe)
    manifest = {"kind": _KIND, "version": 1, "files": names}
    with ZipFile(out, "w") as packed:
        for name, document in (
            ("manifest.json", manifest),
            ("recipe.json", recipe.model_dump(mode="json")),
        ):
            packed.writestr(ZipInfo(name, _NEVER), json.dumps(document, indent=1), ZIP_DEFLATED)
        if preview is not None:
            packed.writestr(ZipInfo("preview.png", _NEVER), preview, ZIP_STORED)
        for name in names:
            entry, source = ZipInfo(f"files/{name}", _NEVER), files[name]
            # Pictures are packed as tightly as they can be.
            entry.compress_type = ZIP_STORED
            if isinstance(source, bytes):
                packed.writestr(entry, source)
                continue
            entry.file_size = source.stat().st_size
            with source.open("rb") as file, packed.open(entry, "w") as into:
                while part := file.read(1 << 20):
                    into.write(part)


class Bundled:
    """The files of a bundle, read when they are asked for."""

    def __init__(self, called: str, files: Files, names: Mapping[str, str]) -> None:
        self._called, self._files, self._names = called, files, names

    def file(self, sha256: str) -> bytes:
        """A file as it was brought. Raises NotFound, UnreadableFile."""
        data = self._files(sha256)
        if hashlib.sha256(data).hexdigest() != sha256:
            raise UnreadableFile(
                self._called, "a file in it is not the one named", "Export it again"
            )
        return data

    def __call__(self, sha256: str) -> Picture:
        """A picture, decoded. Raises NotFound, UnreadableFile."""
        from nebrel.core.picture.decode import decode

        return decode(self.file(sha256), self._names.get(sha256) or "picture")


def is_bundle(file: BinaryIO, name: str) -> bool:
    """Whether what was brought is a piece in one file; of other ZIPs, what packs no mesh."""
    head = file.read(4)
    file.seek(0)
    if not (name.lower().endswith(".zip") and head.startswith(b"PK")):
        return False
    try:
        with ZipFile(file) as packed:
            held = "recipe.json" in packed.namelist()
    except _DAMAGED:
        held = True  # said so when it is read
    file.seek(0)
    from nebrel.core.formats.packed import meshes_in

    found = held or not meshes_in(file)
    file.seek(0)
    return found


def read_bundle(path: Path, name: str = "") -> tuple[Recipe, Bundled]:
    """A recipe, and what gives its files.

    Parameters
    ----------
    name : what the file is called, where its path says something else

    Raises
    ------
    UnreadableFile, TooLarge : the file cannot be read
    InvalidRecipe, InvalidValue : it is not a piece exported from the bench
    """
    called = name or path.name
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise TooLarge(called, "it is larger than 1 GB", "Export it again")
        document, files = _from_zip(path, called) if is_zipfile(path) else _from_json(path, called)
    except OSError as error:
        reason = (error.strerror or "").lower()
        raise UnreadableFile(called, f"it cannot be read ({reason})", "Check the name") from error
    if not isinstance(document, dict):
        raise InvalidRecipe(called, "it holds no recipe", "Export it again from the bench")
    recipe = load_recipe(document)
    return recipe, Bundled(called, files, names_of(recipe))


def unpacked_bundle(path: Path, folder: Path, name: str = "") -> tuple[Recipe, dict[str, Path]]:
    """A recipe, and where each of its files lies in a folder by now, by its SHA-256.

    Raises
    ------
    UnreadableFile, TooLarge, InvalidRecipe, InvalidValue, NotFound : as `read_bundle`
    """
    recipe, files = read_bundle(path, name)
    found, held = {}, 0
    for sha256 in files_of(recipe):
        data = files.file(sha256)
        held += len(data)
        if held > _MOST_BYTES:
            raise TooLarge(name or path.name, "it unpacks to more than 1 GB", "Export it again")
        found[sha256] = folder / sha256
        found[sha256].write_bytes(data)
    return recipe, found


def _from_zip(path: Path, called: str) -> tuple[Any, Files]:
    def read(name: str, most: int) -> bytes:
        with ZipFile(path) as packed:
            if packed.getinfo(name).file_size > most:
                raise TooLarge(called, "it unpacks to more than 1 GB", "Export it again")
            return packed.read(name)

    def file(sha256: str) -> bytes:
        try:
            return read(f"files/{sha256}", _MOST_BYTES)
        except KeyError as error:
            raise _missing(called) from error
        except _DAMAGED as error:
            raise UnreadableFile(called, "a file in it is damaged", "Export it again") from error

    try:
        return json.loads(read("recipe.json", _MOST_RECIPE)), file
    except KeyError as error:
        raise InvalidRecipe(
            called, "it holds no recipe", "Export it again from the bench"
        ) from error
    except (*_DAMAGED, RecursionError) as error:
        raise UnreadableFile(called, "it is damaged", "Export it again") from error


def _from_json(path: Path, called: str) -> tuple[Any, Files]:
    try:
        document = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise InvalidRecipe(called, "it is neither a ZIP nor JSON", "Export it again") from error
    if not isinstance(document, dict):
        document = {}
    pictures = document.get("pictures")
    files = pictures if isinstance(pictures, dict) else {}

    def file(sha256: str) -> bytes:
        text = files.get(sha256)
        if not isinstance(text, str):
            raise _missing(called)
        try:
            return base64.b64decode(text, validate=True)
        except ValueError as error:
            raise UnreadableFile(called, "a file in it is damaged", "Export it again") from error

    return document.get("recipe"), file


def _missing(called: str) -> NotFound:
    return NotFound(called, "a file of the recipe is missing", "Export it again")
