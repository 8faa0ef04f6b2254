"""The files of a data folder, each under the SHA-256 of its bytes."""

from __future__ import annotations

import hashlib
import io
import uuid
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, BinaryIO, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.choices import Gives
from nebrel.core.data import HeightScale, Picture
from nebrel.core.errors import NebrelError, NotFound, StorageFailed
from nebrel.core.figure.network import what_it_gives
from nebrel.core.formats.brought import MM, Brought, Unit
from nebrel.core.formats.drawing import Drawing, drawing_of, guess_unit
from nebrel.core.formats.files import addressed, writing
from nebrel.core.formats.meshes import ending_of, guess_unit_of_mesh, read_brought
from nebrel.core.formats.stl import is_binary_stl, stl_box
from nebrel.core.picture.decode import PictureLimits, decode
from nebrel.core.picture.resample import display_bytes
from nebrel.core.recipe.body import BodyUnit
from nebrel.core.recipe.files import lost
from nebrel.store.database import reading, transaction
from nebrel.store.models import FileRow, now
from nebrel.store.names import clean_name

_VIEW_PX = 640
_CHUNK = 1 << 20
_LEAST_MM, _MOST_MM = 0.2, 4500.0  # of a drawing, so that a piece can be as large


class PictureFacts(BaseModel):
    """What is known of a picture file without decoding it again."""

    model_config = ConfigDict(frozen=True)

    file_format: str
    cols: int
    rows: int
    bit_depth: int
    coloured: bool
    transparent: bool
    dpi: float | None
    notes: list[str]


class PictureInfo(PictureFacts):
    """The same with its name.

    Attributes
    ----------
    heights : what its tones are worth; only of one that was just brought
    """

    sha256: str
    filename: str
    heights: HeightScale | None = None


class DrawingFacts(BaseModel):
    """What is known of a drawing without reading it again.

    Attributes
    ----------
    wide_mm, tall_mm : of its own box, as the file says, or by what its unit was guessed to be
    unit : of the file; None where it does not say
    guess : what one unit is taken for then
    layers : groups or layers, with the number of lines in each
    """

    model_config = ConfigDict(frozen=True)

    wide_mm: float
    tall_mm: float
    unit: str | None
    guess: Literal["mm", "cm", "m", "in"]
    layers: dict[str, int]
    notes: list[str]


class DrawingInfo(DrawingFacts):
    """The same with its name."""

    sha256: str
    filename: str


class MeshFacts(BaseModel):
    """What is known of a mesh file without reading it again.

    Attributes
    ----------
    size : of its box, x, y and z, in its own unit
    unit : of the file; None where it does not say
    guess, why : what one unit is taken for then, and the reason in words
    """

    model_config = ConfigDict(frozen=True)

    file_format: str
    triangles: int
    objects: int
    coloured: bool
    size: tuple[float, float, float]
    unit: Unit | None
    guess: Literal["mm", "cm", "m", "in"]
    why: str
    notes: list[str]


class MeshInfo(MeshFacts):
    """The same with its name."""

    sha256: str
    filename: str

    def size_mm(self, unit: BodyUnit) -> tuple[float, float, float]:
        """Its size, its numbers taken for that."""
        said: Unit = (self.unit or "mm") if unit == "file" else unit
        x, y, z = (round(side * MM[said], 4) for side in self.size)
        return x, y, z


class NetworkInfo(BaseModel):
    """A network that was kept: what it is called, and what it gives."""

    sha256: str
    filename: str
    gives: Gives


