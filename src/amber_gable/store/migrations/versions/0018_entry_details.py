"""What an entry of the record says besides: where a stop joint is."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    with op.batch_alter_table("work_entries", schema=None) as batch_op:
        batch_op.add_column(sa.Column("details", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
