"""Pieces, pictures and revisions, as the application uses them."""

from __future__ import annotations

import hashlib
import json
import re
import uuid
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import String, delete, select, type_coerce
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.data import HeightScale, Picture
from nebrel.core.errors import (
    Conflict,
    InvalidRecipe,
    InvalidValue,
    NebrelError,
    NotFound,
    StorageFailed,
)
from nebrel.core.formats.files import writing
from nebrel.core.picture.decode import PictureLimits, decode
from nebrel.core.picture.resample import display_bytes
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.models import (
    SCHEMA_VERSION,
    MadeWith,
    Recipe,
    default_recipe,
    load_recipe,
    picture_path,
)
from nebrel.store.database import open_database, reading, transaction
from nebrel.store.folder_lock import FolderLock
from nebrel.store.models import MotifRow, PictureRow, PieceRow, RevisionRow, now
from nebrel.store.motifs import Motifs
from nebrel.store.names import clean_name
from nebrel.store.workshop import Workshop

_KEEP_DELETED = timedelta(days=30)
_KEEP_UNUSED = timedelta(days=1)  # a picture may be brought a while before a recipe names it
_MOST_REVISIONS = 2000
_VIEW_PX = 640
_DIGEST = re.compile(r'"([0-9a-f]{64})"')

# A recipe as it lies in its row: reading the row must not fail because the recipe is damaged.
_RECIPE = type_coerce(RevisionRow.recipe, String)


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
    """A piece as it stands now.

    Attributes
    ----------
    state : another one whenever its place in the history or its recipe is another
    undo, redo : what would be undone and redone, or None
    """

    id: str
    name: str
    changed: datetime
    revision: int
    state: str
    recipe: Recipe
    undo: str | None
    redo: str | None
    picture: PictureInfo


@dataclass(frozen=True)
class Card:
    """A piece as the shelf shows it.

    Attributes
    ----------
    recipe, picture : None when they cannot be read
    trouble : what is wrong with it and what to do, or nothing
    """

    id: str
    name: str
    changed: datetime
    revision: int
    recipe: Recipe | None
    picture: PictureInfo | None
    trouble: str = ""


