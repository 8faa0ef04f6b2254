"""The workshop: what is at hand to make pieces with."""

from __future__ import annotations

import uuid
from typing import Generic, TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.errors import InvalidValue, NotFound
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.store.database import reading, transaction
from nebrel.store.models import AtHandRow, MaterialRow, PrinterRow, now
from nebrel.store.names import clean_name

Thing = TypeVar("Thing", Printer, Material)


class Rack(Generic[Thing]):
    """All things of one kind at hand; what is deleted can be brought back."""

    def __init__(
        self,
        sessions: sessionmaker[Session],
        kind: str,
        thing: type[Thing],
        row: type[AtHandRow],
    ) -> None:
        self._sessions, self._kind, self._row = sessions, kind, row
        self._thing: type[Thing] = thing

    def all(self) -> list[Thing]:
        """Everything, in the order in which it came."""
        statement = select(self._row).where(self._row.deleted.is_(None))
        with reading(self._sessions) as session:
            rows = session.scalars(statement.order_by(self._row.created, self._row.name))
            return [self._read(row) for row in rows]

    def add(self, thing: Thing) -> Thing:
        """Keep a new one, under an id of its own."""
        kept = thing.model_copy(update={"id": uuid.uuid4().hex, "name": self._name(thing)})
        with transaction(self._sessions) as session:
            session.add(self._row(**kept.model_dump(), created=now()))
        return kept

    def change(self, thing: Thing) -> Thing:
        """Give one other figures. Pieces keep those that they were made with. Raises NotFound."""
        kept = thing.model_copy(update={"name": self._name(thing)})
        with transaction(self._sessions) as session:
            row = self._get(session, thing.id)
            for name, value in kept.model_dump().items():
                setattr(row, name, value)
        return kept

    def delete(self, thing_id: str) -> None:
        """Take one out; the last of its kind stays. Raises NotFound, InvalidValue."""
        with transaction(self._sessions) as session:
            row = self._get(session, thing_id)
            others = select(self._row).where(self._row.deleted.is_(None), self._row.id != thing_id)
            if session.scalars(others).first() is None:
                raise InvalidValue(
                    self._kind, "it is the last one", "Add another first, or change this one"
                )
            row.deleted = now()

    def restore(self, thing_id: str) -> Thing:
        """Bring a deleted one back."""
        with transaction(self._sessions) as session:
            row = self._get(session, thing_id, deleted=True)
            row.deleted = None
            return self._read(row)

    def _name(self, thing: Thing) -> str:
        name = clean_name(thing.name)[:80]
        if not name:
            raise InvalidValue("name", "it is empty", "Type at least one letter")
        return name

    def _get(self, session: Session, thing_id: str, deleted: bool = False) -> AtHandRow:
        row = session.get(self._row, thing_id)
        if row is None or (row.deleted is not None and not deleted):
            raise NotFound(self._kind, "it is not in the workshop", "Look at the workshop again")
        return row

    def _read(self, row: AtHandRow) -> Thing:
        return self._thing(**{name: getattr(row, name) for name in self._thing.model_fields})


class Workshop:
    """Printers and materials of one data folder."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self.printers = Rack(sessions, "printer", Printer, PrinterRow)
        self.materials = Rack(sessions, "material", Material, MaterialRow)
