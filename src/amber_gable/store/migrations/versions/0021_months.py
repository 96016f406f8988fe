"""The month in which a surface was coated or built, where it is known."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    with op.batch_alter_table("surfaces", schema=None) as batch_op:
        batch_op.add_column(sa.Column("coated_month", sa.Integer(), nullable=True))
