"""Pieces, pictures and revisions, as the application uses them."""

from __future__ import annotations

import hashlib
import json
import re
import uuid
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from shutil import rmtree
from tempfile import TemporaryDirectory
from typing import Any

from pydantic import BaseModel
from sqlalchemy import String, delete, select, type_coerce, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.errors import (
    Conflict,
    InvalidRecipe,
    InvalidValue,
    NebrelError,
    NotFound,
)
from nebrel.core.formats.files import addressed, is_sha256
from nebrel.core.heights.raise_tones import size_mm
from nebrel.core.links.link import VERSION
from nebrel.core.products.bundle import unpacked_bundle
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.body import BodyBegin, ImportedBody, LinkedPiece
from nebrel.core.recipe.build_up import DrawingEntry
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.files import files_of, kinds_of, lost, names_of
from nebrel.core.recipe.length import Length
from nebrel.core.recipe.models import (
    SCHEMA_VERSION,
    MadeWith,
    Recipe,
    brought_recipe,
    default_recipe,
    drawn_recipe,
    load_recipe,
)
from nebrel.core.recipe.ready import ReadyBody, footprint_mm
from nebrel.core.recipe.step import DrawingFile, MeshFile, PictureFile
from nebrel.store.database import open_database, reading, transaction
from nebrel.store.folder_lock import FolderLock
from nebrel.store.kept_files import (
    KeptFiles,
    MeshInfo,
    PictureInfo,
    Source,
    get_file,
    make_folder,
    mesh_info,
    picture_info,
)
from nebrel.store.linked import Look, linked_ids, looked_at
from nebrel.store.models import FileRow, MotifRow, PieceRow, RevisionRow, UseRow, now
from nebrel.store.motifs import Motifs
from nebrel.store.names import clean_name
from nebrel.store.workshop import Workshop

_KEEP_DELETED = timedelta(days=30)
_KEEP_UNUSED = timedelta(days=1)  # a picture may be brought a while before a recipe names it
_MOST_REVISIONS = 2000
_MOST_ASKED, _MOST_WORDS = 400, 40  # letters and words of a search

# A recipe as it lies in its row: reading the row must not fail because the recipe is damaged.
_RECIPE = type_coerce(RevisionRow.recipe, String)


@dataclass(frozen=True)
class Revision:
    """One state of a piece: what was done last, and when (UTC)."""

    number: int
    label: str
    made: datetime


@dataclass(frozen=True)
class History:
    """The revisions of a piece, and the number of the one it stands at."""

    here: int
    revisions: tuple[Revision, ...]


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
    picture: PictureInfo | None
    mesh: MeshInfo | None = None

    @property
    def uncorrected_mm(self) -> tuple[float, float]:
        """Width and height before any correction, or finish step; 0 where that is not known."""
        if self.recipe.figure is not None:
            return 0.0, 0.0
        if self.picture is not None:
            step, info = self.recipe.pictured, self.picture
            return size_mm(info.rows, info.cols, step.along, step.side.mm)
        body = self.recipe.body
        if body is None or body.moved:
            return 0.0, 0.0
        imported = body.imported
        if imported is not None and self.mesh is not None:
            x, y, z = self.mesh.size_mm(imported.unit)
            return (x, z) if imported.up == "y" else (x, y)
        return footprint_mm(body.body)


class CardFacts(BaseModel):
    """What the shelf shows of a recipe, kept with the piece so that nothing is evaluated for it.

    Attributes
    ----------
    of : tells the recipe that it was made of
    key : of the rendered card
    form : what its form is called
    wide_mm, tall_mm : of the picture; after its corrections once that is `sized`
    files : that the recipe names
    """

    of: str
    key: str
    form: str
    wide_mm: float
    tall_mm: float
    sized: bool
    files: list[str]


@dataclass(frozen=True)
class Card:
    """A piece as the shelf shows it.

    Attributes
    ----------
    of : tells its recipe
    facts : None when they were not kept of this recipe yet
    trouble : what is wrong with it and what to do, or nothing
    """

    id: str
    name: str
    changed: datetime
    revision: int
    of: str
    facts: CardFacts | None
    trouble: str = ""


