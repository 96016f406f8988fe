"""The revision of a job's house, which nothing that is said or planned raises."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.add_column(sa.Column("house_revision", sa.Integer(), nullable=False, server_default="0"))
    op.execute("UPDATE jobs SET house_revision = revision")
