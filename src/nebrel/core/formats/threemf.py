"""3MF in and out, with the library of the 3MF Consortium."""

from __future__ import annotations

import ctypes
import re
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Any
from zipfile import BadZipFile, ZipFile

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.formats.files import Tell, writing
from nebrel.core.mesh.brought import Brought, Unit
from nebrel.core.mesh.measure import merge

_MOST_BYTES = 4_000_000_000  # unpacked
_MOST_RATIO = 400  # of what is larger than this unpacked
_SMALL_BYTES = 50_000_000
_MOST_ENTRIES = 10_000
_MOST_DEEP = 32  # components within components
_MOST_PARTS = 20_000
_MOST_TRIANGLES = 50_000_000
_PIECE = 1 << 22  # bytes of a model looked at together
_TAG = re.compile(rb"<(?:[\w.-]+:)?(object|component)\s([^<>]*)>")
_ATTRIBUTE = re.compile(rb"""(?:^|[\s:])(id|objectid|path)\s*=\s*["']([^"']*)["']""")
_UNITS: tuple[Unit, ...] = ("um", "mm", "cm", "in", "ft", "m")  # in the order of the library
_DECIMALS = 9  # of a millimetre: single precision to its last bit from 0.1 mm up


@cache
def _library() -> Any:
    import lib3mf

    return lib3mf.get_wrapper()


def read_3mf(path: Path) -> Brought:
    """Read a 3MF: one mesh an object of its build, with units, transforms and colours.

    Raises
    ------
    UnreadableFile : damaged, or what it packs lies outside of it
    TooLarge : it unpacks to more than 4 GB
    """
    _check_package(path)
    library = _library()
    model = library.CreateModel()
    try:
        reader = model.QueryReader("3mf")
        reader.SetStrictModeActive(False)
        reader.ReadFromFile(str(path))
        _check_size(model, path.name)
        parts = []
        items = model.GetBuildItems()
        while items.MoveNext():
            item = items.GetCurrent()
            parts += _parts(library, model, item.GetObjectResource(), _matrix(item), path.stem, 0)
        unit = _UNITS[int(model.GetUnit())]
    except (UnreadableFile, TooLarge):
        raise
    except Exception as error:  # whatever the library raises on a damaged file
        raise UnreadableFile(path.name, "it cannot be read as a 3MF", "Export it again") from error
    if not parts:
        raise UnreadableFile(path.name, "it holds no triangle", "Export it again")
    return Brought(tuple(parts), unit)


def _check_package(path: Path) -> None:
    """Refuse what unpacks to too much, or to somewhere else, or declares entities."""
    try:
        with ZipFile(path) as packed:
            entries = packed.infolist()
            whole = sum(entry.file_size for entry in entries)
            packed_size = max(1, sum(entry.compress_size for entry in entries))
            bomb = whole > _SMALL_BYTES and whole > _MOST_RATIO * packed_size
            if len(entries) > _MOST_ENTRIES or whole > _MOST_BYTES or bomb:
                raise TooLarge(
                    path.name, f"it unpacks to {whole / 1e6:.0f} MB", "Export a smaller one"
                )
            for entry in entries:
                parts = entry.filename.replace("\\", "/").split("/")
                if entry.filename.startswith("/") or ".." in parts or ":" in parts[0]:
                    raise UnreadableFile(
                        path.name, "something in it lies outside of it", "Export it again"
                    )
                if entry.filename.lower().endswith((".model", ".rels", ".xml")):
                    with packed.open(entry) as file:
                        if re.search(rb"<!(DOCTYPE|ENTITY)", file.read(65536), re.IGNORECASE):
                            raise UnreadableFile(
                                path.name, "it declares XML entities", "Export it again"
                            )
            _check_components(packed, path.name)
    except (BadZipFile, NotImplementedError, EOFError, OSError, ValueError) as error:
        raise UnreadableFile(path.name, "it is not a 3MF, or damaged", "Export it again") from error