class Store(KeptFiles):
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
        for path in (folder, folder / "pictures", folder / "cache"):
            make_folder(path)
        for path, mode in ((folder, 0o700), (folder / "nebrel.db", 0o600)):
            with suppress(OSError):  # not there yet, or on a disk that knows of no owners
                path.chmod(mode)
        self._lock = FolderLock(folder)
        try:
            self._engine = open_database(folder / "nebrel.db")
            self.sessions = sessionmaker(self._engine, expire_on_commit=False)
            super().__init__(folder, self.sessions)
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
        # No name has more; and a question has an end.
        for word in query[:_MOST_ASKED].split()[:_MOST_WORDS]:
            statement = statement.where(PieceRow.name.icontains(word, autoescape=True))
        with reading(self._sessions) as session:
            found = session.execute(statement).all()
            files = {row.sha256: row for row in session.scalars(select(FileRow))}
        # A piece is seen anew when one that it is joined with has become another.
        texts = {row.id: text for row, text in found}
        return [self._card(row, text, files, texts) for row, text in found]

    def _card(
        self,
        row: PieceRow,
        text: str | None,
        files: dict[str, FileRow],
        others: Mapping[str, str | None] | None = None,
    ) -> Card:
        linked = [(others or {}).get(one) for one in linked_ids(text)]
        of, trouble = _told_by(f"{text} {linked}" if linked else text), ""
        kept = row.card or {}
        facts = CardFacts(**kept) if kept.get("of") == of else None
        try:
            names = files_of(_load(text, row)) if facts is None else facts.files
            for name in names:
                self._check_file(files.get(name))
        except NebrelError as error:
            unreadable = isinstance(error, InvalidRecipe)
            remedy = "Undo its last change, in its menu" if unreadable else error.remedy
            trouble = f"{error.what}: {error.why}. {remedy}."
        return Card(row.id, row.name, row.changed, row.position, of, facts, trouble)

    def _check_file(self, row: FileRow | None) -> None:
        if row is None:
            raise lost("picture")
        path = addressed(self.pictures, row.sha256)
        if not path.is_file() or path.stat().st_size != row.bytes:
            raise lost(row.filename)

    def keep_cards(self, facts: Mapping[str, CardFacts]) -> None:
        """Keep what the shelf shows of pieces, by their ids."""
        with transaction(self._sessions) as session:
            for piece_id, card in facts.items():
                statement = update(PieceRow).where(PieceRow.id == piece_id)
                session.execute(statement.values(card=card.model_dump()))

    def keep_size(self, key: str, wide_mm: float, tall_mm: float) -> None:
        """Keep the size that a card came to, for every piece with that card."""
        with transaction(self._sessions) as session:
            rows = session.scalars(select(PieceRow).where(PieceRow.card["key"].as_string() == key))
            for row in rows:
                size = {"wide_mm": wide_mm, "tall_mm": tall_mm, "sized": True}
                row.card = (row.card or {}) | size

    def create_from_mesh(self, source: Source, filename: str, name: str = "") -> Piece:
        """A new piece from a mesh file.

        Raises
        ------
        UnreadableFile, TooLarge, StorageFailed : as `add_mesh`
        """
        info = self.add_mesh(source, filename)
        kept = MeshFile(sha256=info.sha256, filename=info.filename)
        recipe = brought_recipe(kept, "file" if info.unit is not None else info.guess)
        recipe = recipe.model_copy(update={"made_with": self._last_used()})
        name = clean_name(name) or clean_name(Path(info.filename).stem)
        return self._create(recipe, name, "mesh brought")

    def create_from_body(self, body: LinkedPiece | ReadyBody, name: str = "") -> Piece:
        """A new piece that begins as a ready shape, or as another piece of the shelf.

        Raises
        ------
        NotFound : there is no such piece
        """
        if isinstance(body, LinkedPiece):
            name = name or f"On {self.piece(body.piece_id).name}"
        recipe = Recipe(begins=BodyBegin(body=body), made_with=self._last_used())
        with reading(self._sessions) as session:
            recipe = looked_at(recipe, "", _look(session))
        return self._create(recipe, clean_name(name) or body.kind.capitalize(), "body begun")

    def create_from_recipe(self, recipe: Recipe, name: str, label: str) -> Piece:
        """A new piece with a recipe whose files are kept already. Raises NotFound."""
        return self._create(recipe, clean_name(name), label)

    def decorated(self) -> list[tuple[Piece, list[Decoration]]]:
        """Pieces with decorations, newest change first; those that cannot be read left out."""
        found = []
        for card in self.pieces():
            with suppress(NebrelError):
                piece = self.piece(card.id)
                if piece.recipe.body is not None:
                    laid = [d for d in piece.recipe.body.decorations if isinstance(d, Decoration)]
                    found += [(piece, laid)] if laid else []
        return found

    def create_from_bundle(self, path: str, filename: str, name: str = "") -> Piece:
        """A new piece from one in a file, with all that it is made from.

        Raises
        ------
        UnreadableFile, TooLarge, InvalidRecipe, StorageFailed : nothing is put on the shelf then
        """
        with TemporaryDirectory(dir=self.pictures, suffix=".part") as folder:
            recipe, files = self.reads(
                filename, unpacked_bundle, Path(path), Path(folder), filename
            )
            called, kinds = names_of(recipe), kinds_of(recipe)
            for sha256, file in files.items():
                self.add_file(kinds.get(sha256, "picture"), file, called.get(sha256, ""))
        name = clean_name(name) or clean_name(Path(filename).stem)
        return self._create(recipe, name, "piece brought")

    def check_files(self, recipe: Recipe) -> None:
        """That all a recipe names is kept here. Raises NotFound, InvalidRecipe."""
        with reading(self._sessions) as session:
            _check_pictures(session, recipe)

    def create_piece(
        self,
        picture: PictureInfo,
        name: str = "",
        recipe: Recipe | None = None,
        label: str = "picture brought",
    ) -> Piece:
        """A new piece from a kept picture."""
        if recipe is None:
            recipe = default_recipe(
                picture.sha256, picture.rows, picture.cols, picture.filename, picture.heights
            ).model_copy(update={"made_with": self._last_used()})
        return self._create(
            recipe, clean_name(name) or clean_name(Path(picture.filename).stem), label
        )

    def _create(self, recipe: Recipe, name: str, label: str) -> Piece:
        with transaction(self._sessions) as session:
            _check_pictures(session, recipe)
            row = PieceRow(
                id=uuid.uuid4().hex,
                name=name or "New piece",
                position=1,
                created=now(),
                changed=now(),
            )
            session.add(row)
            session.flush()
            session.add(_revision_row(row, recipe.model_dump(mode="json"), label))
            _use(session, row, recipe)
            session.flush()
            return _piece(session, row, recipe)

    def create_from_drawing(self, source: Source, filename: str, name: str = "") -> Piece:
        """A new piece from a drawing, kept with a picture of it to look at.

        Raises
        ------
        UnreadableFile, TooLarge, StorageFailed : as `add_drawing`
        """
        info, drawn = self.add_drawn(source, filename)
        side: dict[str, Any] = {}
        if drawn.along is not None:  # what it says cannot be meant: its true size is typed
            side = {"along": drawn.along, "side": Length(mm=drawn.side_mm)}
        picture = self.add_picture(drawn.png, info.filename)
        entry = DrawingEntry(
            file=DrawingFile(sha256=info.sha256, filename=info.filename),
            unit="file" if info.unit is not None else info.guess,
            **side,
        )
        file = PictureFile(sha256=picture.sha256, filename=info.filename)
        recipe = drawn_recipe(file, drawn.wide_mm, entry)
        made_with = {"made_with": self._last_used()}
        return self.create_piece(
            picture, name, recipe.model_copy(update=made_with), "drawing brought"
        )

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
        return self._create(original.recipe, name, "copied")

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
            files = {found.sha256: found for found in session.scalars(select(FileRow))}
        return self._card(row, text, files)

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
            recipe = looked_at(recipe, row.id, _look(session))
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
            _use(session, row, recipe)
            far = row.position - _MOST_REVISIONS
            session.execute(delete(RevisionRow).where(own, RevisionRow.number <= far))
            session.flush()
            return _piece(session, row, recipe, json.dumps(document))

    def state(self, piece_id: str) -> tuple[str, str]:
        """State and name of a piece, its recipe unread. Raises NotFound."""
        with reading(self._sessions) as session:
            row = _get(session, piece_id)
            text = _recipe_text(session, row, row.position)
            return _state(row, text) + _linked_state(session, text), row.name

    def undo(self, piece_id: str, state: str | None = None, steps: int = 1) -> Piece:
        """Go back some revisions, as far as there are any; at the first one nothing happens.

        Parameters
        ----------
        state : the one that is to be left; raises Conflict when it is another by now
        """
        return self._step(piece_id, -steps, state)

    def redo(self, piece_id: str, state: str | None = None, steps: int = 1) -> Piece:
        """Go forward some revisions; at the last one nothing happens. As `undo`."""
        return self._step(piece_id, steps, state)

    def _step(self, piece_id: str, way: int, state: str | None) -> Piece:
        with transaction(self._sessions) as session:
            row = _get(session, piece_id)
            if state is not None:
                _check_state(row, _recipe_text(session, row, row.position), None, state)
            own = select(RevisionRow.number).where(RevisionRow.piece_id == row.id)
            there = session.scalars(own).all()
            to = min(max(row.position + way, min(there)), max(there))
            if to != row.position:
                row.position = to
                row.changed = now()
            return _piece(session, row)

    def history(self, piece_id: str) -> History:
        """The revisions that can be gone to, the oldest first. Raises NotFound."""
        with reading(self._sessions) as session:
            row = _get(session, piece_id)
            own = select(RevisionRow.number, RevisionRow.label, RevisionRow.created)
            found = session.execute(
                own.where(RevisionRow.piece_id == row.id).order_by(RevisionRow.number)
            )
            revisions = tuple(
                Revision(number, label or "change", made) for number, label, made in found
            )
            return History(row.position, revisions)

    def _purge(self) -> None:
        """Forget what was deleted long ago, and the files that nothing uses any more."""
        long_ago = now() - _KEEP_DELETED
        with transaction(self._sessions) as session:
            old = PieceRow.deleted < long_ago
            forgotten = select(UseRow.sha256).join(PieceRow, UseRow.piece_id == PieceRow.id)
            named = set(session.scalars(forgotten.where(old)))
            session.execute(delete(PieceRow).where(old))
            session.execute(delete(MotifRow).where(MotifRow.deleted < long_ago))
            unused = select(FileRow.sha256, FileRow.created).where(
                FileRow.sha256.not_in(select(UseRow.sha256)),
                FileRow.sha256.not_in(select(MotifRow.sha256)),
            )
            laid = select(MotifRow.decoration).where(MotifRow.decoration.is_not(None))
            of_motifs = {name for one in session.scalars(laid) for name in _files_of(one)}
            gone = [
                sha256
                for sha256, created in session.execute(unused)
                if sha256 not in of_motifs
                if sha256 in named or created < now() - _KEEP_UNUSED
            ]
            session.execute(delete(FileRow).where(FileRow.sha256.in_(gone)))
        for sha256 in gone:
            addressed(self.pictures, sha256).unlink(missing_ok=True)
        self._sweep()

    def _sweep(self) -> None:
        """What a server that was ended was about to write, and files that no row names.

        The folder is held: nobody else writes here.
        """
        with reading(self._sessions) as session:
            known = set(session.scalars(select(FileRow.sha256)))
        for folder in (self.pictures, *self.pictures.glob("??"), self.cache):
            for path in folder.glob("*.part"):
                rmtree(path) if path.is_dir() else path.unlink(missing_ok=True)
        for path in self.pictures.glob("??/*"):
            if is_sha256(path.name) and path.name not in known:
                path.unlink(missing_ok=True)


