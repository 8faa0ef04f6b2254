"""Pieces, pictures and revisions, as the application uses them."""

from __future__ import annotations

import hashlib
import re
import uuid
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path

from sqlalchemy import func, select
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.data import HeightScale, Picture
from nebrel.core.errors import Conflict, InvalidValue, NotFound
from nebrel.core.formats.files import writing
from nebrel.core.picture.decode import PictureLimits, decode
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.bundle import picture_names
from nebrel.core.recipe.models import Recipe, default_recipe, load_recipe, picture_path
from nebrel.store.database import open_database, transaction
from nebrel.store.models import MotifRow, PictureRow, PieceRow, RevisionRow, now
from nebrel.store.motifs import Motifs
from nebrel.store.names import clean_name
from nebrel.store.workshop import Workshop

_KEEP_DELETED = timedelta(days=30)
_MOST_REVISIONS = 2000


@dataclass(frozen=True)
class PictureInfo:
    """What is known of a picture without decoding it again."""

    sha256: str
    filename: str
    file_format: str
    cols: int
    rows: int
    bit_depth: int
    coloured: bool
    transparent: bool
    dpi: float | None
    notes: tuple[str, ...]
    heights: HeightScale | None = None  # only of one that was just brought


@dataclass(frozen=True)
class Piece:
    """A piece as it stands now."""

    id: str
    name: str
    changed: datetime
    revision: int
    recipe: Recipe
    undo: str | None
    redo: str | None
    picture: PictureInfo