_Named = tuple[str, str]  # the model it stands in, its number there


def _check_components(packed: ZipFile, name: str) -> None:
    """Count what components stand for before the library reads them: it follows every one.

    Raises
    ------
    TooLarge, UnreadableFile
    """
    within: dict[_Named, list[_Named]] = {}
    for entry in packed.namelist():
        if entry.lower().endswith(".model"):
            within.update(_components(packed, entry))
    known: dict[_Named, tuple[int, int]] = {}

    def counted(thing: _Named, above: int) -> tuple[int, int]:
        """Its parts, and how deep components lie within it."""
        if thing not in known and above <= _MOST_DEEP:
            own = [counted(one, above + 1) for one in within.get(thing, [])]
            parts, deep = zip(*own, strict=True) if own else ((1,), (-1,))
            known[thing] = sum(parts), max(deep) + 1
        if thing not in known or above + known[thing][1] > _MOST_DEEP:
            raise UnreadableFile(name, "its components go too deep", "Export it again")
        return known[thing]

    most = max((counted(thing, 0)[0] for thing in within), default=0)
    if most > _MOST_PARTS:
        raise _too_many(name, f"{most:.3g} parts")


def _components(packed: ZipFile, entry: str) -> dict[_Named, list[_Named]]:
    """Which objects each object of a model has as its components."""
    found: dict[_Named, list[_Named]] = {}
    owner: list[_Named] = []
    with packed.open(entry) as file:
        rest = b""
        while piece := file.read(_PIECE):
            text = rest + piece
            cut = text.rfind(b"<")
            rest = text[cut:] if cut >= 0 and len(text) - cut < _PIECE else b""
            for tag in _TAG.finditer(text, 0, cut if rest else len(text)):
                known = dict(_ATTRIBUTE.findall(tag[2]))
                if tag[1] == b"object":
                    owner = found.setdefault((entry, _text(known.get(b"id"))), [])
                else:
                    where = _text(known.get(b"path")).removeprefix("/") or entry
                    owner.append((where, _text(known.get(b"objectid"))))
    return found


def _text(value: bytes | None) -> str:
    return (value or b"").decode("utf-8", "replace").strip()


def _too_many(name: str, parts: str) -> TooLarge:
    return TooLarge(
        name,
        f"its build comes to {parts}",
        f"At most {_MOST_PARTS} parts and {_MOST_TRIANGLES // 1_000_000} million triangles "
        "are read: export a part of it",
    )


def _matrix(item: Any) -> NDArray[np.float64]:
    if hasattr(item, "HasObjectTransform"):
        return _of(item.GetObjectTransform()) if item.HasObjectTransform() else np.eye(4)
    return _of(item.GetTransform()) if item.HasTransform() else np.eye(4)


def _of(transform: Any) -> NDArray[np.float64]:
    """A transform of the library, rows of which are what x, y, z and the origin become."""
    found = np.eye(4)
    found[:3, :] = np.array([list(row) for row in transform.Fields]).T
    return found


def _check_size(model: Any, name: str) -> None:
    """Count parts and triangles before any is made: a few lines may stand for thousands of them.

    Raises
    ------
    TooLarge
    UnreadableFile : components lie too deep within each other
    """
    known: dict[int, tuple[int, int]] = {}

    def counted(thing: Any, deep: int) -> tuple[int, int]:
        number = thing.GetResourceID()
        if deep > _MOST_DEEP:
            raise UnreadableFile(name, "its components go too deep", "Export it again")
        if number not in known:
            parts = triangles = 0
            if thing.IsComponentsObject():
                whole = model.GetComponentsObjectByID(number)
                for k in range(whole.GetComponentCount()):
                    own = counted(whole.GetComponent(k).GetObjectResource(), deep + 1)
                    parts, triangles = parts + own[0], triangles + own[1]
            elif thing.IsMeshObject():
                parts, triangles = 1, model.GetMeshObjectByID(number).GetTriangleCount()
            known[number] = parts, triangles
        return known[number]

    parts = triangles = 0
    items = model.GetBuildItems()
    while items.MoveNext():
        own = counted(items.GetCurrent().GetObjectResource(), 0)
        parts, triangles = parts + own[0], triangles + own[1]
    if parts > _MOST_PARTS or triangles > _MOST_TRIANGLES:
        raise _too_many(name, f"{parts} parts of {triangles} triangles")


