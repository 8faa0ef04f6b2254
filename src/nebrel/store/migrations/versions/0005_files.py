"""Files of any kind, which piece uses which, and a card a piece."""

import json
import re
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_FACTS: dict[str, Any] = {
    "file_format": sa.String(16),
    "cols": sa.Integer(),
    "rows": sa.Integer(),
    "bit_depth": sa.Integer(),
    "coloured": sa.Boolean(),
    "transparent": sa.Boolean(),
    "dpi": sa.Float(),
    "notes": sa.JSON(),
}


def upgrade() -> None:
    op.rename_table("picture", "file")
    op.add_column(
        "file", sa.Column("kind", sa.String(16), nullable=False, server_default="picture")
    )
    op.add_column("file", sa.Column("facts", sa.JSON(), nullable=False, server_default="{}"))
    connection = op.get_bind()
    old = sa.table("file", sa.column("sha256"), *(sa.column(n, t) for n, t in _FACTS.items()))
    for row in connection.execute(sa.select(old)).mappings().all():
        facts = {name: row[name] for name in _FACTS}
        file = sa.table("file", sa.column("sha256"), sa.column("facts", sa.JSON()))
        kept = file.update().where(file.c.sha256 == row["sha256"])
        connection.execute(kept.values(facts=facts))
    for name in _FACTS:
        op.drop_column("file", name)
    op.add_column("piece", sa.Column("card", sa.JSON(), nullable=True))
    op.create_table(
        "use",
        sa.Column(
            "piece_id",
            sa.String(32),
            sa.ForeignKey("piece.id", ondelete="CASCADE", name="fk_use_piece_id_piece"),
            primary_key=True,
        ),
        sa.Column(
            "sha256",
            sa.String(64),
            sa.ForeignKey("file.sha256", name="fk_use_sha256_file"),
            primary_key=True,
        ),
    )
    op.create_index("ix_use_sha256", "use", ["sha256"])
    known = {name for (name,) in connection.execute(sa.text("select sha256 from file"))}
    use = sa.table("use", sa.column("piece_id"), sa.column("sha256"))
    used = set()
    recipes = sa.text("select piece_id, recipe from revision")
    for piece_id, text in connection.execute(recipes):
        used |= {(piece_id, name) for name in _files_of(text) if name in known}
    if used:
        rows = [{"piece_id": piece, "sha256": name} for piece, name in sorted(used)]
        connection.execute(use.insert(), rows)


def _files_of(text: str | None) -> set[str]:
    """Every value called sha256 of a recipe; of one that cannot be read, whatever may be one."""
    found = set()

    def walk(value: object) -> None:
        if isinstance(value, dict):
            if isinstance(value.get("sha256"), str):
                found.add(value["sha256"])
            for part in value.values():
                walk(part)
        elif isinstance(value, list):
            for part in value:
                walk(part)

    try:
        walk(json.loads(text or "null"))
    except (ValueError, RecursionError):
        return set(re.findall(r"\b[0-9a-f]{64}\b", text or ""))
    return found


def downgrade() -> None:
    op.drop_table("use")
    op.drop_column("piece", "card")
    for name, kind in _FACTS.items():
        nullable = name == "dpi"
        default = None if nullable else {"file_format": "", "notes": "[]"}.get(name, "0")
        op.add_column("file", sa.Column(name, kind, nullable=nullable, server_default=default))
    connection = op.get_bind()
    file = sa.table(
        "file",
        sa.column("sha256"),
        sa.column("facts", sa.JSON()),
        *(sa.column(name, kind) for name, kind in _FACTS.items()),
    )
    for sha256, facts in connection.execute(sa.select(file.c.sha256, file.c.facts)).all():
        connection.execute(file.update().where(file.c.sha256 == sha256).values(**facts))
    op.drop_column("file", "facts")
    op.drop_column("file", "kind")
    op.rename_table("file", "picture")
