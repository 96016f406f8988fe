"""Cans in stock: how they stand, since when they are here and open, what is wrong with them; tips that were changed."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    with op.batch_alter_table("stock_rows", schema=None) as batch_op:
        batch_op.add_column(sa.Column("state", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("stands", sa.String(), nullable=False, server_default="indoors"))
        batch_op.add_column(sa.Column("received_on", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("opened_on", sa.String(), nullable=False, server_default=""))
    op.create_table(
        "tip_changes",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("contractor_id", sa.String(), nullable=False),
        sa.Column("tip", sa.String(), nullable=False),
        sa.Column("at", UtcDateTime(), nullable=False),
        sa.Column("said_by", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["contractor_id"], ["contractors.id"], name=op.f("fk_tip_changes_contractor_id_contractors"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_tip_changes")),
    )
    op.create_index(op.f("ix_tip_changes_contractor_id"), "tip_changes", ["contractor_id"])
