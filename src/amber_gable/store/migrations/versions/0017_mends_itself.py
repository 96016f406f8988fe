"""Whether a firm's plan is mended by itself once something overtook it."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("mends_itself", sa.Boolean(), nullable=False, server_default="1"))
