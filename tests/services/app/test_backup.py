"""Back-ups: made while others write, put back into an empty folder, compared whole; what is damaged, newer or in the way is refused."""

import json
import shutil
import sqlite3
import threading
from contextlib import closing
from datetime import UTC, datetime, timedelta

import pytest
from typer.testing import CliRunner

from amber_gable.cli import app
from amber_gable.services.app.machine import backup
from amber_gable.services.app.machine.backup import BackupError
from amber_gable.services.app.settings import Settings
from amber_gable.services.outlook import sightings as found
from amber_gable.services.survey.evidence import photos
from amber_gable.services.survey.evidence.photofiles import hash_of
from amber_gable.store.schema import HEAD
from tests.support.serving import open_at
from tests.support.surveys import picture


def rows_in(database) -> dict[str, list]:
    with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as opened:
        tables = [r[0] for r in opened.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
        return {t: sorted(opened.execute(f'SELECT * FROM "{t}"').fetchall(), key=repr) for t in tables}


def files_in(folder) -> dict[str, bytes]:
    return {str(p.relative_to(folder)): p.read_bytes() for p in sorted((folder / "photographs").rglob("*")) if p.is_file()}


@pytest.fixture
def kept(opened, job, tmp_path):
    """A back-up of the seeded firm with a photograph."""
    photos.add_photo(opened, job.id, picture())
    return backup.make(opened.settings, tmp_path / "backups")


def test_made_while_writes_go_on_and_restored_whole(opened, job, tmp_path, surface_named):
    photos.add_photo(opened, job.id, picture())
    wall, stop, written = surface_named("East wall"), threading.Event(), []

    def write():
        while not stop.is_set():
            found.feel(opened, job, [wall.id], "damp")
            written.append(1)

    writer = threading.Thread(target=write)
    writer.start()
    while len(written) < 5:
        pass
    before = len(written)
    made = backup.make(opened.settings, tmp_path / "backups")
    after = len(written)
    stop.set()
    writer.join()
    assert backup.verify(made.folder) == made
    empty = Settings(data_dir=tmp_path / "restored", backup_dir="-")
    backup.restore(made.folder, empty)
    restored = rows_in(tmp_path / "restored" / "amber-gable.sqlite3")
    assert restored == rows_in(made.folder / "database.sqlite3"), "row by row"
    notes = sum(row[-3:].count("palm-damp") or "palm-damp" in row for row in restored["sightings"])
    assert before <= notes <= after + 1, "the moment it was made, neither half a note nor one lost"
    live = rows_in(opened.settings.data_dir / "amber-gable.sqlite3")
    for table, rows in restored.items():
        assert not set(map(repr, rows)) - set(map(repr, live[table])) or table in ("jobs", "app_state"), f"{table}: only what was written"
    assert files_in(tmp_path / "restored") == files_in(opened.settings.data_dir) != {}, "file by file"
    again = open_at(tmp_path / "restored")
    assert len(photos.queries.photos(again.reading().__enter__(), job.id)) == 1
    again.app.close()


def test_the_same_photograph_in_two_backups_takes_its_room_once(opened, job, tmp_path, kept):
    second = backup.make(opened.settings, tmp_path / "backups")
    first, again = (next((m.folder / "photographs" / "private").iterdir()) for m in (kept, second))
    assert first.samefile(again)


def damaged(kept, how: str) -> None:
    file = next((kept.folder / "photographs" / "private").iterdir()) if how != "database" else kept.folder / "database.sqlite3"
    content = bytearray(file.read_bytes())
    if how == "cut":
        file.write_bytes(content[:-10])
    elif how == "gone":
        file.unlink()
    else:
        content[len(content) // 2] ^= 1
        file.unlink()
        file.write_bytes(content)


@pytest.mark.parametrize(("how", "words"), [("database", "damaged"), ("flipped", "damaged"), ("cut", "damaged"), ("gone", "missing")])
def test_one_wrong_bit_is_found_and_nothing_is_restored(tmp_path, kept, how, words):
    damaged(kept, how)
    with pytest.raises(BackupError, match=words):
        backup.restore(kept.folder, Settings(data_dir=tmp_path / "restored"))
    assert not (tmp_path / "restored").exists()


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"schema": "9999"}, f"newer version.*up to {HEAD}"),
        ({"format": 2}, "format 2"),
        ({"files": "all"}, "damaged"),
        (
            {"files": [{"path": "../../etc/passwd", "bytes": 1, "sha256": ""}, {"path": "database.sqlite3", "bytes": 1, "sha256": ""}]},
            "outside",
        ),
        ({"files": []}, "no database"),
    ],
)
def test_a_manifest_that_cannot_be_is_refused_in_words(tmp_path, kept, changes, words):
    manifest = kept.folder / "manifest.json"
    manifest.write_text(json.dumps(json.loads(manifest.read_text()) | changes))
    with pytest.raises(BackupError, match=words):
        backup.restore(kept.folder, Settings(data_dir=tmp_path / "restored"))


def test_nothing_that_is_there_is_written_over(opened, kept):
    before = files_in(opened.settings.data_dir), rows_in(opened.settings.data_dir / "amber-gable.sqlite3")
    with pytest.raises(BackupError, match="holds a firm's records already"):
        backup.restore(kept.folder, opened.settings)
    assert (files_in(opened.settings.data_dir), rows_in(opened.settings.data_dir / "amber-gable.sqlite3")) == before


