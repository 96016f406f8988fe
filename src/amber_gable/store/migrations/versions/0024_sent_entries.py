"""Entries of a phone by the identity they were given there, with what was kept of them; changes found by their row and number."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    with op.batch_alter_table("sent_forms", schema=None) as batch_op:
        batch_op.add_column(sa.Column("digest", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("content", sa.JSON(), nullable=True))
    with op.batch_alter_table("changes", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_changes_number"), ["number"], unique=False)
        batch_op.create_index(batch_op.f("ix_changes_row_id_number"), ["row_id", "number"], unique=False)
        batch_op.create_index(batch_op.f("ix_changes_job_id_number"), ["job_id", "number"], unique=False)
        batch_op.create_index("ix_changes_whose", ["contractor_id", "table_name", "number"], unique=False)
        batch_op.drop_index(batch_op.f("ix_changes_job_id"))
        batch_op.drop_index(batch_op.f("ix_changes_contractor_id"))
