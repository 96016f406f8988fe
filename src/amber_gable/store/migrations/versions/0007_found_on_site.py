"""What palm, meter and hose found or did on one surface, beside the weather that somebody sees."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    with op.batch_alter_table("sightings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("surface_id", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("value", sa.Double(), nullable=True))
        batch_op.create_index(batch_op.f("ix_sightings_surface_id"), ["surface_id"], unique=False)
        batch_op.create_foreign_key(batch_op.f("fk_sightings_surface_id_surfaces"), "surfaces", ["surface_id"], ["id"], ondelete="CASCADE")
