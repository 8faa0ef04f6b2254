"""Opening the database: pragmas, migrations, and disk errors in our own words."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event, inspect
from sqlalchemy.exc import DatabaseError, IntegrityError
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.errors import Conflict, StorageFailed

_WAIT_S = 15
_MIGRATIONS = Path(__file__).parent / "migrations"
_WRITES = "nebrel_writes"


def open_database(path: Path) -> Engine:
    """An engine on the file, in WAL mode with foreign keys on, migrated to the newest tables.

    Raises
    ------
    StorageFailed : the file cannot be opened, written or migrated
    """
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": _WAIT_S})

    @event.listens_for(engine, "connect")
    def _prepare(connection: Any, _: Any) -> None:
        # The driver must not begin transactions by itself: it would begin them after the reads.
        connection.isolation_level = None
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA foreign_keys=ON")
        connection.execute("PRAGMA synchronous=NORMAL")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        writes = connection.get_execution_options().get(_WRITES, True)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")

    try:
        with engine.begin() as connection:
            if not _newest(connection):
                _migrate(connection)
    except Exception as error:
        engine.dispose()
        raise StorageFailed(
            path.name,
            f"the data folder cannot be opened ({str(error).splitlines()[0][:120]})",
            "Choose another with --data, or update Nebrel if a newer one made it",
        ) from error
    return engine


def _newest(connection: Connection) -> bool:
    """Whether the tables are those of today, so that nothing has to be loaded to change them."""
    if not inspect(connection).has_table("alembic_version"):
        return False
    found = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalars().all()
    names = (path.stem for path in (_MIGRATIONS / "versions").glob("[0-9]*.py"))
    return found == [max(names).partition("_")[0]]


def _migrate(connection: Connection) -> None:
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["connection"] = connection
    command.upgrade(config, "head")


@contextmanager
def transaction(sessions: sessionmaker[Session]) -> Iterator[Session]:
    """A session that writes: nobody else writes meanwhile; it commits at the end or not at all.

    It begins immediately, so that what it reads is still so when it writes.

    Raises
    ------
    StorageFailed : the disk is full or the database refuses
    Conflict : another transaction holds the database for longer than it is waited for
    """
    try:
        with sessions.begin() as session:
            yield session
    except DatabaseError as error:
        raise _explain(error) from error


@contextmanager
def reading(sessions: sessionmaker[Session]) -> Iterator[Session]:
    """A session that only reads, from one state of the database; it waits for no writer.

    Raises
    ------
    StorageFailed, Conflict : as `transaction`
    """
    try:
        with sessions() as session:
            session.connection(execution_options={_WRITES: False})
            yield session
    except DatabaseError as error:
        raise _explain(error) from error


def _explain(error: DatabaseError) -> StorageFailed | Conflict:
    why = str(error.orig)
    if "locked" in why or "busy" in why:
        return Conflict(
            "data folder",
            f"another change has been under way for over {_WAIT_S} s",
            "Try again in a moment; what was saved before is unchanged",
        )
    if isinstance(error, IntegrityError) and "full" not in why:
        return Conflict(
            "data folder",
            "the same was changed by somebody else at the same moment",
            "Load it again and try once more; what was saved before is unchanged",
        )
    return StorageFailed(
        "data folder",
        f"the change cannot be kept ({why[:120]})",
        "Free some space and try again; what was saved before is unchanged",
    )
