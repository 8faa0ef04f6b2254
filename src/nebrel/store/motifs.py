"""The small library of motifs: cleaned pictures kept for reuse."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.errors import InvalidValue, NotFound
from nebrel.core.recipe.decoration import Decoration
from nebrel.store.database import reading, transaction
from nebrel.store.models import MotifRow, now
from nebrel.store.names import clean_name

_MOST_TAGS = 12


@dataclass(frozen=True)
class Motif:
    """A kept picture, its name and its tags.

    Attributes
    ----------
    decoration : what the picture is of, with all its numbers, where it was kept from a body
    """

    id: str
    name: str
    tags: tuple[str, ...]
    sha256: str
    wide_mm: float
    created: datetime
    decoration: Decoration | None = None


class Motifs:
    """The motifs of one data folder."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def all(self, query: str = "") -> list[Motif]:
        """Every motif whose name or tags hold each word, newest first."""
        words = query.lower().split()
        with reading(self._sessions) as session:
            rows = session.scalars(
                select(MotifRow)
                .where(MotifRow.deleted.is_(None))
                .order_by(MotifRow.created.desc(), MotifRow.id)
            )
            found = [_motif(row) for row in rows]
        return [
            motif
            for motif in found
            if all(word in " ".join((motif.name, *motif.tags)).lower() for word in words)
        ]

    def keep(
        self,
        sha256: str,
        name: str,
        tags: Sequence[str],
        wide_mm: float,
        decoration: Decoration | None = None,
    ) -> Motif:
        """Keep a picture that is in the store already.

        Raises
        ------
        InvalidValue : the name is empty
        """
        with transaction(self._sessions) as session:
            row = MotifRow(
                id=uuid.uuid4().hex,
                name=_name(name),
                tags=_tags(tags),
                sha256=sha256,
                wide_mm=wide_mm,
                decoration=None if decoration is None else decoration.model_dump(mode="json"),
                created=now(),
            )
            session.add(row)
            session.flush()
            return _motif(row)

    def get(self, motif_id: str) -> Motif:
        """One motif. Raises NotFound."""
        with reading(self._sessions) as session:
            return _motif(_get(session, motif_id))

    def change(self, motif_id: str, name: str, tags: Sequence[str]) -> Motif:
        """Give it another name and other tags."""
        with transaction(self._sessions) as session:
            row = _get(session, motif_id)
            row.name, row.tags = _name(name), _tags(tags)
            return _motif(row)

    def delete(self, motif_id: str) -> None:
        """Take it out of the library; pieces that use its picture keep it."""
        with transaction(self._sessions) as session:
            _get(session, motif_id).deleted = now()

    def restore(self, motif_id: str) -> Motif:
        """Bring a deleted motif back."""
        with transaction(self._sessions) as session:
            row = _get(session, motif_id, deleted=True)
            row.deleted = None
            return _motif(row)


def _get(session: Session, motif_id: str, deleted: bool = False) -> MotifRow:
    row = session.get(MotifRow, motif_id)
    if row is None or (row.deleted is not None and not deleted):
        raise NotFound("motif", "it does not exist or was deleted", "Look on the shelf")
    return row


def _motif(row: MotifRow) -> Motif:
    decoration = None
    if row.decoration is not None:
        with suppress(ValidationError):
            decoration = Decoration.model_validate(row.decoration)
    tags = tuple(row.tags)
    return Motif(row.id, row.name, tags, row.sha256, row.wide_mm, row.created, decoration)


def _name(text: str) -> str:
    name = clean_name(text)
    if not name:
        raise InvalidValue("name", "it is empty", "Type at least one letter")
    return name


def _tags(tags: Sequence[str]) -> list[str]:
    cleaned = (" ".join(tag.lower().split())[:40] for tag in tags)
    return list(dict.fromkeys(tag for tag in cleaned if tag))[:_MOST_TAGS]
