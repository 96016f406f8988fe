"""Joints of a wall where work may stop; weather that somebody sees coming, and weather from files."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    with op.batch_alter_table("elevations", schema=None) as batch_op:
        batch_op.add_column(sa.Column("joints", sa.JSON(none_as_null=True), nullable=False, server_default="[]"))
    with op.batch_alter_table("forecast_issues", schema=None) as batch_op:
        batch_op.add_column(sa.Column("source", sa.String(), nullable=False, server_default="service"))
    op.create_table(
        "sightings",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("said_at", UtcDateTime(), nullable=False),
        sa.Column("from_at", UtcDateTime(), nullable=False),
        sa.Column("until_at", UtcDateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_sightings_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sightings")),
    )
    with op.batch_alter_table("sightings", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_sightings_job_id"), ["job_id"], unique=False)
