"""Things round a house: what colour they have, and whether they must not be touched."""

import sqlalchemy as sa
from alembic import op

revision = "0023"
down_revision = "0022"


def upgrade() -> None:
    with op.batch_alter_table("features", schema=None) as batch_op:
        batch_op.add_column(sa.Column("hex", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("is_kept_off", sa.Boolean(), nullable=False, server_default=sa.false()))
