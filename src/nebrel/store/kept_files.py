"""The files of a data folder, each under the SHA-256 of its bytes."""

from __future__ import annotations

import hashlib
import io
import uuid
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

from pydantic import BaseModel
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.choices import Gives
from nebrel.core.data import HeightScale, Picture
from nebrel.core.errors import NotFound, StorageFailed
from nebrel.core.formats.files import addressed, moved_into_place, writing
from nebrel.core.mesh.brought import MM, Unit
from nebrel.core.recipe.body import BodyUnit
from nebrel.core.recipe.files import lost
from nebrel.store.database import reading, transaction
from nebrel.store.facts import (
    DrawingFacts,
    Drawn,
    MeshFacts,
    PictureFacts,
    Reads,
    drawing_facts,
    here,
    mesh_facts,
    network_gives,
    picture_facts,
    picture_view,
    plain,
)
from nebrel.store.models import FileRow, now
from nebrel.store.names import clean_name

if TYPE_CHECKING:
    from nebrel.core.picture.decode import PictureLimits

_CHUNK = 1 << 20
Source = bytes | Path | BinaryIO
"""Of a file: all that it holds, where it lies, or a stream that is read once."""


class PictureInfo(PictureFacts):
    """The same with its name.

    Attributes
    ----------
    heights : what its tones are worth; only of one that was just brought
    """

    sha256: str
    filename: str
    heights: HeightScale | None = None


class DrawingInfo(DrawingFacts):
    """The same with its name."""

    sha256: str
    filename: str


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


@dataclass(frozen=True)
class _Coming:
    """A file that is being brought: where it lies, by what it will be called, and its bytes."""

    path: Path
    sha256: str
    size: int


