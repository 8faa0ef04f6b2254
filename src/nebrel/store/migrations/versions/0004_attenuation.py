"""How much light the materials hold back."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

_READY_MADE = {
    "white-opaque": 1.2,
    "natural-clear": 0.55,
    "slate-gray": 5.0,
    "terracotta": 3.5,
    "resin-clear": 0.25,
}


def upgrade() -> None:
    with op.batch_alter_table("material") as table:
        table.add_column(
            sa.Column("attenuation_per_mm", sa.Float(), nullable=False, server_default="1.2")
        )
        table.add_column(sa.Column("attenuation_error", sa.Float(), nullable=True))
    material = sa.table("material", sa.column("id"), sa.column("attenuation_per_mm"))
    for name, value in _READY_MADE.items():
        op.execute(material.update().where(material.c.id == name).values(attenuation_per_mm=value))


def downgrade() -> None:
    with op.batch_alter_table("material") as table:
        table.drop_column("attenuation_error")
        table.drop_column("attenuation_per_mm")
