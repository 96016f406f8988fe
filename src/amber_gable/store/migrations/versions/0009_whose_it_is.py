"""Whose change it is, and whose weather file."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    with op.batch_alter_table("changes", schema=None) as batch_op:
        batch_op.add_column(sa.Column("contractor_id", sa.String(), nullable=False, server_default=""))
        batch_op.create_index(batch_op.f("ix_changes_contractor_id"), ["contractor_id"], unique=False)
    # A job's own contractor; for what belongs to no job, and for jobs that are gone, the only one there was.
    op.execute(
        "UPDATE changes SET contractor_id = coalesce((SELECT contractor_id FROM jobs WHERE jobs.id = changes.job_id),"
        " (SELECT id FROM contractors LIMIT 1), '')"
    )
    with op.batch_alter_table("changes", schema=None) as batch_op:
        batch_op.alter_column("contractor_id", server_default=None)
    with op.batch_alter_table("forecast_issues", schema=None) as batch_op:
        batch_op.add_column(sa.Column("contractor_id", sa.String(), nullable=True))
        batch_op.create_foreign_key(batch_op.f("fk_forecast_issues_contractor_id_contractors"), "contractors", ["contractor_id"], ["id"])
    op.execute("UPDATE forecast_issues SET contractor_id = (SELECT id FROM contractors LIMIT 1) WHERE source = 'file'")
