"""The data folder at the start: what is missing, empty, damaged, newer or locked is said, and no firm begins anew by itself."""

import os
import sqlite3
import stat
from contextlib import closing
from importlib import resources

import pytest
from alembic import command
from alembic.config import Config
from typer.testing import CliRunner

from amber_gable.cli import app
from amber_gable.services.app.machine.datafolder import StartError, open_database
from amber_gable.services.app.settings import Settings
from amber_gable.store.engine import open_engine
from amber_gable.store.schema import HEAD, current_revision

NAME = "amber-gable.sqlite3"


@pytest.fixture
def folder(opened, tmp_path):
    """A folder that was in use, closed."""
    opened.app.engine.dispose()
    return opened.settings.data_dir


def start(folder, **settings):
    open_database(Settings(data_dir=folder, **settings)).dispose()


def gone(folder):
    (folder / NAME).unlink()


def emptied(folder):
    (folder / NAME).write_bytes(b"")


def without_tables(folder):
    (folder / NAME).unlink()
    sqlite3.connect(folder / NAME).close()


def scribbled(folder):
    (folder / NAME).write_bytes(b"this is no database at all" * 100)


def newer(folder):
    with closing(sqlite3.connect(folder / NAME)) as opened, opened:
        opened.execute("UPDATE alembic_version SET version_num = '9999'")


@pytest.mark.parametrize(
    ("happened", "words"),
    [
        (gone, "is missing, although this folder was in use since"),
        (emptied, "is empty, although this folder was in use"),
        (without_tables, "although this folder was in use"),
        (scribbled, "damaged: it is no database"),
        (newer, "written by a newer version.*9999"),
    ],
)
def test_what_is_wrong_is_said_and_nothing_begins_anew(folder, happened, words, monkeypatch):
    happened(folder)
    before = {p.name: p.read_bytes() for p in folder.iterdir() if p.is_file()}
    with pytest.raises(StartError, match=words):
        start(folder)
    after = {p.name: p.read_bytes() for p in folder.iterdir() if p.is_file() and not p.name.endswith(("-wal", "-shm"))}
    assert after == {k: v for k, v in before.items() if not k.endswith(("-wal", "-shm"))}, "nothing was written over"
    monkeypatch.setenv("AMBER_GABLE_DATA_DIR", str(folder))
    said = CliRunner().invoke(app, ["serve", "--port", "1"])
    assert (said.exit_code, said.exception.__class__) == (2, SystemExit), "an exit code and words, no traceback"


def test_who_says_so_may_begin_anew(folder):
    gone(folder)
    start(folder, start_empty=True)
    start(folder)


def test_photographs_without_a_database_are_a_folder_in_use(tmp_path):
    (tmp_path / "photographs" / "private").mkdir(parents=True)
    (tmp_path / "photographs" / "private" / "ab.jpg").write_bytes(b"x")
    with pytest.raises(StartError, match="restore a back-up"):
        start(tmp_path)


def test_a_folder_that_cannot_be_written_is_named(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(StartError, match=r"cannot be written.*AMBER_GABLE_DATA_DIR"):
        start(tmp_path / "file" / "data")


def test_a_database_that_another_program_holds_is_said(folder, monkeypatch):
    monkeypatch.setattr("amber_gable.store.engine.BUSY_TIMEOUT_MS", 50)
    newer_schema = sqlite3.connect(folder / NAME, isolation_level=None)
    newer_schema.execute("UPDATE alembic_version SET version_num = '0007'")
    newer_schema.execute("BEGIN EXCLUSIVE")
    with pytest.raises(StartError, match="Another program holds the database"):
        start(folder)
    newer_schema.close()


def test_the_owner_alone_reads_the_database(tmp_path):
    start(tmp_path)
    os.chmod(tmp_path / NAME, 0o644)
    start(tmp_path)
    assert stat.S_IMODE((tmp_path / NAME).stat().st_mode) == 0o600


def test_a_database_taken_away_while_serving_does_not_come_back_empty(tmp_path):
    start(tmp_path)
    engine = open_engine(f"sqlite:///{tmp_path / NAME}", creates=False)
    (tmp_path / NAME).unlink()
    with pytest.raises(Exception, match="unable to open"):
        engine.connect()
    assert not (tmp_path / NAME).exists()


def test_before_a_database_is_brought_up_to_date_it_is_copied(tmp_path, caplog):
    old = open_engine(f"sqlite:///{tmp_path / NAME}")
    config = Config()
    config.set_main_option("script_location", str(resources.files("amber_gable.store") / "migrations"))
    config.attributes["engine"] = old
    command.upgrade(config, "0023")
    with old.execution_options(writing=True).begin() as connection:
        connection.exec_driver_sql("INSERT INTO contractors (name, units, painters, version, id) VALUES ('C', 'us', '[]', 1, 'c')")
    old.dispose()
    opened = open_database(Settings(data_dir=tmp_path))
    assert current_revision(opened) == HEAD
    opened.dispose()
    copy = next(tmp_path.glob("*-schema-0023-*.sqlite3"))
    assert "To go back" in caplog.text
    assert copy.name in caplog.text
    with sqlite3.connect(copy) as base:
        assert base.execute("SELECT name FROM contractors").fetchall() == [("C",)]
        assert base.execute("SELECT version_num FROM alembic_version").fetchall() == [("0023",)]
    base.close()
    assert copy.stat().st_mode & 0o077 == 0
