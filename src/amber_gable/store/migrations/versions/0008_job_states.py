"""States and revisions of jobs, revisions of contractors, the forms that were sent, and how far each forecast reaches."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.add_column(sa.Column("state", sa.String(), nullable=False, server_default="running"))
        batch_op.add_column(sa.Column("revision", sa.Integer(), nullable=False, server_default="0"))
        batch_op.create_index(batch_op.f("ix_jobs_state"), ["state"], unique=False)
        batch_op.create_index(batch_op.f("ix_jobs_revision"), ["revision"], unique=False)
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("revision", sa.Integer(), nullable=False, server_default="0"))
    op.create_table(
        "sent_forms",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("path", sa.String(), nullable=False),
        sa.Column("at", sa.DateTime(), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=True),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_sent_forms")),
    )
    with op.batch_alter_table("sent_forms", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_sent_forms_at"), ["at"], unique=False)
    with op.batch_alter_table("forecast_issues", schema=None) as batch_op:
        batch_op.add_column(sa.Column("ends_at", sa.DateTime(), nullable=True))
    op.execute("UPDATE forecast_issues SET ends_at = datetime(json_extract(hours, '$[#-1].time')) || '.000000'")
    # What a bid says of a job: a lost one is over; one that was only drawn for a first price is still an enquiry.
    op.execute("UPDATE jobs SET state = 'archived' WHERE id IN (SELECT job_id FROM bids WHERE state = 'lost')")
    op.execute(
        "UPDATE jobs SET state = 'enquiry' WHERE state = 'running' AND id IN (SELECT job_id FROM buildings WHERE is_quick = 1)"
        " AND id NOT IN (SELECT job_id FROM bids WHERE state = 'won')"
    )
