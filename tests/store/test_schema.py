"""The schema: migrations build what the models say, and SQLite is set up as it must be."""

from datetime import UTC, datetime
from importlib import resources
from zoneinfo import ZoneInfo

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import inspect, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from amber_gable.store import queries
from amber_gable.store.engine import open_engine
from amber_gable.store.models import AppState, Base, Building, Change
from amber_gable.store.schema import HEAD, current_revision, migrate
from amber_gable.store.types import new_id


@pytest.fixture
def engine(tmp_path):
    opened = open_engine(f"sqlite:///{tmp_path}/deep/er/t.sqlite3")
    migrate(opened)
    yield opened
    opened.dispose()


def test_the_named_head_is_the_newest_migration(engine):
    config = Config()
    config.set_main_option("script_location", str(resources.files("amber_gable.store") / "migrations"))
    assert ScriptDirectory.from_config(config).get_current_head() == HEAD
    assert current_revision(engine) == HEAD
    assert migrate(engine) is False, "a second start has nothing to do"


def test_migrations_build_exactly_the_models(engine):
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_every_constraint_has_a_name(engine):
    found = inspect(engine)
    for table in Base.metadata.tables:
        assert all(c["name"] for c in found.get_foreign_keys(table) + found.get_unique_constraints(table))


def test_wal_foreign_keys_and_a_busy_timeout(engine):
    with engine.connect() as connection:
        ask = lambda name: connection.execute(text(f"PRAGMA {name}")).scalar()  # noqa: E731
        assert (ask("journal_mode"), ask("foreign_keys"), ask("busy_timeout")) == ("wal", 1, 5000)


def test_a_row_that_hangs_on_nothing_is_refused(engine):
    with Session(engine.execution_options(writing=True)) as session, session.begin():
        session.add(
            Building(
                id=new_id(), job_id="nobody", front_azimuth_deg=0,
            )
        )  # fmt: skip
        with pytest.raises(IntegrityError):
            session.flush()
        session.rollback()


def test_writers_wait_for_each_other_instead_of_failing(engine):
    writing = engine.execution_options(writing=True)
    with Session(writing) as first, first.begin():
        first.add(AppState(key="a", value="1"))
        first.flush()
        with engine.connect() as reader:
            assert reader.execute(text("SELECT count(*) FROM app_state")).scalar() == 0, "readers are not held up"
    with Session(writing) as second, second.begin():
        second.add(AppState(key="b", value="2"))


def test_instants_keep_their_zone_and_naive_ones_are_a_mistake_of_ours(engine):
    local = datetime(2026, 11, 1, 1, 30, fold=1, tzinfo=ZoneInfo("America/Chicago"))
    values = {"set_id": "s", "contractor_id": "c", "job_id": None, "number": 1, "who": "w", "label": "l", "table_name": "t", "row_id": "r"}
    with Session(engine.execution_options(writing=True)) as session, session.begin():
        session.add(Change(id="c", at=local, before=None, after=None, undone_at=None, **values))
    with Session(engine) as session:
        found = session.get(Change, "c")
        assert found.at == datetime(2026, 11, 1, 7, 30, tzinfo=UTC)
        assert found.at.tzinfo == UTC
        assert session.execute(text("SELECT after IS NULL FROM changes")).scalar() == 1


OLD_RULES = '{"coats": 2, "product": "rivermark-exterior-satin", "painters": 3}'
OLD_ROWS = (
    "INSERT INTO contractors (name, units, painters, version, id) VALUES ('C', 'us', '[]', 1, 'c')",
    "INSERT INTO jobs (contractor_id, name, latitude_deg, longitude_deg, altitude_m, time_zone, units, crew, rules, created_at,"
    " version, id) VALUES ('c', 'Mill', 43, -91, 200, 'America/Chicago', 'us', '[]',"
    f" '{OLD_RULES}', '2026-01-01 00:00:00', 1, 'j')",
    "INSERT INTO buildings (job_id, length_m, width_m, eaves_height_m, ridge_height_m, front_azimuth_deg, front_is, overhang_m,"
    " plinth_height_m, version, id) VALUES ('j', 12, 8, 6, 9, 90, 'gable end', 0.4, 0.5, 1, 'b')",
    "INSERT INTO elevations (building_id, side, position, name, azimuth_deg, is_gable, outline, version, id)"
    " VALUES ('b', 0, 1, 'East gable', 90, 1, '[[0,0],[8,0],[8,6],[4,9],[0,6]]', 1, 'e')",
    "INSERT INTO openings (elevation_id, kind, width_m, height_m, left_m, sill_m, version, id) VALUES ('e', 'vent', 1, 1, 2, 2, 1, 'o')",
    "INSERT INTO surfaces (elevation_id, kind, position, name, outline, substrate, profile, texture, lrv_pct, is_painted, version, id)"
    " VALUES ('e', 'wall', 0, 'East gable wall', '[[0,0.5],[8,0.5],[8,6],[0,6]]', 'brick', 'flat', 'brick', 44, 1, 1, 's')",
)