def _parts(
    library: Any, model: Any, thing: Any, matrix: NDArray[np.float64], name: str, deep: int
) -> list[Mesh]:
    if deep > _MOST_DEEP:
        raise UnreadableFile(name, "its components go too deep", "Export it again")
    if thing.IsComponentsObject():
        whole = model.GetComponentsObjectByID(thing.GetResourceID())
        found = []
        for number in range(whole.GetComponentCount()):
            one = whole.GetComponent(number)
            inner = matrix @ _matrix(one)
            found += _parts(library, model, one.GetObjectResource(), inner, name, deep + 1)
        return found
    if not thing.IsMeshObject():
        return []
    mesh = model.GetMeshObjectByID(thing.GetResourceID())
    vertices, faces = _geometry(library, mesh)
    if not len(faces):
        return []
    if faces.max() >= len(vertices) or not np.isfinite(vertices).all():
        raise UnreadableFile(name, "a triangle of it names no vertex", "Export it again")
    colours = _colours(library, model, mesh, len(faces))
    placed = vertices.astype(np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
    if np.linalg.det(matrix[:3, :3]) < 0:
        faces = faces[:, ::-1]
        colours = None if colours is None else colours[:, ::-1]
    flat = faces.ravel()
    called = thing.GetName() or name
    soup = Mesh(
        placed[flat].astype(np.float32),
        np.arange(len(flat), dtype=np.int32).reshape(-1, 3),
        called[:80],
        None if colours is None else colours.reshape(-1, 4),
    )
    return [merge(soup)]


def _geometry(library: Any, mesh: Any) -> tuple[NDArray[np.float32], NDArray[np.int32]]:
    """All at once: the wrapper's own way makes a Python object of every vertex."""
    from lib3mf import Lib3MF

    vertices = np.empty((mesh.GetVertexCount(), 3), np.float32)
    faces = np.empty((mesh.GetTriangleCount(), 3), np.int32)
    for array, kind, call in (
        (vertices, Lib3MF.Position, library.lib.lib3mf_meshobject_getvertices),
        (faces, Lib3MF.Triangle, library.lib.lib3mf_meshobject_gettriangleindices),
    ):
        if len(array):
            room = (kind * len(array)).from_buffer(array)
            count = ctypes.c_uint64(len(array))
            library.checkError(mesh, call(mesh._handle, count, ctypes.c_uint64(0), room))
    return vertices, faces


def _colours(library: Any, model: Any, mesh: Any, count: int) -> NDArray[np.uint8] | None:
    """Of every corner, (F, 3, 4); None where there are none, or they come from pictures."""
    from lib3mf import Lib3MF

    seats = np.empty((count, 4), np.uint32)
    room = (Lib3MF.TriangleProperties * count).from_buffer(seats)
    call = library.lib.lib3mf_meshobject_getalltriangleproperties
    library.checkError(mesh, call(mesh._handle, ctypes.c_uint64(count), ctypes.c_uint64(0), room))
    own, default, there = mesh.GetObjectLevelProperty()
    if there:
        seats[seats[:, 0] == 0] = (own, default, default, default)
    found = np.full((count, 3, 4), 255, np.uint8)
    any_found = False
    for resource in np.unique(seats[:, 0]):
        if resource == 0:
            continue
        table = _table(model, int(resource))
        if not table:
            continue
        any_found = True
        rows = np.flatnonzero(seats[:, 0] == resource)
        largest = max(table)
        lookup = np.full((largest + 1, 4), 255, np.uint8)
        for number, colour in table.items():
            lookup[number] = colour
        found[rows] = lookup[np.minimum(seats[rows, 1:], largest)]
    return found if any_found else None


def _table(model: Any, resource: int) -> dict[int, tuple[int, int, int, int]]:
    for get, tint in (
        (model.GetColorGroupByID, "GetColor"),
        (model.GetBaseMaterialGroupByID, "GetDisplayColor"),
    ):
        try:
            group = get(resource)
        except Exception:  # not of this kind
            continue
        found = {}
        for number in group.GetAllPropertyIDs():
            colour = getattr(group, tint)(number)
            found[number] = (colour.Red, colour.Green, colour.Blue, colour.Alpha)
        return found
    return {}


def write_3mf(
    meshes: Sequence[Mesh], path: Path, called: str = "", title: str = "", tell: Tell = None
) -> None:
    """Write meshes as objects of one 3MF in mm, with their names and colours.

    Parameters
    ----------
    title : of the whole, its first object's name when left out
    """
    library = _library()
    model = library.CreateModel()
    from lib3mf import Lib3MF

    model.SetUnit(Lib3MF.ModelUnit.MilliMeter)
    about = model.GetMetaDataGroup()
    for key, text in (("Title", title or meshes[0].name), ("Application", "Nebrel")):
        about.AddMetaData("", key, text, "xs:string", True)
    for done, mesh in enumerate(meshes, 1):
        thing = model.AddMeshObject()
        thing.SetName(mesh.name)
        _set_geometry(library, thing, mesh)
        if mesh.colours is not None:
            _set_colours(library, model, thing, mesh)
        model.AddBuildItem(thing, library.GetIdentityTransform())
        if tell is not None:
            tell(done / (2 * len(meshes)))
    writer = model.QueryWriter("3mf")
    writer.SetDecimalPrecision(_DECIMALS)
    # Writing to a file by its name, the library sets the locale of the whole process.
    data = bytes(writer.WriteToBuffer())
    with writing(path, called) as file:
        file.write(data)


def _set_geometry(library: Any, thing: Any, mesh: Mesh) -> None:
    from lib3mf import Lib3MF

    vertices = np.array(mesh.vertices, np.float32, order="C")
    faces = np.array(mesh.faces, np.uint32, order="C")
    call = library.lib.lib3mf_meshobject_setgeometry
    library.checkError(
        thing,
        call(
            thing._handle,
            ctypes.c_uint64(len(vertices)),
            (Lib3MF.Position * len(vertices)).from_buffer(vertices),
            ctypes.c_uint64(len(faces)),
            (Lib3MF.Triangle * len(faces)).from_buffer(faces),
        ),
    )


def _set_colours(library: Any, model: Any, thing: Any, mesh: Mesh) -> None:
    from lib3mf import Lib3MF

    assert mesh.colours is not None
    kinds, kind = np.unique(mesh.colours, axis=0, return_inverse=True)
    group = model.AddColorGroup()
    numbers = np.array(
        [group.AddColor(library.RGBAToColor(*(int(value) for value in row))) for row in kinds],
        np.uint32,
    )
    seats = np.empty((len(mesh.faces), 4), np.uint32)
    seats[:, 0] = group.GetResourceID()
    seats[:, 1:] = numbers[kind.reshape(-1)][mesh.faces]
    call = library.lib.lib3mf_meshobject_setalltriangleproperties
    library.checkError(
        thing,
        call(
            thing._handle,
            ctypes.c_uint64(len(seats)),
            (Lib3MF.TriangleProperties * len(seats)).from_buffer(seats),
        ),
    )
    thing.SetObjectLevelProperty(group.GetResourceID(), int(numbers[0]))
