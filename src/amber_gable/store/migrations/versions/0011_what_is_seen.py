"""What is seen: rain that is open until somebody says it stopped, light or heavy; who said it."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    with op.batch_alter_table("sightings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("strength", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("said_by", sa.String(), nullable=False, server_default=""))
        batch_op.alter_column("until_at", nullable=True)
    op.execute("UPDATE sightings SET strength = 'light' WHERE kind = 'rain'")
    with op.batch_alter_table("sightings", schema=None) as batch_op:
        batch_op.alter_column("strength", server_default=None)
        batch_op.alter_column("said_by", server_default=None)
