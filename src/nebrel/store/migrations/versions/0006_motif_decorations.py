"""Motifs that are decorations, with all their numbers."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("motif") as table:
        table.add_column(sa.Column("decoration", sa.JSON(none_as_null=True), nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("motif") as table:
        table.drop_column("decoration")
