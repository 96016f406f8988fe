"""The survey in full: blocks, elevations of any kind, items, findings, photographs, tests, surroundings, gates.

What the first schema held of a building becomes its main block.
"""

import uuid

import sqlalchemy as sa
from alembic import op

from amber_gable.store.types import UtcDateTime

revision = "0002"
down_revision = "0001"

_SIDES = ("front", "left", "back", "right")


def upgrade() -> None:
    _new_tables()
    _blocks_of_buildings()
    _columns()
    # Earlier changes speak of columns that are gone: they stay as a record and cannot be undone.
    op.execute("UPDATE changes SET undone_at = at WHERE undone_at IS NULL")


def _blocks_of_buildings() -> None:
    connection = op.get_bind()
    for row in connection.execute(sa.text("SELECT * FROM buildings")).mappings().all():
        is_long = row["front_is"] == "long side"
        values = {
            "id": str(uuid.uuid4()),
            "building_id": row["id"],
            "across_m": row["length_m"] if is_long else row["width_m"],
            "deep_m": row["width_m"] if is_long else row["length_m"],
            "ridge_runs": "along" if is_long else "to back",
            **{name: row[name] for name in ("eaves_height_m", "ridge_height_m", "overhang_m", "plinth_height_m")},
        }
        connection.execute(
            sa.text(
                "INSERT INTO blocks (id, version, building_id, position, name, kind, side, from_left_m, projects_m, across_m, deep_m, base_m,"
                " eaves_height_m, ridge_height_m, roof, ridge_runs, overhang_m, plinth_height_m, splay_m, rail_height_m, steps, steps_width_m,"
                " tread_m, riser_m) VALUES (:id, 1, :building_id, 0, 'House', 'house', 0, 0, 0, :across_m, :deep_m, 0, :eaves_height_m,"
                " :ridge_height_m, 'gable', :ridge_runs, :overhang_m, :plinth_height_m, 0, 0, 0, 0, 0.28, 0.18)"
            ),
            values,
        )