def test_a_house_of_the_first_schema_becomes_a_block_and_loses_nothing(tmp_path):
    old = open_engine(f"sqlite:///{tmp_path}/old.sqlite3")
    config = Config()
    config.set_main_option("script_location", str(resources.files("amber_gable.store") / "migrations"))
    config.attributes["engine"] = old
    command.upgrade(config, "0001")
    with old.execution_options(writing=True).begin() as connection:
        for line in OLD_ROWS:
            connection.exec_driver_sql(line)
    migrate(old)
    with Session(old) as session:
        whole = queries.job_whole(session, "j")
        # Two coats of one product was every job's default: systems say now what and how many.
        assert whole.rules == {"painters": 3}
        block, side = whole.building.blocks[0], whole.building.elevations[0]
        assert (block.across_m, block.deep_m, block.ridge_runs, block.plinth_height_m) == (8, 12, "to back", 0.5)
        assert (side.key, side.kind, side.gable_from_m, side.openings[0].kind) == (f"{block.id}/front", "wall", 6, "vent")
        assert (side.surfaces[0].lrv_pct, side.surfaces[0].coating, side.surfaces[0].profile_mm) == (44, "unknown", {})
    with old.connect() as connection:
        assert connection.execute(text("PRAGMA foreign_keys")).scalar() == 1
    old.dispose()


def test_a_database_of_the_schema_before_states_is_brought_along(tmp_path):
    old = open_engine(f"sqlite:///{tmp_path}/old.sqlite3")
    config = Config()
    config.set_main_option("script_location", str(resources.files("amber_gable.store") / "migrations"))
    config.attributes["engine"] = old
    command.upgrade(config, "0007")
    hours = '[{"time": "2026-09-15T11:00:00Z"}, {"time": "2026-09-17T06:00:00-05:00"}]'
    with old.execution_options(writing=True).begin() as connection:
        connection.exec_driver_sql("INSERT INTO contractors (name, units, painters, version, id) VALUES ('C', 'us', '[]', 1, 'c')")
        for job, is_quick, bid in (("run", 0, "won"), ("lost", 0, "lost"), ("quick", 1, "sent"), ("taken", 1, "won")):
            connection.exec_driver_sql(
                "INSERT INTO jobs (contractor_id, name, latitude_deg, longitude_deg, altitude_m, time_zone, units, country, crew, rules,"
                f" created_at, version, id) VALUES ('c', '{job}', 43, -91, 200, 'America/Chicago', 'us', 'us', '[]', '{{}}',"
                f" '2026-01-01 00:00:00', 1, '{job}')"
            )
            connection.exec_driver_sql(
                f"INSERT INTO buildings (job_id, front_azimuth_deg, is_quick, version, id) VALUES ('{job}', 0, {is_quick}, 1, 'b-{job}')"
            )
            connection.exec_driver_sql(
                "INSERT INTO bids (job_id, state, owner_name, contact, reason, history, version, id)"
                f" VALUES ('{job}', '{bid}', '', '', '', '[]', 1, 'd-{job}')"
            )
        connection.exec_driver_sql(
            "INSERT INTO forecast_issues (place, issued_at, fetched_at, hours, source, id) VALUES ('p', '2026-09-15 11:00:00.000000',"
            f" '2026-09-15 11:00:00.000000', '{hours}', 'service', 'i')"
        )
        for job in ("'run'", "NULL"):
            connection.exec_driver_sql(
                "INSERT INTO changes (set_id, job_id, number, at, who, label, table_name, row_id, id)"
                f" VALUES ('s', {job}, 1, '2026-01-01 00:00:00', 'office', 'l', 't', 'r', lower(hex(randomblob(8))))"
            )
    migrate(old)
    with Session(old) as session:
        states = {job.id: job.state for job in queries.jobs(session, "c")}
        assert states == {"run": "running", "lost": "archived", "quick": "enquiry", "taken": "running"}
        head = queries.latest_issue_head(session, "c", "p", datetime(2026, 9, 15, 12, tzinfo=UTC))
        assert head.ends_at == datetime(2026, 9, 17, 11, tzinfo=UTC)
        assert [change.contractor_id for change in queries.change_set(session, "c", "s")] == ["c", "c"]
    old.dispose()