def _files_of(document: Any) -> list[str]:
    """Of what was kept long ago, and may be damaged by now."""
    try:
        return files_of(document)
    except InvalidRecipe:
        return []


def _get(session: Session, piece_id: str, deleted: bool = False) -> PieceRow:
    row = session.get(PieceRow, piece_id)
    if row is None or (row.deleted is not None and not deleted):
        raise NotFound("piece", "it does not exist or was deleted", "Go back to the shelf")
    return row


def _check_pictures(session: Session, recipe: Recipe) -> None:
    """What it begins with, and all that the recipe names, are known. Raises NotFound."""
    if recipe.body is None:
        _ = recipe.pictured
    names = set(files_of(recipe))
    known = select(FileRow.sha256).where(FileRow.sha256.in_(names))
    if names - set(session.scalars(known)):
        raise NotFound("picture", "it is not in this data folder", "Bring the picture again")


def _state(row: PieceRow, text: str | None) -> str:
    found = hashlib.blake2b(f"{row.position} {text}".encode(), digest_size=12)
    return found.hexdigest()


def _look(session: Session) -> Look:
    """Pieces as they are by now."""

    def look(piece_id: str) -> tuple[str, str] | None:
        row = session.get(PieceRow, piece_id)
        if row is None or row.deleted is not None:
            return None
        text = _recipe_text(session, row, row.position)
        return None if text is None else (row.name, text)

    return look