def _columns() -> None:
    _columns_of_jobs_and_openings()
    _columns_of_surfaces()
    _columns_of_elevations()
    with op.batch_alter_table("buildings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("is_quick", sa.Boolean(), nullable=False, server_default=sa.false()))
        for name in ("length_m", "width_m", "eaves_height_m", "ridge_height_m", "front_is", "overhang_m", "plinth_height_m"):
            batch_op.drop_column(name)


def _columns_of_jobs_and_openings() -> None:
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.add_column(sa.Column("country", sa.String(), nullable=False, server_default="us"))
        batch_op.add_column(sa.Column("lead_before_year", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("asbestos_before_year", sa.Integer(), nullable=True))
    with op.batch_alter_table("openings", schema=None) as batch_op:
        batch_op.add_column(sa.Column("panes_across", sa.Integer(), nullable=False, server_default="1"))
        batch_op.add_column(sa.Column("panes_up", sa.Integer(), nullable=False, server_default="1"))
        batch_op.add_column(sa.Column("moves", sa.String(), nullable=False, server_default="not-tried"))


def _columns_of_surfaces() -> None:
    with op.batch_alter_table("surfaces", schema=None) as batch_op:
        batch_op.add_column(sa.Column("is_named", sa.Boolean(), nullable=False, server_default=sa.false()))
        batch_op.add_column(sa.Column("holes", sa.JSON(), nullable=False, server_default="[]"))
        batch_op.add_column(sa.Column("profile_mm", sa.JSON(none_as_null=True), nullable=False, server_default="{}"))
        batch_op.add_column(sa.Column("hex", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("coating", sa.String(), nullable=False, server_default="unknown"))
        batch_op.add_column(sa.Column("coated_year", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("old_lrv_pct", sa.Double(), nullable=True))
        batch_op.add_column(sa.Column("old_hex", sa.String(), nullable=True))


def _columns_of_elevations() -> None:
    with op.batch_alter_table("elevations", schema=None) as batch_op:
        batch_op.add_column(sa.Column("block_id", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("key", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("kind", sa.String(), nullable=False, server_default="wall"))
        batch_op.add_column(sa.Column("view", sa.String(), nullable=False, server_default=""))
        batch_op.add_column(sa.Column("tilt_deg", sa.Double(), nullable=False, server_default="90"))
        batch_op.add_column(sa.Column("surface_kind", sa.String(), nullable=False, server_default="wall"))
        batch_op.add_column(sa.Column("access", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("ground", sa.String(), nullable=False, server_default="firm"))
        for name in ("holes", "cuts"):
            batch_op.add_column(sa.Column(name, sa.JSON(), nullable=False, server_default="[]"))
        for name in ("start_m", "base_m", "depth_m", "edge_m", "plinth_m", "gable_from_m", "ground_slope_pct"):
            batch_op.add_column(sa.Column(name, sa.Double(), nullable=False, server_default="0"))
    connection = op.get_bind()
    rows = connection.execute(
        sa.text(
            "SELECT e.id, e.side, e.is_gable, b.id AS block, b.plinth_height_m AS plinth, b.eaves_height_m AS eaves"
            " FROM elevations e JOIN blocks b ON b.building_id = e.building_id"
        )
    ).mappings()
    for row in rows.all():
        connection.execute(
            sa.text("UPDATE elevations SET block_id = :block, key = :key, view = :key, plinth_m = :plinth, gable_from_m = :gable WHERE id = :id"),
            {
                "id": row["id"], "block": row["block"], "key": f"{row['block']}/{_SIDES[row['side']]}",
                "plinth": row["plinth"], "gable": row["eaves"] if row["is_gable"] else 0.0,
            },
        )  # fmt: skip
    with op.batch_alter_table("elevations", schema=None) as batch_op:
        batch_op.drop_constraint(batch_op.f("uq_elevations_building_id_side"), type_="unique")
        batch_op.create_index(batch_op.f("ix_elevations_block_id"), ["block_id"], unique=False)
        batch_op.create_unique_constraint(batch_op.f("uq_elevations_building_id_key"), ["building_id", "key"])
        batch_op.create_foreign_key(batch_op.f("fk_elevations_block_id_blocks"), "blocks", ["block_id"], ["id"])
        batch_op.drop_column("is_gable")
        batch_op.drop_column("side")


def _new_tables() -> None:
    op.create_table(
        "walk_answers",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("station", sa.String(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("answered_at", UtcDateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_walk_answers_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_walk_answers")),
        sa.UniqueConstraint("job_id", "station", "question", name=op.f("uq_walk_answers_job_id_station_question")),
    )
    with op.batch_alter_table("walk_answers", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_walk_answers_job_id"), ["job_id"], unique=False)

    op.create_table(
        "blocks",
        sa.Column("building_id", sa.String(), nullable=False),
        sa.Column("parent_id", sa.String(), nullable=True),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("side", sa.Integer(), nullable=False),
        sa.Column("from_left_m", sa.Double(), nullable=False),
        sa.Column("projects_m", sa.Double(), nullable=False),
        sa.Column("across_m", sa.Double(), nullable=False),
        sa.Column("deep_m", sa.Double(), nullable=False),
        sa.Column("base_m", sa.Double(), nullable=False),
        sa.Column("eaves_height_m", sa.Double(), nullable=False),
        sa.Column("ridge_height_m", sa.Double(), nullable=False),
        sa.Column("roof", sa.String(), nullable=False),
        sa.Column("ridge_runs", sa.String(), nullable=False),
        sa.Column("overhang_m", sa.Double(), nullable=False),
        sa.Column("plinth_height_m", sa.Double(), nullable=False),
        sa.Column("splay_m", sa.Double(), nullable=False),
        sa.Column("rail_height_m", sa.Double(), nullable=False),
        sa.Column("steps", sa.Integer(), nullable=False),
        sa.Column("steps_width_m", sa.Double(), nullable=False),
        sa.Column("tread_m", sa.Double(), nullable=False),
        sa.Column("riser_m", sa.Double(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["building_id"], ["buildings.id"], name=op.f("fk_blocks_building_id_buildings"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["parent_id"], ["blocks.id"], name=op.f("fk_blocks_parent_id_blocks")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_blocks")),
    )
    with op.batch_alter_table("blocks", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_blocks_building_id"), ["building_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_blocks_parent_id"), ["parent_id"], unique=False)

    op.create_table(
        "features",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("elevation_id", sa.String(), nullable=True),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("distance_m", sa.Double(), nullable=True),
        sa.Column("shade_from_deg", sa.Double(), nullable=True),
        sa.Column("shade_to_deg", sa.Double(), nullable=True),
        sa.Column("shade_up_to_deg", sa.Double(), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["elevation_id"], ["elevations.id"], name=op.f("fk_features_elevation_id_elevations"), ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_features_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_features")),
    )
    with op.batch_alter_table("features", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_features_elevation_id"), ["elevation_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_features_job_id"), ["job_id"], unique=False)

    op.create_table(
        "items",
        sa.Column("building_id", sa.String(), nullable=False),
        sa.Column("elevation_id", sa.String(), nullable=True),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("length_m", sa.Double(), nullable=False),
        sa.Column("girth_m", sa.Double(), nullable=False),
        sa.Column("substrate", sa.String(), nullable=False),
        sa.Column("is_painted", sa.Boolean(), nullable=False),
        sa.Column("is_derived", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["building_id"], ["buildings.id"], name=op.f("fk_items_building_id_buildings"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["elevation_id"], ["elevations.id"], name=op.f("fk_items_elevation_id_elevations"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_items")),
    )
    with op.batch_alter_table("items", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_items_building_id"), ["building_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_items_elevation_id"), ["elevation_id"], unique=False)

    op.create_table(
        "clearances",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("hazard", sa.String(), nullable=False),
        sa.Column("basis", sa.String(), nullable=False),
        sa.Column("surface_id", sa.String(), nullable=True),
        sa.Column("component", sa.String(), nullable=False),
        sa.Column("details", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("recorded_at", UtcDateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_clearances_job_id_jobs"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["surface_id"], ["surfaces.id"], name=op.f("fk_clearances_surface_id_surfaces"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_clearances")),
    )
    with op.batch_alter_table("clearances", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_clearances_job_id"), ["job_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_clearances_surface_id"), ["surface_id"], unique=False)

    op.create_table(
        "findings",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("elevation_id", sa.String(), nullable=True),
        sa.Column("surface_id", sa.String(), nullable=True),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("extent", sa.String(), nullable=False),
        sa.Column("depth_mm", sa.Double(), nullable=True),
        sa.Column("x_m", sa.Double(), nullable=False),
        sa.Column("y_m", sa.Double(), nullable=False),
        sa.Column("note", sa.String(), nullable=False),
        sa.Column("found_at", UtcDateTime(), nullable=False),
        sa.Column("acknowledged_by", sa.String(), nullable=True),
        sa.Column("acknowledged_at", UtcDateTime(), nullable=True),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["elevation_id"], ["elevations.id"], name=op.f("fk_findings_elevation_id_elevations"), ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_findings_job_id_jobs"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["surface_id"], ["surfaces.id"], name=op.f("fk_findings_surface_id_surfaces"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_findings")),
    )
    with op.batch_alter_table("findings", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_findings_elevation_id"), ["elevation_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_findings_job_id"), ["job_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_findings_surface_id"), ["surface_id"], unique=False)

    op.create_table(
        "site_tests",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("surface_id", sa.String(), nullable=True),
        sa.Column("surface_name", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("values", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("verdict", sa.JSON(none_as_null=True), nullable=False),
        sa.Column("taken_at", UtcDateTime(), nullable=False),
        sa.Column("painter", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_site_tests_job_id_jobs"), ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["surface_id"], ["surfaces.id"], name=op.f("fk_site_tests_surface_id_surfaces"), ondelete="SET NULL"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_site_tests")),
    )
    with op.batch_alter_table("site_tests", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_site_tests_job_id"), ["job_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_site_tests_surface_id"), ["surface_id"], unique=False)

    op.create_table(
        "photos",
        sa.Column("job_id", sa.String(), nullable=False),
        sa.Column("finding_id", sa.String(), nullable=True),
        sa.Column("digest", sa.String(), nullable=False),
        sa.Column("media_type", sa.String(), nullable=False),
        sa.Column("width_px", sa.Integer(), nullable=False),
        sa.Column("height_px", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.String(), nullable=True),
        sa.Column("has_place", sa.Boolean(), nullable=False),
        sa.Column("added_at", UtcDateTime(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["finding_id"], ["findings.id"], name=op.f("fk_photos_finding_id_findings"), ondelete="SET NULL"),
        sa.ForeignKeyConstraint(["job_id"], ["jobs.id"], name=op.f("fk_photos_job_id_jobs"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_photos")),
    )
    with op.batch_alter_table("photos", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_photos_digest"), ["digest"], unique=False)
        batch_op.create_index(batch_op.f("ix_photos_finding_id"), ["finding_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_photos_job_id"), ["job_id"], unique=False)