class Store:
    """All that is kept in one data folder.

    Parameters
    ----------
    folder : made when missing; an older one is migrated on opening; held until it is closed

    Raises
    ------
    StorageFailed : the folder cannot be made, opened or migrated, or is in use
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.pictures = folder / "pictures"
        self.cache = folder / "cache"
        for path in (folder, self.pictures, self.cache):
            _make(path)
        self._lock = FolderLock(folder)
        try:
            self._engine = open_database(folder / "nebrel.db")
            self._sessions = sessionmaker(self._engine, expire_on_commit=False)
            self.motifs = Motifs(self._sessions)
            self.workshop = Workshop(self._sessions)
            self._purge()
        except BaseException:
            self._lock.release()
            raise

    def close(self) -> None:
        """Let go of the database and the folder."""
        self._engine.dispose()
        self._lock.release()

    # Pictures

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
        path = picture_path(self.pictures, sha256)
        if not _holds(path, sha256, len(data)):
            _make(path.parent)
            with writing(path, filename, through=True) as file:
                file.write(data)
        self._keep_view(sha256, picture)
        with transaction(self._sessions) as session:
            row = session.get(PictureRow, sha256)
            if row is None:
                row = _picture_row(sha256, filename, picture, len(data))
                session.add(row)
            # The same bytes may come again under another name.
            return replace(_picture_info(row), filename=filename, heights=picture.heights)

    def picture_info(self, sha256: str) -> PictureInfo:
        """What is known of a kept picture."""
        with reading(self._sessions) as session:
            return _picture_info(_get_picture(session, sha256))

    def load_picture(self, sha256: str) -> Picture:
        """Decode a kept picture. Raises NotFound, UnreadableFile."""
        info = self.picture_info(sha256)
        return decode(self._picture_file(info), info.filename)

    def picture_view(self, sha256: str) -> Path:
        """A small PNG of a kept picture. Raises NotFound, UnreadableFile."""
        path = self.cache / f"view-{sha256}.png"
        return path if path.exists() else self._keep_view(sha256, self.load_picture(sha256))

    def _keep_view(self, sha256: str, picture: Picture) -> Path:
        path = self.cache / f"view-{sha256}.png"
        if not path.exists():
            with writing(path, "view") as file:
                file.write(display_bytes(picture, _VIEW_PX))
        return path

    def picture_file(self, sha256: str) -> Path:
        """Where a kept picture lies, as it was brought. Raises NotFound."""
        return self._picture_file(self.picture_info(sha256))

    def _picture_file(self, info: PictureInfo) -> Path:
        path = picture_path(self.pictures, info.sha256)
        if not path.is_file():
            raise _lost(info.filename)
        return path

    # Pieces

    def pieces(self, query: str = "") -> list[Card]:
        """All pieces that are not deleted, newest change first, filtered by name."""
        statement = (
            select(PieceRow, _RECIPE)
            .outerjoin(
                RevisionRow,
                (RevisionRow.piece_id == PieceRow.id) & (RevisionRow.number == PieceRow.position),
            )
            .where(PieceRow.deleted.is_(None))
            .order_by(PieceRow.changed.desc(), PieceRow.id)
        )
        for word in query.split():
            statement = statement.where(PieceRow.name.icontains(word, autoescape=True))
        with reading(self._sessions) as session:
            found = session.execute(statement).all()
            pictures = {row.sha256: row for row in session.scalars(select(PictureRow))}
        return [self._card(row, text, pictures) for row, text in found]

    def _card(self, row: PieceRow, text: str | None, pictures: dict[str, PictureRow]) -> Card:
        recipe: Recipe | None = None
        picture: PictureInfo | None = None
        trouble = ""
        try:
            recipe = _load(text, row)
            kept = [pictures.get(name) for name in files_of(recipe)]
            if kept[0] is not None:
                picture = _picture_info(kept[0])
            named = recipe.begins.art.pictured.file.filename
            if named and picture is not None:
                picture = replace(picture, filename=named)
            for found in kept:
                if found is None:
                    raise _lost("picture")
                path = picture_path(self.pictures, found.sha256)
                if not path.is_file() or path.stat().st_size != found.bytes:
                    raise _lost(found.filename)
        except NebrelError as error:
            unreadable = isinstance(error, InvalidRecipe)
            remedy = "Undo its last change, in its menu" if unreadable else error.remedy
            trouble = f"{error.what}: {error.why}. {remedy}."
        return Card(row.id, row.name, row.changed, row.position, recipe, picture, trouble)

    def create_piece(
        self, picture: PictureInfo, name: str = "", recipe: Recipe | None = None
    ) -> Piece:
        """A new piece from a kept picture."""
        if recipe is None:
            recipe = default_recipe(
                picture.sha256, picture.rows, picture.cols, picture.filename, picture.heights
            ).model_copy(update={"made_with": self._last_used()})
        name = clean_name(name) or clean_name(Path(picture.filename).stem) or "New piece"
        with transaction(self._sessions) as session:
            _check_pictures(session, recipe)
            row = PieceRow(id=uuid.uuid4().hex, name=name, position=1, created=now(), changed=now())
            session.add(row)
            session.flush()
            session.add(_revision_row(row, recipe.model_dump(mode="json"), "picture brought"))
            session.flush()
            return _piece(session, row, recipe)

    def _last_used(self) -> MadeWith:
        """Printer and material of the piece changed last, as the workshop knows them now."""
        statement = (
            select(_RECIPE)
            .join(PieceRow, RevisionRow.piece_id == PieceRow.id)
            .where(PieceRow.deleted.is_(None), RevisionRow.number == PieceRow.position)
            .order_by(PieceRow.changed.desc())
        )
        with reading(self._sessions) as session:
            text = session.scalar(statement.limit(1))
        try:
            last = load_recipe(text).made_with if text else MadeWith()
        except NebrelError:
            last = MadeWith()
        found: dict[str, Printer | Material] = {}
        printers, materials = self.workshop.printers.all(), self.workshop.materials.all()
        if printers:
            own = last.printer.id
            found["printer"] = next((p for p in printers if p.id == own), printers[0])
        if materials:
            own = last.material.id
            found["material"] = next((m for m in materials if m.id == own), materials[0])
        return MadeWith.model_validate(found)

    def piece(self, piece_id: str) -> Piece:
        """One piece.

        Raises
        ------
        NotFound : there is none, or it is deleted
        InvalidRecipe : its recipe cannot be read
        """
        with reading(self._sessions) as session:
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
        with reading(self._sessions) as session:
            taken = set(session.scalars(select(PieceRow.name).where(PieceRow.deleted.is_(None))))
        base = re.sub(r", copy( \d+)?$", "", original.name)[:180]
        names = [f"{base}, copy"] + [f"{base}, copy {i}" for i in range(2, len(taken) + 3)]
        name = next(candidate for candidate in names if candidate not in taken)
        return self.create_piece(original.picture, name, original.recipe)

    def delete(self, piece_id: str) -> None:
        """Take a piece off the shelf; `restore` brings it back for thirty days."""
        with transaction(self._sessions) as session:
            _get(session, piece_id).deleted = now()

    def restore(self, piece_id: str) -> Card:
        """Bring a deleted piece back as it was, readable or not."""
        with transaction(self._sessions) as session:
            row = _get(session, piece_id, deleted=True)
            row.deleted = None
            text = _recipe_text(session, row, row.position)
            pictures = {found.sha256: found for found in session.scalars(select(PictureRow))}
        return self._card(row, text, pictures)

    # Revisions

    def change(
        self,
        piece_id: str,
        recipe: Recipe,
        label: str = "",
        base: int | None = None,
        *,
        state: str | None = None,
        amend: bool = False,
    ) -> Piece:
        """Keep a new state of the recipe; what could be redone is given up.

        Parameters
        ----------
        base, state : the revision, the state, that the change was made on
        amend : the current revision becomes this one, instead of a new one being made

        Raises
        ------
        Conflict : the piece stands at another revision or state by now
        NotFound : the piece or a picture of the recipe does not exist
        """
        with transaction(self._sessions) as session:
            row = _get(session, piece_id)
            text = _recipe_text(session, row, row.position)
            document = recipe.model_dump(mode="json")
            _check_pictures(session, recipe)
            if document == _document(text):
                return _piece(session, row, recipe, text)
            _check_state(row, text, base, state)
            own = RevisionRow.piece_id == row.id
            session.execute(delete(RevisionRow).where(own, RevisionRow.number > row.position))
            if amend and row.position > 1:
                here = RevisionRow.number == row.position
                session.execute(delete(RevisionRow).where(own, here))
            else:
                row.position += 1
            row.changed = now()
            session.add(_revision_row(row, document, label[:120]))
            far = row.position - _MOST_REVISIONS
            session.execute(delete(RevisionRow).where(own, RevisionRow.number <= far))
            session.flush()
            return _piece(session, row, recipe, json.dumps(document))

    def state(self, piece_id: str) -> tuple[str, str]:
        """State and name of a piece, its recipe unread. Raises NotFound."""
        with reading(self._sessions) as session:
            row = _get(session, piece_id)
            return _state(row, _recipe_text(session, row, row.position)), row.name

    def undo(self, piece_id: str, state: str | None = None) -> Piece:
        """Go back one revision; at the first one nothing happens.

        Parameters
        ----------
        state : the one that is to be left; raises Conflict when it is another by now
        """
        return self._step(piece_id, -1, state)

    def redo(self, piece_id: str, state: str | None = None) -> Piece:
        """Go forward one revision; at the last one nothing happens. As `undo`."""
        return self._step(piece_id, 1, state)

    def _step(self, piece_id: str, way: int, state: str | None) -> Piece:
        with transaction(self._sessions) as session:
            row = _get(session, piece_id)
            if state is not None:
                _check_state(row, _recipe_text(session, row, row.position), None, state)
            if row.position + way in _labels(session, row):
                row.position += way
                row.changed = now()
            return _piece(session, row)

    def _purge(self) -> None:
        """Forget what was deleted long ago, and the picture files that nothing names any more.

        Recipes are only searched for names of files, so one that cannot be read does no harm.
        """
        long_ago = now() - _KEEP_DELETED
        with transaction(self._sessions) as session:
            old = PieceRow.deleted < long_ago
            forgotten = select(_RECIPE).join(PieceRow, RevisionRow.piece_id == PieceRow.id)
            named = {
                name
                for text in session.scalars(forgotten.where(old))
                for name in _DIGEST.findall(text or "")
            }
            session.execute(delete(PieceRow).where(old))
            session.execute(delete(MotifRow).where(MotifRow.deleted < long_ago))
            unused = {
                sha256
                for sha256, created in session.execute(
                    select(PictureRow.sha256, PictureRow.created)
                )
                if sha256 in named or created < now() - _KEEP_UNUSED
            }
            unused.difference_update(session.scalars(select(MotifRow.sha256)))
            recipes = select(_RECIPE).order_by(RevisionRow.id.desc())
            for text in session.scalars(recipes.execution_options(yield_per=50)):
                if not unused:
                    return
                unused.difference_update(_DIGEST.findall(text or ""))
            session.execute(delete(PictureRow).where(PictureRow.sha256.in_(unused)))
        for sha256 in unused:
            picture_path(self.pictures, sha256).unlink(missing_ok=True)


def _make(path: Path) -> None:
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


def _lost(filename: str) -> NotFound:
    return NotFound(
        filename,
        "its file is missing from the data folder, or cut short",
        "Bring the same picture again, and every piece made from it is whole again",
    )


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


def _check_pictures(session: Session, recipe: Recipe) -> None:
    """It has a picture, and all that the recipe names are known. Raises NotFound."""
    _ = recipe.begins.art.pictured
    names = set(files_of(recipe))
    known = select(PictureRow.sha256).where(PictureRow.sha256.in_(names))
    if names - set(session.scalars(known)):
        raise NotFound("picture", "it is not in this data folder", "Bring the picture again")


def _state(row: PieceRow, text: str | None) -> str:
    found = hashlib.blake2b(f"{row.position} {text}".encode(), digest_size=12)
    return found.hexdigest()


def _check_state(row: PieceRow, text: str | None, base: int | None, state: str | None) -> None:
    """Raises Conflict when a piece is not at the revision, or in the state, it is taken to be."""
    other = base is not None and base != row.position
    if other or (state is not None and state != _state(row, text)):
        raise Conflict(
            "piece",
            "it was changed in another window",
            "Load it again; your last change was not kept",
        )


def _recipe_text(session: Session, row: PieceRow, number: int) -> str | None:
    statement = select(_RECIPE).where(RevisionRow.piece_id == row.id, RevisionRow.number == number)
    text: str | None = session.scalar(statement)
    return text


def _document(text: str | None) -> Any:
    """A recipe as it is kept, in the schema of today; None when it cannot be read."""
    try:
        found = json.loads(text or "null")
        return found if _is_of_today(found) else load_recipe(found).model_dump(mode="json")
    except (ValueError, RecursionError, NebrelError):
        return None


def _is_of_today(document: Any) -> bool:
    known = isinstance(document, dict)
    return not known or document.get("schema_version") == SCHEMA_VERSION


def _load(text: str | None, row: PieceRow) -> Recipe:
    """The recipe of a row. Raises InvalidRecipe, NotFound."""
    if text is None:
        raise NotFound("revision", f"number {row.position} is gone", "Undo, or delete the piece")
    try:
        return load_recipe(text)
    except NebrelError as error:
        if error.what == "recipe":
            raise
        raise InvalidRecipe(
            "recipe",
            f"it cannot be read ({error.what}: {error.why})",
            "Undo the last change of the piece, or update Nebrel if a newer one made it",
        ) from error


def _labels(session: Session, row: PieceRow) -> dict[int, str]:
    """Labels of the revision before, the current one and the one after, where they are."""
    around = range(row.position - 1, row.position + 2)
    statement = select(RevisionRow.number, RevisionRow.label).where(
        RevisionRow.piece_id == row.id, RevisionRow.number.in_(around)
    )
    return dict(session.execute(statement).all())


def _revision_row(row: PieceRow, document: dict[str, Any], label: str) -> RevisionRow:
    return RevisionRow(piece_id=row.id, number=row.position, recipe=document, label=label)


def _piece(
    session: Session, row: PieceRow, recipe: Recipe | None = None, text: str | None = None
) -> Piece:
    """A piece with its neighbours in the history; its recipe and that as kept when at hand."""
    labels = _labels(session, row)
    if text is None:
        text = _recipe_text(session, row, row.position)
    if recipe is None:
        recipe = _load(text, row)
    file = recipe.begins.art.pictured.file
    picture = _picture_info(_get_picture(session, file.sha256))
    if file.filename:
        picture = replace(picture, filename=file.filename)
    here, after = labels.get(row.position, ""), labels.get(row.position + 1)
    return Piece(
        id=row.id,
        name=row.name,
        changed=row.changed,
        revision=row.position,
        state=_state(row, text),
        recipe=recipe,
        undo=here or "change" if row.position - 1 in labels else None,
        redo=None if after is None else after or "change",
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
