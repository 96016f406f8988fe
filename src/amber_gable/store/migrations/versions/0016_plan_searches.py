"""Searches for better plans: what each looked for, how far it came, what it found."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.create_table(
        "plan_searches",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("contractor_id", sa.String(), nullable=False),
        sa.Column("asked_at", UtcDateTime(), nullable=False),
        sa.Column("asked_by", sa.String(), nullable=False),
        sa.Column("mark", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("tried", sa.Integer(), nullable=False),
        sa.Column("first_cost", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("best_cost", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("way", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("fault", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["contractor_id"], ["contractors.id"], name=op.f("fk_plan_searches_contractor_id_contractors"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plan_searches")),
    )
    op.create_index(op.f("ix_plan_searches_contractor_id"), "plan_searches", ["contractor_id"])
