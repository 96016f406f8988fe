"""The site log beside work and readings: lines that are only added; photographs of entries."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.create_table(
        "log_entries",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("entry", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("at", UtcDateTime(), nullable=False),
        sa.Column("said_at", UtcDateTime(), nullable=False),
        sa.Column("said_by", sa.String(), nullable=False),
        sa.Column("surface_id", sa.String(), nullable=True),
        sa.Column("place", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("details", sa.JSON(none_as_null=True), nullable=False, server_default="{}"),
        sa.Column("refers", sa.String(), nullable=False),
        sa.Column("corrects", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_log_entries_job_id_jobs"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["surface_id"], ["surfaces.id"], name=op.f("fk_log_entries_surface_id_surfaces"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_log_entries")),
        sa.UniqueConstraint("job_id", "entry", name=op.f("uq_log_entries_job_id_entry")),
    )
    op.create_index("ix_log_entries_job_id_at", "log_entries", ["job_id", "at"])
    op.create_index(op.f("ix_log_entries_surface_id"), "log_entries", ["surface_id"])
    with op.batch_alter_table("photos", schema=None) as batch_op:
        batch_op.add_column(sa.Column("entry", sa.String(), nullable=False, server_default=""))
    with op.batch_alter_table("readings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("details", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
