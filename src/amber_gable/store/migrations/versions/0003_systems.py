"""Systems: house rules of the contractor, and what was decided by hand for a part."""

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("house_rules", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
    op.create_table(
        "system_choices",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("wanted", sa.String(), nullable=False),
        sa.Column("is_heat_reflective", sa.Boolean(), nullable=False),
        sa.Column("is_vinyl_safe", sa.Boolean(), nullable=False),
        sa.Column("edits", sa.JSON(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_system_choices_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_system_choices")),
        sa.UniqueConstraint("job_id", "part", name=op.f("uq_system_choices_job_id_part")),
    )
    with op.batch_alter_table("system_choices", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_system_choices_job_id"), ["job_id"], unique=False)
    _samples()
    # Two coats of one product was the default of every job: from now on each surface's system says what and how many.
    op.execute("UPDATE jobs SET rules = json_remove(rules, '$.coats') WHERE json_extract(rules, '$.coats') = 2")
    op.execute(
        "UPDATE jobs SET rules = json_remove(rules, '$.product') WHERE json_extract(rules, '$.product') = 'rivermark-exterior-satin'"
    )


def _samples() -> None:
    op.create_table(
        "samples",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("part_name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("made_on", sa.String(), nullable=False),
        sa.Column("due_on", sa.String(), nullable=True),
        sa.Column("details", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("result", sa.String(), nullable=False),
        sa.Column("signed_by", sa.String(), nullable=True),
        sa.Column("signed_at", UtcDateTime(), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_samples_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_samples")),
    )
    with op.batch_alter_table("samples", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_samples_job_id"), ["job_id"], unique=False)