class Store:
    """All that is kept in one data folder.

    Parameters
    ----------
    folder : made when missing; an older one is migrated on opening

    Raises
    ------
    StorageFailed : the folder cannot be made, opened or migrated
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.pictures = folder / "pictures"
        self.cache = folder / "cache"
        for path in (folder, self.pictures, self.cache):
            _make(path)
        self._engine = open_database(folder / "nebrel.db")
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)
        self.motifs = Motifs(self._sessions)
        self.workshop = Workshop(self._sessions)
        self._purge()

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    # Pictures

    def add_picture(
        self, data: bytes, filename: str, limits: PictureLimits | None = None
    ) -> PictureInfo:
        """Keep a picture file, unchanged, under its SHA-256.

        Raises
        ------
        UnreadableFile, TooLarge, InvalidValue : as `decode`; nothing is kept then
        StorageFailed : the disk is full
        """
        filename = clean_name(filename) or "picture"
        picture = decode(data, filename, limits)
        sha256 = hashlib.sha256(data).hexdigest()
        path = picture_path(self.pictures, sha256)
        if not path.exists():
            _make(path.parent)
            with writing(path, filename) as file:
                file.write(data)
        with transaction(self._sessions) as session:
            row = session.get(PictureRow, sha256)
            if row is None:
                row = _picture_row(sha256, filename, picture, len(data))
                session.add(row)
            # The same bytes may come again under another name.
            return replace(_picture_info(row), filename=filename, heights=picture.heights)

    def picture_info(self, sha256: str) -> PictureInfo:
        """What is known of a kept picture."""
        with transaction(self._sessions) as session:
            return _picture_info(_get_picture(session, sha256))

    def load_picture(self, sha256: str) -> Picture:
        """Decode a kept picture."""
        return decode(picture_path(self.pictures, sha256), self.picture_info(sha256).filename)

    def picture_bytes(self, sha256: str) -> bytes:
        """The file of a kept picture, as it was brought. Raises NotFound."""
        self.picture_info(sha256)
        return picture_path(self.pictures, sha256).read_bytes()

    # Pieces

    def pieces(self, query: str = "") -> list[Piece]:
        """All pieces that are not deleted, newest change first, filtered by name."""
        statement = select(PieceRow).where(PieceRow.deleted.is_(None))
        for word in query.split():
            statement = statement.where(PieceRow.name.icontains(word, autoescape=True))
        with transaction(self._sessions) as session:
            rows = session.scalars(statement.order_by(PieceRow.changed.desc(), PieceRow.id))
            return [_piece(session, row) for row in rows]

    def create_piece(
        self, picture: PictureInfo, name: str = "", recipe: Recipe | None = None
    ) -> Piece:
        """A new piece from a kept picture."""
        if recipe is None:
            recipe = default_recipe(
                picture.sha256, picture.rows, picture.cols, picture.filename, picture.heights
            ).model_copy(update=self._last_used())
        name = clean_name(name) or clean_name(Path(picture.filename).stem) or "New piece"
        with transaction(self._sessions) as session:
            row = PieceRow(id=uuid.uuid4().hex, name=name, position=1, created=now(), changed=now())
            row.revisions.append(
                RevisionRow(
                    number=1, recipe=recipe.model_dump(mode="json"), label="picture brought"
                )
            )
            session.add(row)
            session.flush()
            return _piece(session, row)

    def _last_used(self) -> dict[str, Printer | Material]:
        """Printer and material of the piece changed last, as the workshop knows them now."""
        statement = select(PieceRow).where(PieceRow.deleted.is_(None))
        with transaction(self._sessions) as session:
            row = session.scalars(statement.order_by(PieceRow.changed.desc()).limit(1)).first()
            last = None if row is None else _piece(session, row).recipe
        found: dict[str, Printer | Material] = {}
        printers, materials = self.workshop.printers.all(), self.workshop.materials.all()
        if printers:
            wanted = "" if last is None else last.printer.id
            found["printer"] = next((p for p in printers if p.id == wanted), printers[0])
        if materials:
            wanted = "" if last is None else last.material.id
            found["material"] = next((m for m in materials if m.id == wanted), materials[0])
        return found

    def piece(self, piece_id: str) -> Piece:
        """One piece.

        Raises
        ------
        NotFound : there is none, or it is deleted
        """
        with transaction(self._sessions) as session:
            return _piece(session, _get(session, piece_id))

    def rename(self, piece_id: str, name: str) -> Piece:
        """Give a piece another name."""
        cleaned = clean_name(name)
        if not cleaned:
            raise InvalidValue("name", "it is empty", "Type at least one letter")
        with transaction(self._sessions) as session:
            row = _get(session, piece_id)
            row.name, row.changed = cleaned, now()
            return _piece(session, row)

    def duplicate(self, piece_id: str) -> Piece:
        """A copy of a piece as it stands, with a history of its own."""
        original = self.piece(piece_id)
        taken = {piece.name for piece in self.pieces()}
        base = re.sub(r", copy( \d+)?$", "", original.name)[:180]
        names = [f"{base}, copy"] + [f"{base}, copy {i}" for i in range(2, len(taken) + 3)]
        name = next(candidate for candidate in names if candidate not in taken)
        return self.create_piece(original.picture, name, original.recipe)

    def delete(self, piece_id: str) -> None:
        """Take a piece off the shelf; `restore` brings it back for thirty days."""
        with transaction(self._sessions) as session:
            _get(session, piece_id).deleted = now()

    def restore(self, piece_id: str) -> Piece:
        """Bring a deleted piece back as it was."""
        with transaction(self._sessions) as session:
            row = _get(session, piece_id, deleted=True)
            row.deleted = None
            return _piece(session, row)

    # Revisions

    def change(
        self, piece_id: str, recipe: Recipe, label: str = "", base: int | None = None
    ) -> Piece:
        """Keep a new state of the recipe; what could be redone is given up.

        Parameters
        ----------
        base : the revision that the change was made on

        Raises
        ------
        Conflict : the piece stands at another revision by now
        NotFound : the piece or the recipe's picture does not exist
        """
        with transaction(self._sessions) as session:
            row = _get(session, piece_id)
            if base is not None and base != row.position:
                raise Conflict(
                    "piece",
                    "it was changed in another window",
                    "Load it again; your last change was not kept",
                )
            _get_picture(session, recipe.picture.sha256)
            document = recipe.model_dump(mode="json")
            if document == _revision(session, row, row.position).recipe:
                return _piece(session, row)
            for later in [r for r in row.revisions if r.number > row.position]:
                row.revisions.remove(later)
            session.flush()
            row.revisions.append(
                RevisionRow(number=row.position + 1, recipe=document, label=label[:120])
            )
            row.position += 1
            row.changed = now()
            if len(row.revisions) > _MOST_REVISIONS:
                row.revisions.remove(row.revisions[0])
            session.flush()
            return _piece(session, row)

    def undo(self, piece_id: str) -> Piece:
        """Go back one revision; at the first one nothing happens."""
        return self._step(piece_id, -1)

    def redo(self, piece_id: str) -> Piece:
        """Go forward one revision; at the last one nothing happens."""
        return self._step(piece_id, 1)

    def _step(self, piece_id: str, way: int) -> Piece:
        with transaction(self._sessions) as session:
            row = _get(session, piece_id)
            if _find_revision(session, row, row.position + way) is not None:
                row.position += way
                row.changed = now()
            return _piece(session, row)

    def _purge(self) -> None:
        """Forget pieces deleted long ago, and the picture files that no recipe names."""
        with transaction(self._sessions) as session:
            old = list(
                session.scalars(select(PieceRow).where(PieceRow.deleted < now() - _KEEP_DELETED))
            )
            if not old:
                return
            for row in old:
                session.delete(row)
            session.flush()
            for motif in session.scalars(
                select(MotifRow).where(MotifRow.deleted < now() - _KEEP_DELETED)
            ):
                session.delete(motif)
            session.flush()
            used = set(session.scalars(select(MotifRow.sha256)))
            for recipe in session.scalars(select(RevisionRow.recipe)):
                used.update(picture_names(load_recipe(recipe)))
            for picture in session.scalars(select(PictureRow)).all():
                if picture.sha256 not in used:
                    session.delete(picture)
                    picture_path(self.pictures, picture.sha256).unlink(missing_ok=True)


def _make(path: Path) -> None:
    from nebrel.core.errors import StorageFailed

    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StorageFailed(
            str(path), f"the folder cannot be made ({error.strerror})", "Choose another with --data"
        ) from error


def _get(session: Session, piece_id: str, deleted: bool = False) -> PieceRow:
    row = session.get(PieceRow, piece_id)
    if row is None or (row.deleted is not None and not deleted):
        raise NotFound("piece", "it does not exist or was deleted", "Go back to the shelf")
    return row


def _get_picture(session: Session, sha256: str) -> PictureRow:
    row = session.get(PictureRow, sha256)
    if row is None:
        raise NotFound("picture", "it is not in this data folder", "Bring the picture again")
    return row


def _find_revision(session: Session, row: PieceRow, number: int) -> RevisionRow | None:
    return session.scalar(
        select(RevisionRow).where(RevisionRow.piece_id == row.id, RevisionRow.number == number)
    )


def _revision(session: Session, row: PieceRow, number: int) -> RevisionRow:
    revision = _find_revision(session, row, number)
    if revision is None:
        newest = session.scalar(
            select(func.max(RevisionRow.number)).where(RevisionRow.piece_id == row.id)
        )
        raise NotFound(
            "revision", f"number {number} is gone (newest is {newest})", "Load the piece again"
        )
    return revision


def _piece(session: Session, row: PieceRow) -> Piece:
    current = _revision(session, row, row.position)
    before = _find_revision(session, row, row.position - 1)
    after = _find_revision(session, row, row.position + 1)
    recipe = load_recipe(current.recipe)
    picture = _picture_info(_get_picture(session, recipe.picture.sha256))
    if recipe.picture.filename:
        picture = replace(picture, filename=recipe.picture.filename)
    return Piece(
        id=row.id,
        name=row.name,
        changed=row.changed,
        revision=row.position,
        recipe=recipe,
        undo=None if before is None else current.label or "change",
        redo=None if after is None else after.label or "change",
        picture=picture,
    )


def _picture_row(sha256: str, filename: str, picture: Picture, size: int) -> PictureRow:
    return PictureRow(
        sha256=sha256,
        filename=filename[:255],
        file_format=picture.file_format,
        cols=picture.cols,
        rows=picture.rows,
        bit_depth=picture.bit_depth,
        coloured=picture.pixels.ndim == 3,
        transparent=picture.alpha is not None,
        dpi=picture.dpi,
        bytes=size,
        notes=list(picture.notes),
        created=now(),
    )


def _picture_info(row: PictureRow) -> PictureInfo:
    return PictureInfo(
        row.sha256,
        row.filename,
        row.file_format,
        row.cols,
        row.rows,
        row.bit_depth,
        row.coloured,
        row.transparent,
        row.dpi,
        tuple(row.notes),
    )
