"""Owners of houses: name, telephone, address, how to reach them, remarks; the letterhead of a contractor."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        for name in ("owner_name", "owner_phone", "owner_address", "owner_reach", "owner_remarks"):
            batch_op.add_column(sa.Column(name, sa.String(), nullable=False, server_default=""))
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("letterhead", sa.JSON(), nullable=False, server_default="{}"))
    # Who was named on a bid is the owner of its house.
    op.execute(
        "UPDATE jobs SET owner_name = COALESCE((SELECT owner_name FROM bids WHERE bids.job_id = jobs.id), ''),"
        " owner_phone = COALESCE((SELECT contact FROM bids WHERE bids.job_id = jobs.id), '')"
    )
