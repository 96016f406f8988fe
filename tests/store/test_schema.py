"""The schema: migrations build what the models say, and SQLite is set up as it must be."""

from datetime import UTC, datetime
from importlib import resources
from zoneinfo import ZoneInfo

import pytest
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import inspect, text
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

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
    values = {"set_id": "s", "job_id": None, "number": 1, "who": "w", "label": "l", "table_name": "t", "row_id": "r"}
    with Session(engine.execution_options(writing=True)) as session, session.begin():
        session.add(Change(id="c", at=local, before=None, after=None, undone_at=None, **values))
    with Session(engine) as session:
        found = session.get(Change, "c")
        assert found.at == datetime(2026, 11, 1, 7, 30, tzinfo=UTC)
        assert found.at.tzinfo == UTC
        assert session.execute(text("SELECT after IS NULL FROM changes")).scalar() == 1
