"""Pictures, pieces and their revisions."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "picture",
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("filename", sa.String(255), nullable=False),
        sa.Column("file_format", sa.String(16), nullable=False),
        sa.Column("cols", sa.Integer(), nullable=False),
        sa.Column("rows", sa.Integer(), nullable=False),
        sa.Column("bit_depth", sa.Integer(), nullable=False),
        sa.Column("coloured", sa.Boolean(), nullable=False),
        sa.Column("transparent", sa.Boolean(), nullable=False),
        sa.Column("dpi", sa.Float(), nullable=True),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("notes", sa.JSON(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name="pk_picture"),
    )
    op.create_table(
        "piece",
        sa.Column("id", sa.String(32), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("changed", sa.DateTime(), nullable=False),
        sa.Column("deleted", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_piece"),
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("piece_id", sa.String(32), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("recipe", sa.JSON(), nullable=False),
        sa.Column("label", sa.String(120), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["piece_id"], ["piece.id"], name="fk_revision_piece_id", ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name="pk_revision"),
    )
    op.create_index("ix_revision_piece_number", "revision", ["piece_id", "number"], unique=True)


def downgrade() -> None:
    op.drop_table("revision")
    op.drop_table("piece")
    op.drop_table("picture")
