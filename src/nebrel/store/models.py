"""The tables."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, DateTime, Float, ForeignKey, Index, MetaData, String
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

_NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_name)s",
    "uq": "uq_%(table_name)s_%(column_0_name)s",
    "fk": "fk_%(table_name)s_%(column_0_name)s",
    "pk": "pk_%(table_name)s",
}


def now() -> datetime:
    """The present moment, UTC, without a zone as SQLite keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    """Common ground of all tables."""

    metadata = MetaData(naming_convention=_NAMING)


class FileRow(Base):
    """A kept file, under the SHA-256 of its bytes; its facts are those of its kind."""

    __tablename__ = "file"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    kind: Mapped[str] = mapped_column(String(16), default="picture")
    filename: Mapped[str] = mapped_column(String(255))
    bytes: Mapped[int]
    facts: Mapped[dict[str, Any]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(DateTime, default=now)


class PieceRow(Base):
    """One thing being made. `position` is the number of the revision it stands at."""

    __tablename__ = "piece"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    position: Mapped[int] = mapped_column(default=1)
    created: Mapped[datetime] = mapped_column(DateTime, default=now)
    changed: Mapped[datetime] = mapped_column(DateTime, default=now)
    deleted: Mapped[datetime | None] = mapped_column(DateTime, default=None)
    card: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), default=None)


class UseRow(Base):
    """A file that a revision of a piece names."""

    __tablename__ = "use"

    piece_id: Mapped[str] = mapped_column(
        ForeignKey("piece.id", ondelete="CASCADE"), primary_key=True
    )
    sha256: Mapped[str] = mapped_column(ForeignKey("file.sha256"), primary_key=True, index=True)


class RevisionRow(Base):
    """One state of a piece's recipe; those above the piece's position can be redone."""

    __tablename__ = "revision"
    __table_args__ = (Index("ix_revision_piece_number", "piece_id", "number", unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    piece_id: Mapped[str] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"))
    number: Mapped[int]
    recipe: Mapped[dict[str, Any]] = mapped_column(JSON)
    label: Mapped[str] = mapped_column(String(120), default="")
    created: Mapped[datetime] = mapped_column(DateTime, default=now)


class MotifRow(Base):
    """A cleaned picture kept for reuse, and the decoration that it is of, where it is of one."""

    __tablename__ = "motif"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    tags: Mapped[list[str]] = mapped_column(JSON)
    sha256: Mapped[str] = mapped_column(ForeignKey("file.sha256"))
    wide_mm: Mapped[float] = mapped_column(Float)
    decoration: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), default=None)
    created: Mapped[datetime] = mapped_column(DateTime, default=now)
    deleted: Mapped[datetime | None] = mapped_column(DateTime, default=None)


class AtHandRow(Base):
    """Something at hand; the columns are the fields of the recipe's own model of it."""

    __abstract__ = True

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    created: Mapped[datetime] = mapped_column(DateTime, default=now)
    deleted: Mapped[datetime | None] = mapped_column(DateTime, default=None)


class PrinterRow(AtHandRow):
    """A printer."""

    __tablename__ = "printer"

    nozzle_mm: Mapped[float] = mapped_column(Float)
    line_mm: Mapped[float] = mapped_column(Float)
    layer_mm: Mapped[float] = mapped_column(Float)
    bed_wide_mm: Mapped[float] = mapped_column(Float)
    bed_deep_mm: Mapped[float] = mapped_column(Float)
    bed_high_mm: Mapped[float] = mapped_column(Float)


class MaterialRow(AtHandRow):
    """A material."""

    __tablename__ = "material"

    colour: Mapped[str] = mapped_column(String(7))
    density_g_cm3: Mapped[float] = mapped_column(Float)
    price_per_kg: Mapped[float] = mapped_column(Float)
    attenuation_per_mm: Mapped[float] = mapped_column(Float)
    attenuation_error: Mapped[float | None] = mapped_column(Float)


class OrderRow(Base):
    """A picture that is made into a model elsewhere.

    `once` is its name at the service, and `ended` whether that said that it is over.
    """

    __tablename__ = "maker_order"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    service: Mapped[str] = mapped_column(String(40))
    filename: Mapped[str] = mapped_column(String(255))
    state: Mapped[str] = mapped_column(String(12), index=True)
    once: Mapped[str] = mapped_column(String(40))
    remote_id: Mapped[str | None] = mapped_column(String(200), default=None)
    ended: Mapped[bool] = mapped_column(default=False)
    cancelled: Mapped[bool] = mapped_column(default=False)
    tries: Mapped[int] = mapped_column(default=0)
    said: Mapped[str] = mapped_column(String(400), default="")
    remedy: Mapped[str] = mapped_column(String(200), default="")
    place: Mapped[int | None] = mapped_column(default=None)
    share: Mapped[float | None] = mapped_column(Float, default=None)
    paid: Mapped[int | None] = mapped_column(default=None)
    piece_id: Mapped[str | None] = mapped_column(String(32), default=None)
    created: Mapped[datetime] = mapped_column(DateTime, default=now)
    changed: Mapped[datetime] = mapped_column(DateTime, default=now)
