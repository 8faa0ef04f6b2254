"""Motifs: cleaned pictures kept for reuse."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "motif",
        sa.Column("id", sa.String(32), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("tags", sa.JSON(), nullable=False),
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("wide_mm", sa.Float(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("deleted", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_motif"),
        sa.ForeignKeyConstraint(["sha256"], ["picture.sha256"], name="fk_motif_sha256"),
    )


def downgrade() -> None:
    op.drop_table("motif")
