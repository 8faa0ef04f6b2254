"""The workshop: printers and materials at hand, with ready-made ones."""

from datetime import datetime

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

_PRINTERS = [
    # id, name, nozzle, line, layer, bed wide, deep, high
    ("fine-nozzle", "Fine nozzle, small bed", 0.4, 0.42, 0.12, 180, 180, 180),
    ("finest-nozzle", "Finest nozzle, small bed", 0.2, 0.22, 0.08, 180, 180, 180),
    ("wide-nozzle", "Wide nozzle, large bed", 0.6, 0.64, 0.24, 300, 300, 340),
]
_MATERIALS = [
    # id, name, colour, density, price
    ("white-opaque", "White, opaque", "#EDE8DF", 1.24, 22.0),
    ("natural-clear", "Natural, translucent", "#E9E2CF", 1.27, 24.0),
    ("slate-gray", "Slate gray, matt", "#5E6268", 1.31, 26.0),
    ("terracotta", "Terracotta, matt", "#B5694A", 1.31, 26.0),
    ("resin-clear", "Resin, clear", "#DDE4E4", 1.12, 45.0),
]
_DATES = ("created", "deleted")


def upgrade() -> None:
    printer = op.create_table(
        "printer",
        sa.Column("id", sa.String(40), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("nozzle_mm", sa.Float(), nullable=False),
        sa.Column("line_mm", sa.Float(), nullable=False),
        sa.Column("layer_mm", sa.Float(), nullable=False),
        sa.Column("bed_wide_mm", sa.Float(), nullable=False),
        sa.Column("bed_deep_mm", sa.Float(), nullable=False),
        sa.Column("bed_high_mm", sa.Float(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("deleted", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_printer"),
    )
    material = op.create_table(
        "material",
        sa.Column("id", sa.String(40), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("colour", sa.String(7), nullable=False),
        sa.Column("density_g_cm3", sa.Float(), nullable=False),
        sa.Column("price_per_kg", sa.Float(), nullable=False),
        sa.Column("created", sa.DateTime(), nullable=False),
        sa.Column("deleted", sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_material"),
    )
    day = datetime(2026, 1, 1)
    for table, kept in ((printer, _PRINTERS), (material, _MATERIALS)):
        names = [column.name for column in table.columns if column.name not in _DATES]
        rows = [dict(zip(names, row, strict=True)) for row in kept]
        op.bulk_insert(table, [row | {"created": day, "deleted": None} for row in rows])


def downgrade() -> None:
    op.drop_table("material")
    op.drop_table("printer")
