"""The contractor's prices; stock, agreed revisions, extras, bids, truck lists."""

from typing import Any

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0005"
down_revision = "0004"


def _table(
    name: str, *columns: sa.Column[Any], constraints: tuple[sa.Constraint, ...] = (), cascade: str = "CASCADE", may_lack_job: bool = False
) -> None:
    op.create_table(
        name,
        sa.Column("job_id", sa.String(), nullable=may_lack_job),
        *columns,
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f(f"fk_{name}_job_id_jobs"), ondelete=cascade),
        sa.PrimaryKeyConstraint("id", name=op.f(f"pk_{name}")),
        *constraints,
    )


def _text(name: str, nullable: bool = False) -> sa.Column[Any]:
    return sa.Column(name, sa.String(), nullable=nullable)


def _number(name: str) -> sa.Column[Any]:
    return sa.Column(name, sa.Double(), nullable=False)


def upgrade() -> None:
    with op.batch_alter_table("contractors", schema=None) as batch_op:
        batch_op.add_column(sa.Column("prices", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
    _table(
        "stock_rows",
        _text("contractor_id"), _text("product"), _text("colour"), _number("litres"), _text("batch"), _text("place"),
        constraints=(sa.ForeignKeyConstraint(["contractor_id"], ["contractors.id"], name=op.f("fk_stock_rows_contractor_id_contractors")),),
        cascade="SET NULL", may_lack_job=True,
    )  # fmt: skip
    _table(
        "revisions",
        sa.Column("number", sa.Integer(), nullable=False), sa.Column("made_at", UtcDateTime(), nullable=False), _text("note"), _text("signed_by"),
        sa.Column("snapshot", sa.JSON(none_as_null=True), nullable=False),
        constraints=(sa.UniqueConstraint("job_id", "number", name=op.f("uq_revisions_job_id_number")),),
    )  # fmt: skip
    _table(
        "extras",
        _text("what"), _text("unit_price"), _number("quantity"), _number("hours"), _number("price"),
        sa.Column("asked_at", UtcDateTime(), nullable=False), _text("signed_by"), sa.Column("signed_at", UtcDateTime(), nullable=True),
    )  # fmt: skip
    _table(
        "bids",
        _text("state"), _text("owner_name"), _text("contact"), _text("follow_up_on", True), _text("reason"),
        sa.Column("history", sa.JSON(), nullable=False),
        constraints=(sa.UniqueConstraint("job_id", name=op.f("uq_bids_job_id")),),
    )  # fmt: skip
    _table(
        "loaded",
        _text("day"), _text("key"), sa.Column("is_back", sa.Boolean(), nullable=False),
        constraints=(sa.UniqueConstraint("job_id", "day", "key", name=op.f("uq_loaded_job_id_day_key")),),
    )  # fmt: skip
    for table, column in (
        ("stock_rows", "contractor_id"), ("stock_rows", "job_id"), ("revisions", "job_id"), ("extras", "job_id"), ("loaded", "job_id"),
    ):  # fmt: skip
        with op.batch_alter_table(table, schema=None) as batch_op:
            batch_op.create_index(batch_op.f(f"ix_{table}_{column}"), [column], unique=False)
