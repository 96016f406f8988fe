"""Machines of a firm: how many, hired or its own, what is reserved."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("machines", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
