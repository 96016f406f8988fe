"""The crew: hours, days off and skills of each painter, by name."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("crew", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