def _linked_state(session: Session, text: str | None) -> str:
    """Another one whenever a piece that a recipe is joined with has become another."""
    ids = linked_ids(text)
    if not ids:
        return ""
    found = map(_look(session), ids)
    return "." + hashlib.blake2b(repr(list(found)).encode(), digest_size=8).hexdigest()


def _check_state(row: PieceRow, text: str | None, base: int | None, state: str | None) -> None:
    """Raises Conflict when a piece is not at the revision, or in the state, it is taken to be."""
    other = base is not None and base != row.position
    # What it is joined with may have changed meanwhile.
    if other or (state is not None and state.partition(".")[0] != _state(row, text)):
        raise Conflict(
            "piece",
            "it was changed in another window",
            "Load it again; your last change was not kept",
        )


def _told_by(text: str | None) -> str:
    """Another one whenever the recipe, or what is made of it, is another."""
    return hashlib.blake2b(f"{VERSION} {text}".encode(), digest_size=12).hexdigest()


def _use(session: Session, row: PieceRow, recipe: Recipe) -> None:
    """Remember which files a revision needs, as long as the piece is there."""
    names = files_of(recipe)
    if names:
        rows = [{"piece_id": row.id, "sha256": name} for name in names]
        session.execute(insert(UseRow).on_conflict_do_nothing(), rows)


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
        with suppress(InvalidValue):  # joined with what was joined with it meanwhile: as it was
            recipe = looked_at(recipe, row.id, _look(session))
    picture, mesh = None, None
    if recipe.body is not None:
        imported = recipe.body.imported
        if imported is not None:
            mesh = _called(mesh_info(get_file(session, imported.file.sha256)), imported)
    else:
        file = recipe.pictured.file
        picture = picture_info(get_file(session, file.sha256))
        if file.filename:
            picture = picture.model_copy(update={"filename": file.filename})
    here, after = labels.get(row.position, ""), labels.get(row.position + 1)
    return Piece(
        id=row.id,
        name=row.name,
        changed=row.changed,
        revision=row.position,
        state=_state(row, text) + _linked_state(session, text),
        recipe=recipe,
        undo=here or "change" if row.position - 1 in labels else None,
        redo=None if after is None else after or "change",
        picture=picture,
        mesh=mesh,
    )


def _called(info: MeshInfo, body: ImportedBody) -> MeshInfo:
    """The same, called as the recipe calls it."""
    name = body.file.filename
    return info.model_copy(update={"filename": name}) if name else info
