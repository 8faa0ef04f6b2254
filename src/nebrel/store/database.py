"""Opening the database: pragmas, migrations, and disk errors in our own words."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker

from nebrel.core.errors import StorageFailed


def open_database(path: Path) -> Engine:
    """An engine on the file, in WAL mode with foreign keys on, migrated to the newest tables.

    Raises
    ------
    StorageFailed : the file cannot be opened, written or migrated
    """
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 15})

    @event.listens_for(engine, "connect")
    def _prepare(connection: Any, _: Any) -> None:
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA foreign_keys=ON")
        connection.execute("PRAGMA synchronous=NORMAL")

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    try:
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    except Exception as error:
        engine.dispose()
        raise StorageFailed(
            path.name,
            f"the data folder cannot be opened ({str(error).splitlines()[0][:120]})",
            "Choose another with --data, or update Nebrel if a newer one made it",
        ) from error
    return engine


@contextmanager
def transaction(sessions: sessionmaker[Session]) -> Iterator[Session]:
    """A session that commits at the end or changes nothing.

    Raises
    ------
    StorageFailed : the disk is full or the database refuses
    """
    try:
        with sessions.begin() as session:
            yield session
    except DatabaseError as error:
        raise StorageFailed(
            "data folder",
            f"the change cannot be kept ({str(error.orig)[:120]})",
            "Free some space and try again; what was saved before is unchanged",
        ) from error
