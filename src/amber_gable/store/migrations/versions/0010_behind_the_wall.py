"""What lies behind a wall: render on a frame or on masonry, and whether the building is heated."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    for table, column in (
        ("surfaces", sa.Column("lies_on", sa.String(), nullable=False, server_default="")),
        ("jobs", sa.Column("is_heated", sa.Boolean(), nullable=False, server_default=sa.true())),
    ):
        with op.batch_alter_table(table, schema=None) as batch_op:
            batch_op.add_column(column)
        with op.batch_alter_table(table, schema=None) as batch_op:
            batch_op.alter_column(column.name, server_default=None)