class KeptFiles:
    """The files of one data folder.

    Parameters
    ----------
    folder : where `pictures` and `cache` are
    """

    def __init__(self, folder: Path, sessions: sessionmaker[Session]) -> None:
        self.pictures, self.cache = folder / "pictures", folder / "cache"
        self._sessions = sessions

    def add_picture(
        self, data: bytes, filename: str, limits: PictureLimits | None = None
    ) -> PictureInfo:
        """Keep a picture file, unchanged, under its SHA-256.

        A kept file that is missing or damaged is mended by bringing the same one again.

        Raises
        ------
        UnreadableFile, TooLarge, InvalidValue : as `decode`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "picture"
        picture = decode(data, filename, limits)
        sha256 = hashlib.sha256(data).hexdigest()
        self._keep(data, sha256, filename)
        self._keep_view(sha256, picture)
        with transaction(self._sessions) as session:
            row = session.get(FileRow, sha256)
            if row is None:
                row = _row_of(sha256, filename, picture, len(data))
                session.add(row)
            # The same bytes may come again under another name.
            more = {"filename": filename, "heights": picture.heights}
            return picture_info(row).model_copy(update=more)

    def add_drawing(self, data: bytes, filename: str) -> tuple[DrawingInfo, Drawing]:
        """Keep a drawing, unchanged, under its SHA-256; and what it comes to.

        Raises
        ------
        UnreadableFile, TooLarge : as `read_drawing`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "drawing.svg"
        drawing = drawing_of(data, filename)
        said, guess = drawing.unit, guess_unit(drawing.size_mm)
        if said is None and guess != "mm":
            drawing = drawing_of(data, filename, guess)
        sha256 = hashlib.sha256(data).hexdigest()
        self._keep(data, sha256, filename)
        wide, tall = drawing.size_mm
        notes = list(drawing.notes)
        if not makeable(drawing):
            notes.append(f"at {wide:.4g} × {tall:.4g} mm it could not be made; type its true size")
        facts = DrawingFacts(
            wide_mm=round(wide, 4),
            tall_mm=round(tall, 4),
            unit=said,
            guess=guess if said is None else "mm",
            layers=drawing.layers,
            notes=notes,
        )
        with transaction(self._sessions) as session:
            if session.get(FileRow, sha256) is None:
                session.add(
                    _row(sha256, "drawing", filename, len(data), facts.model_dump(mode="json"))
                )
        return DrawingInfo(sha256=sha256, filename=filename, **facts.model_dump()), drawing

    def drawing_info(self, sha256: str) -> DrawingInfo:
        """What is known of a kept drawing. Raises NotFound."""
        with reading(self._sessions) as session:
            row = get_file(session, sha256)
            if row.kind != "drawing":
                raise NotFound("drawing", f"“{row.filename}” is a picture", "Choose a drawing")
            return DrawingInfo(sha256=row.sha256, filename=row.filename, **row.facts)

    def add_mesh(self, file: BinaryIO, filename: str) -> MeshInfo:
        """Keep a mesh file, unchanged, under its SHA-256.

        Raises
        ------
        UnreadableFile, TooLarge : as `read_brought`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "mesh.stl"
        beside = self.pictures / f"{uuid.uuid4().hex}.part"
        try:
            digest = hashlib.sha256()
            with writing(beside, filename) as out:
                while part := file.read(_CHUNK):
                    digest.update(part)
                    out.write(part)
            sha256 = digest.hexdigest()
            facts = _mesh_facts(beside, filename)
            size = beside.stat().st_size
            path = addressed(self.pictures, sha256)
            if not _holds(path, sha256, size):
                make_folder(path.parent)
                beside.replace(path)
        finally:
            beside.unlink(missing_ok=True)
        with transaction(self._sessions) as session:
            row = session.get(FileRow, sha256)
            if row is not None and row.kind != "mesh":
                raise NotFound(
                    filename, f"it was brought as a {row.kind} before", "Change its name"
                )
            if row is None:
                session.add(_row(sha256, "mesh", filename, size, facts.model_dump(mode="json")))
        return MeshInfo(sha256=sha256, filename=filename, **facts.model_dump())

    def add_network(self, data: bytes, filename: str) -> NetworkInfo:
        """Keep a network that was tried, under its SHA-256.

        Raises
        ------
        UnreadableFile, InvalidValue : as `what_it_gives`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "network.onnx"
        with TemporaryDirectory() as folder:
            path = Path(folder) / Path(filename).name
            path.write_bytes(data)
            gives = what_it_gives(path)
        sha256 = hashlib.sha256(data).hexdigest()
        self._keep(data, sha256, filename)
        with transaction(self._sessions) as session:
            if session.get(FileRow, sha256) is None:
                session.add(_row(sha256, "network", filename, len(data), {"gives": gives}))
        return NetworkInfo(sha256=sha256, filename=filename, gives=gives)

    def add_file(self, kind: str, data: bytes, filename: str) -> None:
        """Keep a file of a kind: a picture, a drawing, a mesh or a network.

        Raises
        ------
        UnreadableFile, TooLarge, StorageFailed : as the others
        """
        if kind == "mesh":
            self.add_mesh(io.BytesIO(data), filename)
        elif kind == "drawing":
            self.add_drawing(data, filename)
        elif kind == "network":
            self.add_network(data, filename)
        else:
            self.add_picture(data, filename)

    def mesh_info(self, sha256: str) -> MeshInfo:
        """What is known of a kept mesh. Raises NotFound."""
        with reading(self._sessions) as session:
            return mesh_info(get_file(session, sha256))

    def _keep(self, data: bytes, sha256: str, filename: str) -> None:
        path = addressed(self.pictures, sha256)
        if not _holds(path, sha256, len(data)):
            make_folder(path.parent)
            with writing(path, filename, through=True) as file:
                file.write(data)

    def picture_info(self, sha256: str) -> PictureInfo:
        """What is known of a kept picture. Raises NotFound."""
        with reading(self._sessions) as session:
            return picture_info(get_file(session, sha256))

    def load_picture(self, sha256: str) -> Picture:
        """Decode a kept picture. Raises NotFound, UnreadableFile."""
        info = self.picture_info(sha256)
        return decode(self._path(info), info.filename)

    def picture_view(self, sha256: str) -> Path:
        """A small PNG of a kept picture. Raises NotFound, UnreadableFile."""
        path = self.cache / f"view-{sha256}.png"
        return path if path.exists() else self._keep_view(sha256, self.load_picture(sha256))

    def picture_file(self, sha256: str) -> Path:
        """Where a kept picture lies, as it was brought. Raises NotFound."""
        return self._path(self.picture_info(sha256))

    def _keep_view(self, sha256: str, picture: Picture) -> Path:
        path = self.cache / f"view-{sha256}.png"
        if not path.exists():
            with writing(path, "view") as file:
                file.write(display_bytes(picture, _VIEW_PX))
        return path

    def _path(self, info: PictureInfo) -> Path:
        path = addressed(self.pictures, info.sha256)
        if not path.is_file():
            raise lost(info.filename)
        return path


