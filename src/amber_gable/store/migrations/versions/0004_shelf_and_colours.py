"""The contractor's own shelf; colours of windows, shutters and trim; colours to choose from."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    with op.batch_alter_table("system_choices", schema=None) as batch_op:
        batch_op.add_column(sa.Column("hex", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("old_hex", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("coating", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("coated_year", sa.Integer(), nullable=True))
    op.create_table(
        "shelf_rows",
        sa.Column("contractor_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("sheet", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["contractor_id"], ["contractors.id"], name=op.f("fk_shelf_rows_contractor_id_contractors")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_shelf_rows")),
        sa.UniqueConstraint("contractor_id", "kind", "key", name=op.f("uq_shelf_rows_contractor_id_kind_key")),
    )
    op.create_table(
        "candidates",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("zone", sa.String(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("hex", sa.String(), nullable=False),
        sa.Column("added_at", UtcDateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_candidates_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_candidates")),
    )
    # Panels of doors are counted now like panes; until then six and sixteen were drawn.
    op.execute("UPDATE openings SET panes_across = 2, panes_up = 3 WHERE kind = 'entry-door' AND panes_across = 1 AND panes_up = 1")
    op.execute("UPDATE openings SET panes_across = 4, panes_up = 4 WHERE kind = 'garage-door' AND panes_across = 1 AND panes_up = 1")
    op.execute("UPDATE openings SET panes_across = 2 WHERE kind = 'sliding-door' AND panes_across = 1 AND panes_up = 1")
    for table, column in (("shelf_rows", "contractor_id"), ("candidates", "job_id")):
        with op.batch_alter_table(table, schema=None) as batch_op:
            batch_op.create_index(batch_op.f(f"ix_{table}_{column}"), [column], unique=False)
