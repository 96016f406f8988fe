"""The record of work: append-only entries; and the plan of all work beside that of the coats."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "work_entries",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("entry", sa.String(), nullable=False),
        sa.Column("task", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("told", sa.String(), nullable=False),
        sa.Column("from_at", UtcDateTime(), nullable=False),
        sa.Column("until_at", UtcDateTime(), nullable=False),
        sa.Column("share_frac", sa.Double(), nullable=False),
        sa.Column("painters", sa.JSON(), nullable=False),
        sa.Column("litres", sa.Double(), nullable=True),
        sa.Column("product", sa.String(), nullable=False),
        sa.Column("batch", sa.String(), nullable=False),
        sa.Column("remark", sa.String(), nullable=False),
        sa.Column("said_at", UtcDateTime(), nullable=False),
        sa.Column("said_by", sa.String(), nullable=False),
        sa.Column("corrects", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_work_entries_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_work_entries")),
    )
    op.create_index(op.f("ix_work_entries_job_id"), "work_entries", ["job_id"])
    op.create_index(op.f("ix_work_entries_entry"), "work_entries", ["entry"])
    with op.batch_alter_table("schedules", schema=None) as batch_op:
        batch_op.add_column(sa.Column("stints", sa.JSON(), nullable=False, server_default="[]"))
        batch_op.add_column(sa.Column("finish", sa.JSON(), nullable=False, server_default="{}"))