def makeable(drawing: Drawing) -> bool:
    """Whether a drawing is of a size that a piece can have."""
    return _LEAST_MM <= max(drawing.size_mm) <= _MOST_MM


def make_folder(path: Path) -> None:
    """Make a folder where there is none. Raises StorageFailed."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StorageFailed(
            str(path), f"the folder cannot be made ({error.strerror})", "Choose another with --data"
        ) from error


def _holds(path: Path, sha256: str, size: int) -> bool:
    """Whether a file is there, whole and undamaged."""
    try:
        if path.stat().st_size != size:
            return False
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest() == sha256
    except OSError:
        return False


def get_file(session: Session, sha256: str) -> FileRow:
    """The row of a kept file. Raises NotFound."""
    row = session.get(FileRow, sha256)
    if row is None:
        raise NotFound("picture", "it is not in this data folder", "Bring the picture again")
    return row


def picture_info(row: FileRow) -> PictureInfo:
    """What is known of a picture, from its row. Raises NotFound where it is none."""
    if row.kind != "picture":
        raise NotFound(row.filename, f"it is a {row.kind}, not a picture", "Bring a picture")
    return PictureInfo(sha256=row.sha256, filename=row.filename, **row.facts)


def mesh_info(row: FileRow) -> MeshInfo:
    """What is known of a mesh, from its row. Raises NotFound where it is none."""
    if row.kind != "mesh":
        raise NotFound(row.filename, f"it is a {row.kind}, not a mesh", "Bring a mesh")
    return MeshInfo(sha256=row.sha256, filename=row.filename, **row.facts)


def _mesh_facts(path: Path, filename: str) -> MeshFacts:
    ending = Path(filename).suffix.lower() or ending_of(path)
    brought = Brought(())
    try:
        if ending == ".stl" and is_binary_stl(path):  # not read whole: it may be large
            triangles, low, high = stl_box(path)
        else:
            brought = read_brought(path, ending)
            triangles = sum(len(part.faces) for part in brought.parts)
            low = np.min([part.vertices.min(axis=0) for part in brought.parts], axis=0)
            high = np.max([part.vertices.max(axis=0) for part in brought.parts], axis=0)
    except NebrelError as error:  # it is called as the person calls it
        raise type(error)(filename, error.why, error.remedy) from error
    x, y, z = (float(side) for side in high.astype(np.float64) - low)
    guess, why = guess_unit_of_mesh((x, y, z))
    return MeshFacts(
        file_format=ending[1:],
        triangles=triangles,
        objects=max(1, len(brought.parts)),
        coloured=any(part.colours is not None for part in brought.parts),
        size=(x, y, z),
        unit=brought.unit,
        guess=guess,
        why=why,
        notes=list(brought.notes),
    )


def _row(sha256: str, kind: str, filename: str, size: int, facts: dict[str, Any]) -> FileRow:
    return FileRow(
        sha256=sha256, kind=kind, filename=filename[:255], bytes=size, facts=facts, created=now()
    )


def _row_of(sha256: str, filename: str, picture: Picture, size: int) -> FileRow:
    facts = PictureFacts(
        file_format=picture.file_format,
        cols=picture.cols,
        rows=picture.rows,
        bit_depth=picture.bit_depth,
        coloured=picture.pixels.ndim == 3,
        transparent=picture.alpha is not None,
        dpi=picture.dpi,
        notes=list(picture.notes),
    )
    return FileRow(
        sha256=sha256,
        kind="picture",
        filename=filename[:255],
        bytes=size,
        facts=facts.model_dump(mode="json"),
        created=now(),
    )