class KeptFiles:
    """The files of one data folder.

    Parameters
    ----------
    folder : where `pictures` and `cache` are
    reads : who reads what is brought
    """

    def __init__(self, folder: Path, sessions: sessionmaker[Session], reads: Reads = here) -> None:
        self.pictures, self.cache = folder / "pictures", folder / "cache"
        self._sessions, self.reads, self.tries = sessions, reads, reads

    def add_picture(
        self, source: Source, filename: str, limits: PictureLimits | None = None
    ) -> PictureInfo:
        """Keep a picture file, unchanged, under its SHA-256.

        A kept file that is missing or damaged is mended by bringing the same one again.

        Raises
        ------
        UnreadableFile, TooLarge, InvalidValue : as `decode`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "picture"
        with self._coming(source, filename) as file:
            facts, heights, view = self.reads(filename, picture_facts, file.path, filename, limits)
            self._keep(file)
        self._keep_view(file.sha256, view)
        # The same bytes may come again under another name.
        more = {"filename": filename, "heights": heights}
        return picture_info(self._known(file, "picture", filename, facts)).model_copy(update=more)

    def check_picture(self, source: Source, filename: str) -> None:
        """That it is one; it is not kept. Raises UnreadableFile, TooLarge, InvalidValue."""
        with self._coming(source, filename) as file:
            self.reads(filename, picture_facts, file.path, filename)

    def add_drawing(self, source: Source, filename: str) -> DrawingInfo:
        """Keep a drawing, unchanged, under its SHA-256.

        Raises
        ------
        UnreadableFile, TooLarge : as `read_drawing`; nothing is kept then
        StorageFailed : the disk is full
        """
        return self._add_drawing(source, filename, drawn=False)[0]

    def add_drawn(self, source: Source, filename: str) -> tuple[DrawingInfo, Drawn]:
        """The same, and a picture of it. Raises as `add_drawing`."""
        info, drawn = self._add_drawing(source, filename, drawn=True)
        assert drawn is not None
        return info, drawn

    def _add_drawing(
        self, source: Source, filename: str, drawn: bool
    ) -> tuple[DrawingInfo, Drawn | None]:
        filename = clean_name(filename) or "drawing.svg"
        with self._coming(source, filename) as file:
            facts, seen = self.reads(filename, drawing_facts, file.path, filename, drawn)
            self._keep(file)
        self._known(file, "drawing", filename, facts)
        return DrawingInfo(sha256=file.sha256, filename=filename, **facts.model_dump()), seen

    def drawing_info(self, sha256: str) -> DrawingInfo:
        """What is known of a kept drawing. Raises NotFound."""
        with reading(self._sessions) as session:
            row = get_file(session, sha256)
            if row.kind != "drawing":
                raise NotFound("drawing", f"“{row.filename}” is a picture", "Choose a drawing")
            return DrawingInfo(sha256=row.sha256, filename=row.filename, **row.facts)

    def add_mesh(self, source: Source, filename: str) -> MeshInfo:
        """Keep a mesh file, unchanged, under its SHA-256.

        Raises
        ------
        UnreadableFile, TooLarge : as `read_brought`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "mesh.stl"
        with self._coming(source, filename) as file:
            facts = self.reads(filename, mesh_facts, file.path, filename)
            self._keep(file)
        row = self._known(file, "mesh", filename, facts)
        if row.kind != "mesh":
            raise NotFound(filename, f"it was brought as a {row.kind} before", "Change its name")
        return MeshInfo(sha256=file.sha256, filename=filename, **facts.model_dump())

    def add_network(self, source: Source, filename: str) -> NetworkInfo:
        """Keep a network that was tried, under its SHA-256.

        Raises
        ------
        UnreadableFile, InvalidValue : as `what_it_gives`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "network.onnx"
        with self._coming(source, filename) as file:
            gives = self.tries(filename, network_gives, file.path, filename)
            self._keep(file)
        self._known(file, "network", filename, {"gives": gives})
        return NetworkInfo(sha256=file.sha256, filename=filename, gives=gives)

    def add_file(self, kind: str, source: Source, filename: str) -> None:
        """Keep a file of a kind: a picture, a drawing, a mesh or a network.

        Raises
        ------
        UnreadableFile, TooLarge, StorageFailed : as the others
        """
        if kind == "mesh":
            self.add_mesh(source, filename)
        elif kind == "drawing":
            self.add_drawing(source, filename)
        elif kind == "network":
            self.add_network(source, filename)
        else:
            self.add_picture(source, filename)

    @contextmanager
    def _coming(self, source: Source, filename: str) -> Iterator[_Coming]:
        """A file that is brought, written through beside those that are kept."""
        beside = self.pictures / f"{uuid.uuid4().hex}.part"
        digest = hashlib.sha256()
        with ExitStack() as opened:
            if isinstance(source, Path):
                source = opened.enter_context(source.open("rb"))
            stream = io.BytesIO(source) if isinstance(source, bytes) else source
            try:
                with writing(beside, filename, through=True) as out:
                    while part := stream.read(_CHUNK):
                        digest.update(part)
                        out.write(part)
                yield _Coming(beside, digest.hexdigest(), beside.stat().st_size)
            finally:
                beside.unlink(missing_ok=True)

    def _keep(self, file: _Coming) -> None:
        """Give it its place, where it is not there already, whole."""
        path = addressed(self.pictures, file.sha256)
        if not _holds(path, file.sha256, file.size):
            make_folder(path.parent)
            moved_into_place(file.path, path)

    def _known(
        self, file: _Coming, kind: str, filename: str, facts: BaseModel | dict[str, Any]
    ) -> FileRow:
        """Its row, and what was found out about it when it came first."""
        with transaction(self._sessions) as session:
            row = session.get(FileRow, file.sha256)
            if row is None:
                row = FileRow(
                    sha256=file.sha256,
                    kind=kind,
                    filename=filename[:255],
                    bytes=file.size,
                    facts=plain(facts) if isinstance(facts, BaseModel) else facts,
                    created=now(),
                )
                session.add(row)
                session.flush()
            session.expunge(row)
            return row

    def mesh_info(self, sha256: str) -> MeshInfo:
        """What is known of a kept mesh. Raises NotFound."""
        with reading(self._sessions) as session:
            return mesh_info(get_file(session, sha256))

    def picture_info(self, sha256: str) -> PictureInfo:
        """What is known of a kept picture. Raises NotFound."""
        with reading(self._sessions) as session:
            return picture_info(get_file(session, sha256))

    def load_picture(self, sha256: str) -> Picture:
        """Decode a kept picture. Raises NotFound, UnreadableFile."""
        info = self.picture_info(sha256)
        from nebrel.core.picture.decode import decode

        return decode(self._path(info), info.filename)

    def picture_view(self, sha256: str) -> Path:
        """A small PNG of a kept picture. Raises NotFound, UnreadableFile."""
        path = self.cache / f"view-{sha256}.png"
        if path.exists():
            return path
        info = self.picture_info(sha256)
        view = self.reads(info.filename, picture_view, self._path(info), info.filename)
        return self._keep_view(sha256, view)

    def picture_file(self, sha256: str) -> Path:
        """Where a kept picture lies, as it was brought. Raises NotFound."""
        return self._path(self.picture_info(sha256))

    def _keep_view(self, sha256: str, view: bytes) -> Path:
        path = self.cache / f"view-{sha256}.png"
        if not path.exists():
            with writing(path, "view") as file:
                file.write(view)
        return path

    def _path(self, info: PictureInfo) -> Path:
        path = addressed(self.pictures, info.sha256)
        if not path.is_file():
            raise lost(info.filename)
        return path


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
