"""Orders with services that make models."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "maker_order",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("service", sa.String(40), nullable=False),
        sa.Column("filename", sa.String(255), nullable=False),
        sa.Column("state", sa.String(12), nullable=False, index=True),
        sa.Column("once", sa.String(40), nullable=False),
        sa.Column("remote_id", sa.String(200), nullable=True),
        sa.Column("ended", sa.Boolean(), nullable=False),
        sa.Column("cancelled", sa.Boolean(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("said", sa.String(400), nullable=False),
        sa.Column("remedy", sa.String(200), nullable=False),
        sa.Column("place", sa.Integer(), nullable=True),
        sa.Column("share", sa.Float(), nullable=True),
        sa.Column("paid", sa.Integer(), nullable=True),
        sa.Column("piece_id", sa.String(32), nullable=True),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("changed", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("maker_order")
