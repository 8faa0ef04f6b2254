"""OBJ with its MTL in and out."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import NebrelError, UnreadableFile
from nebrel.core.formats.files import Tell, in_parts, writing
from nebrel.core.mesh.brought import Brought
from nebrel.core.mesh.colour import reduced
from nebrel.core.mesh.measure import merge

_WHITE = (255, 255, 255, 255)
_CHUNK = 100_000
_MOST_CORNERS = 10_000  # of one face
_MOST_MATERIALS, _FEW_MATERIALS = 256, 64  # more are made fewer


@dataclass
class _Reading:
    """What was read so far."""

    places: list[list[float]] = field(default_factory=list)
    tints: list[list[float] | None] = field(default_factory=list)
    texts: list[list[float]] = field(default_factory=list)
    faces: list[tuple[int, int, int]] = field(default_factory=list)
    seats: list[tuple[int, int, int]] = field(default_factory=list)
    part_of: list[int] = field(default_factory=list)
    cloth_of: list[int] = field(default_factory=list)
    parts: list[str] = field(default_factory=list)
    cloths: dict[str, int] = field(default_factory=dict)
    libraries: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class _Cloth:
    """A material: its colour, and its texture where there is one."""

    colour: tuple[int, int, int, int] = _WHITE
    texture: str = ""


def read_obj(path: Path) -> Brought:
    """Read an OBJ: one mesh an object or group; colours of vertices, materials or textures.

    A material library and textures are read from beside the file and from nowhere else.

    Raises
    ------
    UnreadableFile : a line cannot be read, or a face names a vertex that is not there
    """
    reading = _Reading()
    part = cloth = -1
    lines = path.read_bytes().replace(b"\\\n", b" ").replace(b"\\\r\n", b" ").splitlines()
    for number, line in enumerate(lines, 1):
        words = line.split()
        if not words or words[0].startswith(b"#"):
            continue
        try:
            match words[0]:
                case b"v":
                    reading.places.append([float(word) for word in words[1:4]])
                    tint = [float(word) for word in words[4:7]] if len(words) >= 7 else None
                    reading.tints.append(tint)
                    if len(words) < 4:
                        raise ValueError("too few numbers")
                case b"vt":
                    reading.texts.append([float(word) for word in [*words[1:3], b"0"][:2]])
                case b"f":
                    if part < 0:
                        reading.parts.append("")
                        part = 0
                    _face(reading, words[1:], part, cloth)
                case b"o" | b"g":
                    reading.parts.append(b" ".join(words[1:]).decode("utf-8", "replace")[:80])
                    part = len(reading.parts) - 1
                case b"usemtl":
                    name = b" ".join(words[1:]).decode("utf-8", "replace")
                    cloth = reading.cloths.setdefault(name, len(reading.cloths))
                case b"mtllib":
                    reading.libraries.append(b" ".join(words[1:]).decode("utf-8", "replace"))
                case _:
                    pass
        except (ValueError, IndexError) as error:
            shown = line[:40].decode("utf-8", "replace")
            raise UnreadableFile(
                path.name, f"line {number} cannot be read (“{shown}”: {error})", "Export it again"
            ) from error
    return _brought(path, reading)


def _face(reading: _Reading, words: list[bytes], part: int, cloth: int) -> None:
    if not 3 <= len(words) <= _MOST_CORNERS:
        raise ValueError(f"a face of {len(words)} corners")
    corners, seats = [], []
    for word in words:
        split = word.split(b"/")
        corners.append(_index(split[0], len(reading.places), "vertex"))
        textured = len(split) > 1 and split[1] != b""
        seats.append(_index(split[1], len(reading.texts), "texture place") if textured else -1)
    for k in range(1, len(words) - 1):
        reading.faces.append((corners[0], corners[k], corners[k + 1]))
        reading.seats.append((seats[0], seats[k], seats[k + 1]))
        reading.part_of.append(part)
        reading.cloth_of.append(cloth)


def _index(word: bytes, count: int, what: str) -> int:
    number = int(word)
    found = number - 1 if number > 0 else count + number
    if number == 0 or not 0 <= found < count:
        raise ValueError(f"there is no {what} {number} of {count}")
    return found


def _brought(path: Path, reading: _Reading) -> Brought:
    if not reading.faces:
        raise UnreadableFile(path.name, "it holds no triangle", "Export it again")
    vertices = np.array(reading.places, np.float64)
    faces = np.array(reading.faces, np.int64)
    if not np.isfinite(vertices[faces]).all():
        raise UnreadableFile(
            path.name, "it holds coordinates that are not numbers", "Export it again"
        )
    notes: list[str] = []
    corners = _colours(path, reading, faces, notes)
    part_of = np.array(reading.part_of)
    parts = []
    for number, name in enumerate(reading.parts):
        own = np.flatnonzero(part_of == number)
        if not len(own):
            continue
        flat = faces[own].ravel()
        soup = Mesh(
            vertices[flat].astype(np.float32),
            np.arange(len(flat), dtype=np.int32).reshape(-1, 3),
            name or path.stem,
            None if corners is None else corners[own].reshape(-1, 4),
        )
        parts.append(merge(soup))
    return Brought(tuple(parts), None, tuple(notes))


def _colours(
    path: Path, reading: _Reading, faces: NDArray[np.int64], notes: list[str]
) -> NDArray[np.uint8] | None:
    """Of every corner of every face, (F, 3, 4); None where the file has none."""
    if any(tint is not None for tint in reading.tints):
        tints = np.array([tint or [1.0, 1.0, 1.0] for tint in reading.tints])
        scale = 255 if tints.max() <= 1 else 1
        shown = np.clip(np.round(tints * scale), 0, 255)
        rows = np.column_stack([shown, np.full(len(shown), 255)]).astype(np.uint8)
        return rows[faces]
    if not reading.cloths:
        return None
    known: dict[str, _Cloth] = {}
    for library in reading.libraries:
        beside = path.parent / library
        if Path(library).name != library or not beside.is_file():
            notes.append(f"the materials of “{library[:60]}” were not found beside it")
            continue
        known |= _library(beside)
    if not known:
        return None
    cloth_of = np.array(reading.cloth_of)
    found = np.full((len(faces), 3, 4), 255, np.uint8)
    texts = np.array(reading.texts or [[0.0, 0.0]])
    seats = np.array(reading.seats)
    for name, number in reading.cloths.items():
        own = np.flatnonzero(cloth_of == number)
        cloth = known.get(name, _Cloth())
        found[own] = cloth.colour
        if cloth.texture and len(own) and (seats[own] >= 0).all():
            picture = _texture(path.parent, cloth.texture, notes)
            if picture is not None:
                found[own] = sampled(picture, texts[seats[own]])
    return found


def _library(path: Path) -> dict[str, _Cloth]:
    found: dict[str, _Cloth] = {}
    name = ""
    for line in path.read_text("utf-8", "replace").splitlines():
        words = line.split()
        if len(words) < 2:
            continue
        old = found.get(name, _Cloth())
        try:
            if words[0] == "newmtl":
                name = " ".join(words[1:])
                found[name] = _Cloth()
            elif words[0] == "Kd":
                rgb = [round(min(1.0, max(0.0, float(word))) * 255) for word in words[1:4]]
                found[name] = _Cloth((rgb[0], rgb[1], rgb[2], old.colour[3]), old.texture)
            elif words[0] == "d":
                seen = round(min(1.0, max(0.0, float(words[1]))) * 255)
                found[name] = _Cloth((*old.colour[:3], seen), old.texture)
            elif words[0] == "map_Kd":
                found[name] = _Cloth(old.colour, words[-1])
        except (ValueError, IndexError):
            continue
    return found


def _texture(folder: Path, name: str, notes: list[str]) -> Any:
    from nebrel.core.picture.decode import decode

    beside = folder / name
    if Path(name).name != name or not beside.is_file():
        notes.append(f"the texture “{name[:60]}” was not found beside it")
        return None
    try:
        return decode(beside)
    except NebrelError as error:
        notes.append(f"the texture “{name[:60]}” was left out: {error.why}")
        return None


def sampled(picture: Any, places: NDArray[Any]) -> NDArray[np.uint8]:
    """Colours of a picture at texture places (..., 2) from its lower left corner, repeating."""
    pixels = picture.pixels if picture.pixels.ndim == 3 else picture.pixels[..., None].repeat(3, 2)
    rows, cols = pixels.shape[:2]
    u, v = places[..., 0] % 1.0, places[..., 1] % 1.0
    # A whole number is the far edge, not the near one.
    u = np.where((places[..., 0] != 0) & (u == 0), 1.0, u)
    v = np.where((places[..., 1] != 0) & (v == 0), 1.0, v)
    col = np.minimum((u * cols).astype(int), cols - 1)
    row = np.minimum(((1 - v) * rows).astype(int), rows - 1)
    found = np.full((*places.shape[:-1], 4), 255, np.uint8)
    found[..., :3] = np.round(pixels[row, col] * 255)
    if picture.alpha is not None:
        found[..., 3] = np.round(picture.alpha[row, col] * 255)
    return found


def write_obj(mesh: Mesh, path: Path, called: str = "", tell: Tell = None) -> None:
    """Write an OBJ in mm; colours beside the vertices, as most programs read them."""
    with writing(path, called) as file:
        for part in mesh_lines(mesh, tell):
            file.write(part)


def mesh_lines(
    mesh: Mesh, tell: Tell = None, library: str = "", which: NDArray[np.int64] | None = None
) -> Iterator[bytes]:
    """The lines of an OBJ, some at once.

    Parameters
    ----------
    library : the file of its materials, where it has some
    which : (F,) the material of each face
    """
    name = "_".join(mesh.name.split()) or "piece"
    yield b"# millimetres\n"
    if library:
        yield f"mtllib {library}\n".encode()
    yield f"o {name}\n".encode()
    rows = mesh.vertices.astype(np.float64)
    words = "v %.9g %.9g %.9g\n"
    if mesh.colours is not None:
        rows = np.column_stack([rows, mesh.colours[:, :3] / 255])
        words = "v %.9g %.9g %.9g %.6g %.6g %.6g\n"
    for some in in_parts(len(rows), _CHUNK):
        chunk = rows[some]
        yield (words * len(chunk) % tuple(chunk.ravel().tolist())).encode()
    runs: list[tuple[int | None, NDArray[np.int32]]]
    if which is None:
        runs = [(None, mesh.faces)]
    else:
        order = np.argsort(which, kind="stable")
        names, first = np.unique(which[order], return_index=True)
        split = np.split(mesh.faces[order], first[1:])
        runs = list(zip(names.tolist(), split, strict=True))
    done = 0
    for material, own in runs:
        if material is not None:
            yield f"usemtl colour_{material + 1}\n".encode()
        for some in in_parts(len(own), _CHUNK):
            faces = own[some] + 1
            yield ("f %d %d %d\n" * len(faces) % tuple(faces.ravel().tolist())).encode()
            done += len(faces)
            if tell is not None:
                tell(done / len(mesh.faces))


def material_lines(mesh: Mesh) -> tuple[bytes, NDArray[np.int64]]:
    """An MTL of the colours of a mesh, no more than 256, and which of them each face has (F,)."""
    if mesh.colours is None:
        colours = np.array([[216, 204, 187, 255]], np.uint8)
        which = np.zeros(len(mesh.faces), np.int64)
    else:
        different = len(np.unique(mesh.colours, axis=0))
        seen = mesh if different <= _MOST_MATERIALS else reduced(mesh, _FEW_MATERIALS)
        assert seen.colours is not None
        colours, kind = np.unique(seen.colours, axis=0, return_inverse=True)
        a, b, c = kind.reshape(-1)[mesh.faces].T
        which = np.where(b == c, b, a)  # what two of its corners have
    lines = ["# colours as displayed\n"]
    for number, row in enumerate(colours.tolist(), 1):
        red, green, blue, seen_through = (value / 255 for value in row)
        lines.append(f"newmtl colour_{number}\nKd {red:.6g} {green:.6g} {blue:.6g}\n")
        lines.append(f"d {seen_through:.6g}\nillum 1\n\n")
    return "".join(lines).encode(), which