def test_the_oldest_go_and_what_a_killed_run_left_is_no_backup(opened, tmp_path):
    where = tmp_path / "backups"
    settings = opened.settings.model_copy(update={"backups_kept": 3})
    made = [backup.make(settings, where) for _ in range(5)]
    assert [m.folder for m in backup.made_in(where)] == [m.folder for m in reversed(made[2:])]
    shutil.copytree(made[-1].folder, where / (made[-1].folder.name.replace("T", "T9") + ".unfinished"))
    assert len(backup.made_in(where)) == 3
    assert backup.newest(where) == made[-1].folder
    with pytest.raises(BackupError, match="never finished"):
        backup.verify(next(where.glob("*.unfinished")))


def test_once_a_day_by_itself_by_the_real_clock(opened, tmp_path, monkeypatch):
    opened.app.settings = opened.settings.model_copy(update={"backup_dir": str(tmp_path / "daily")})
    first = backup.make_due(opened.app)
    assert first is not None
    opened.clock.set(opened.clock.now() + timedelta(days=3))
    assert backup.make_due(opened.app) is None, "the demonstration's clock makes none"
    manifest = first.folder / "manifest.json"
    yesterday = (datetime.now(UTC) - timedelta(hours=25)).isoformat()
    manifest.write_text(json.dumps(json.loads(manifest.read_text()) | {"made_at": yesterday}))
    assert backup.make_due(opened.app) is not None
    assert backup.last_made(opened.app).made_at > first.made_at - timedelta(minutes=1)


def test_a_full_disk_leaves_nothing_unfinished(opened, tmp_path, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(backup, "_write", full)
    with pytest.raises(BackupError, match="No space left"):
        backup.make(opened.settings, tmp_path / "backups")
    assert list((tmp_path / "backups").iterdir()) == []


def test_by_command(opened, tmp_path, monkeypatch):
    monkeypatch.setenv("AMBER_GABLE_DATA_DIR", str(opened.settings.data_dir))
    run = CliRunner().invoke
    assert run(app, ["backup", str(tmp_path / "b")]).exit_code == 0
    assert "is whole" in run(app, ["verify", str(tmp_path / "b")]).stdout
    refused = run(app, ["restore", str(tmp_path / "b")])
    assert (refused.exit_code, "already" in refused.stderr) == (2, True)
    monkeypatch.setenv("AMBER_GABLE_DATA_DIR", str(tmp_path / "new"))
    assert run(app, ["restore", str(tmp_path / "b")]).exit_code == 0
    assert (tmp_path / "new" / "amber-gable.sqlite3").stat().st_mode & 0o077 == 0
    nothing = run(app, ["verify", str(tmp_path / "nowhere")])
    assert (nothing.exit_code, "no finished back-up" in nothing.stderr) == (2, True)


def with_sql(folder, sentence):
    with sqlite3.connect(folder / "database.sqlite3") as base:
        base.execute(sentence)
    base.close()
    manifest = folder / "manifest.json"
    listed = json.loads(manifest.read_text())
    for entry in listed["files"]:
        file = folder / entry["path"]
        entry |= {"bytes": file.stat().st_size, "sha256": hash_of(file)}
    manifest.write_text(json.dumps(listed))


@pytest.mark.parametrize(
    ("sentence", "words"),
    [
        ("CREATE TRIGGER quietly AFTER INSERT ON jobs BEGIN DELETE FROM bids; END", "trigger “quietly”"),
        ("CREATE VIEW prices AS SELECT * FROM jobs", "view “prices”"),
        ("CREATE TABLE extra_things (id)", "table “extra_things”"),
    ],
)
def test_what_we_never_make_is_refused_though_its_hash_is_right(kept, tmp_path, sentence, words):
    with_sql(kept.folder, sentence)
    with pytest.raises(BackupError, match=words):
        backup.restore(kept.folder, Settings(data_dir=tmp_path / "restored"))
    assert not (tmp_path / "restored").exists()


def test_links_and_files_that_nobody_listed_are_refused(kept):
    (kept.folder / "photographs").mkdir(exist_ok=True)
    link = kept.folder / "photographs" / "more"
    link.symlink_to("/etc")
    with pytest.raises(BackupError, match="is a link"):
        backup.verify(kept.folder)
    link.unlink()
    (kept.folder / "photographs" / "left.txt").write_text("not on the list")
    with pytest.raises(BackupError, match="not on its list"):
        backup.verify(kept.folder)


def test_a_list_of_files_too_large_to_be_one_is_refused_before_it_is_read(kept):
    with (kept.folder / "manifest.json").open("r+b") as opened:
        opened.truncate(200_000_000)
    with pytest.raises(BackupError, match="too large"):
        backup.verify(kept.folder)


def test_a_backup_from_the_future_ends_no_backups(opened, kept):
    where = opened.settings.data_dir / "backups"
    made = backup.make(opened.settings, where)
    ahead = made.folder.with_name("amber-gable-20990101T000000000000Z")
    made.folder.rename(ahead)
    manifest = ahead / "manifest.json"
    manifest.write_text(json.dumps(json.loads(manifest.read_text()) | {"made_at": "2099-01-01T00:00:00+00:00"}))
    scope = opened.app
    scope.settings = scope.settings.model_copy(update={"backup_dir": str(where)})
    assert backup.last_made(scope) is None
    assert backup.make_due(scope) is not None
    assert backup.make_due(scope) is None


def test_what_is_in_a_backup_is_its_owners_alone(kept):
    for one in (kept.folder, *kept.folder.rglob("*")):
        assert one.stat().st_mode & 0o077 == 0, one
