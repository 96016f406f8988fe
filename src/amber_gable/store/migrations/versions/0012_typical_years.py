"""Typical years: hours of a whole year for a place, read in from a file."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.create_table(
        "typical_years",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("contractor_id", sa.String(), nullable=False),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("taken_at", sa.DateTime(), nullable=False),
        sa.Column("latitude_deg", sa.Double(), nullable=False),
        sa.Column("longitude_deg", sa.Double(), nullable=False),
        sa.Column("utc_offset_h", sa.Double(), nullable=False),
        sa.Column("rain_missing", sa.Integer(), nullable=False),
        sa.Column("columns", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["contractor_id"], ["contractors.id"], name=op.f("fk_typical_years_contractor_id_contractors")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_typical_years")),
        sa.UniqueConstraint("contractor_id", "place", name=op.f("uq_typical_years_contractor_id_place")),
    )
