"""Back-ups: the database and the photographs in one folder, proved by their hashes, put back whole or not at all.

    amber-gable-20261127T041500Z/
        database.sqlite3      SQLite's own online copy, made while writes go on
        photographs/...       named by their content; the same file in several back-ups is kept once
        manifest.json         what belongs to it, with lengths and hashes; written last

Times of back-ups are real ones, whatever the application's clock shows.
"""

import json
import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from amber_gable.errors import PlanError
from amber_gable.services.app.app import App
from amber_gable.services.app.settings import Settings
from amber_gable.services.survey.evidence.photofiles import FOLDER, hash_of
from amber_gable.store.engine import file_of
from amber_gable.store.schema import HEAD, TABLES, is_known

FORMAT = 1
_PREFIX, _UNFINISHED = "amber-gable-", ".unfinished"
_DATABASE, _MANIFEST = "database.sqlite3", "manifest.json"
EVERY = timedelta(hours=24)
_CLOCKS_DIFFER = timedelta(minutes=10)
_MOST_LISTED_BYTES = 64_000_000


class BackupError(PlanError):
    """A back-up that cannot be made, or cannot be trusted; the message says why."""


@dataclass(frozen=True)
class Made:
    """A back-up that is there.

    Parameters
    ----------
    folder : Path
    made_at : datetime
        Real time.
    schema : str
        Of its database.
    photographs : int
    size_bytes : int
    """

    folder: Path
    made_at: datetime
    schema: str
    photographs: int
    size_bytes: int


def make(settings: Settings, where: Path) -> Made:
    """Make a back-up into a new folder under `where`, and let the oldest ones beyond the number that is kept go.

    Raises
    ------
    BackupError
        If there is no database, or no room; nothing unfinished is left behind.
    """
    source = file_of(settings.resolved_database_url)
    if source is None or not source.exists():
        raise BackupError(f"There is no database to back up at {source or settings.resolved_database_url}.")
    # Real time, not the application's clock: a demonstration's back-up is not from its September.
    made_at = datetime.now(UTC)
    folder = where / f"{_PREFIX}{made_at:%Y%m%dT%H%M%S%fZ}"
    unfinished = folder.with_name(folder.name + _UNFINISHED)
    try:
        where.mkdir(parents=True, exist_ok=True, mode=0o700)
        unfinished.mkdir(mode=0o700)
        _copy_database(source, unfinished / _DATABASE)
        files = [_entry(unfinished, _DATABASE), *_copy_photographs(settings.data_dir / FOLDER, unfinished, _previous(where))]
        schema = _schema_of(unfinished / _DATABASE)
        manifest = {"format": FORMAT, "made_at": made_at.isoformat(), "schema": schema, "files": files}
        _write(unfinished / _MANIFEST, json.dumps(manifest, indent=1).encode())
        _for_its_owner(unfinished)
        unfinished.rename(folder)
    except (OSError, sqlite3.Error) as fault:
        shutil.rmtree(unfinished, ignore_errors=True)
        raise BackupError(f"The back-up could not be made: {fault}. Nothing of it was kept.") from fault
    _rotate(where, settings.backups_kept)
    return _made(folder, manifest)


def _for_its_owner(folder: Path) -> None:
    """Take everybody else's rights off a folder and all that is in it: addresses, prices, photographs of other people's houses."""
    for one in (folder, *folder.rglob("*")):
        one.chmod(0o700 if one.is_dir() else 0o600)


def _copy_database(source: Path, target: Path) -> None:
    os.close(os.open(target, os.O_CREAT | os.O_RDWR, 0o600))
    with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as live, closing(sqlite3.connect(target)) as copy:
        # In one step: a reader's snapshot, while others go on writing.
        live.backup(copy)
        copy.execute("PRAGMA journal_mode=DELETE")
        verdict = copy.execute("PRAGMA integrity_check").fetchone()[0]
    if verdict != "ok":
        raise BackupError(f"The database is damaged ({verdict}). Keep the back-ups that are there.")
    with target.open("rb") as opened:
        os.fsync(opened.fileno())


def _schema_of(database: Path) -> str:
    with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as opened:
        return str(opened.execute("SELECT version_num FROM alembic_version").fetchone()[0])


def _copy_photographs(source: Path, folder: Path, previous: Path | None) -> Iterator[dict[str, Any]]:
    for file in sorted(p for p in source.rglob("*") if p.is_file() and not p.name.startswith(".")) if source.is_dir() else ():
        inside = f"{FOLDER}/{file.relative_to(source).as_posix()}"
        target = folder / inside
        target.parent.mkdir(parents=True, exist_ok=True)
        # Named by its content, so the last back-up's is the same; a disk that knows no second name gets a copy.
        before = previous / inside if previous is not None else None
        is_same = before is not None and before.is_file() and before.stat().st_size == file.stat().st_size
        try:
            if not is_same:
                raise OSError
            os.link(str(before), target)
        except OSError:
            shutil.copyfile(file, target)
        yield _entry(folder, inside)


def _entry(folder: Path, inside: str) -> dict[str, Any]:
    return {"path": inside, "bytes": (folder / inside).stat().st_size, "sha256": hash_of(folder / inside)}


def _write(path: Path, content: bytes) -> None:
    with os.fdopen(os.open(path, os.O_CREAT | os.O_WRONLY | os.O_TRUNC, 0o600), "wb") as opened:
        opened.write(content)
        opened.flush()
        os.fsync(opened.fileno())


def _previous(where: Path) -> Path | None:
    made = made_in(where)
    return made[0].folder if made else None


def made_in(where: Path | None) -> list[Made]:
    """Return the finished back-ups of a folder, the newest first; those that cannot be read are left out."""
    backups = []
    for folder in sorted(where.glob(f"{_PREFIX}*"), reverse=True) if where is not None and where.is_dir() else ():
        with suppress(OSError, ValueError, KeyError, TypeError, BackupError):
            backups.append(_made(folder, _read_manifest(folder)))
    return backups


def _made(folder: Path, manifest: dict[str, Any]) -> Made:
    files = manifest["files"]
    originals = sum(f["path"].startswith(f"{FOLDER}/private/") for f in files)
    made_at = datetime.fromisoformat(manifest["made_at"])
    return Made(folder, made_at, str(manifest["schema"]), originals, sum(int(f["bytes"]) for f in files))


def _rotate(where: Path, kept: int) -> None:
    now = datetime.now(UTC)
    # What a wrong clock dated into the future goes before the others.
    for old in sorted(made_in(where), key=lambda made: (made.made_at <= now + _CLOCKS_DIFFER, made.made_at), reverse=True)[kept:]:
        shutil.rmtree(old.folder, ignore_errors=True)
    for left in where.glob(f"{_PREFIX}*{_UNFINISHED}"):
        # Of a run that was killed; one that is under way is younger.
        if left.stat().st_mtime < datetime.now(UTC).timestamp() - EVERY.total_seconds():
            shutil.rmtree(left, ignore_errors=True)


def _read_manifest(folder: Path) -> dict[str, Any]:
    if folder.name.endswith(_UNFINISHED):
        raise BackupError(f"{folder.name} was never finished. Take another back-up.")
    try:
        if (folder / _MANIFEST).stat().st_size > _MOST_LISTED_BYTES:
            raise BackupError(f"The list of files of {folder.name} is too large to be one.")
        manifest: Any = json.loads((folder / _MANIFEST).read_text())
    except FileNotFoundError as fault:
        raise BackupError(f"{folder} is no back-up, or one that lost its list of files ({_MANIFEST}).") from fault
    except (OSError, ValueError) as fault:
        raise BackupError(f"The list of files of {folder.name} cannot be read: {fault}.") from fault
    if not isinstance(manifest, dict) or not isinstance(manifest.get("files"), list):
        raise BackupError(f"The list of files of {folder.name} is damaged.")
    if manifest.get("format") != FORMAT:
        raise BackupError(f"{folder.name} is of format {manifest.get('format')}, this version reads {FORMAT}: use the one that made it.")
    return manifest


def verify(folder: Path) -> Made:
    """Check a back-up: every file there, by its length and hash, nothing besides, and a database that holds together.

    Raises
    ------
    BackupError
        Naming the first thing that is wrong.
    """
    manifest = _read_manifest(folder)
    try:
        listed = {str(f["path"]): (int(f["bytes"]), str(f["sha256"])) for f in manifest["files"]}
        made = _made(folder, manifest)
    except (KeyError, TypeError, ValueError) as fault:
        raise BackupError(f"The list of files of {folder.name} is damaged.") from fault
    if not is_known(made.schema):
        raise BackupError(f"{folder.name} was made by a newer version (schema {made.schema}, this one knows up to {HEAD}): use that.")
    if _DATABASE not in listed:
        raise BackupError(f"{folder.name} holds no database.")
    for inside, (size, digest) in listed.items():
        file = folder / inside
        if not file.resolve().is_relative_to(folder.resolve()):
            raise BackupError(f"{inside} lies outside the back-up.")
        if inside != _DATABASE and not inside.startswith(f"{FOLDER}/"):
            raise BackupError(f"{inside} is on the list of {folder.name}; a back-up holds the database and photographs alone.")
        if not file.is_file():
            raise BackupError(f"{inside} is missing in {folder.name}.")
        if file.stat().st_size != size or hash_of(file) != digest:
            raise BackupError(f"{inside} is damaged in {folder.name}. Use another back-up.")
    _check_nothing_besides(folder, set(listed))
    _check_database(folder / _DATABASE)
    return made


def _check_nothing_besides(folder: Path, listed: set[str]) -> None:
    """Refuse what a back-up never holds: links, and files that its list does not name."""
    for file in sorted(folder.rglob("*")):
        inside = file.relative_to(folder).as_posix()
        if file.is_symlink():
            raise BackupError(f"{inside} in {folder.name} is a link; a back-up holds none. Use another back-up.")
        if not file.is_dir() and inside not in listed | {_MANIFEST}:
            raise BackupError(f"{inside} in {folder.name} is not on its list of files. Use another back-up.")


def _check_ours(opened: sqlite3.Connection) -> None:
    """Refuse a database with what we never make: it would act when it is written to, or hide what is there."""
    for kind, name in opened.execute("SELECT type, name FROM sqlite_master WHERE type IN ('table', 'view', 'trigger') ORDER BY name"):
        if kind != "table" or not (name in TABLES or name.startswith("sqlite_")):
            raise BackupError(f"The database of this back-up holds a {kind} “{name}” that is not ours. Use another back-up.")


def _check_database(database: Path) -> None:
    try:
        with closing(sqlite3.connect(f"file:{database}?mode=ro&immutable=1", uri=True)) as opened:
            verdict = opened.execute("PRAGMA integrity_check").fetchone()[0]
            loose = opened.execute("PRAGMA foreign_key_check").fetchone()
            _check_ours(opened)
    except sqlite3.Error as fault:
        raise BackupError(f"The database of this back-up cannot be read: {fault}.") from fault
    if verdict != "ok" or loose:
        raise BackupError(f"The database of this back-up is damaged ({verdict if verdict != 'ok' else 'rows that hang on nothing'}).")


def newest(where: Path) -> Path:
    """Return a back-up: `where` itself if it is one, else the newest in it.

    Raises
    ------
    BackupError
    """
    if (where / _MANIFEST).exists() or where.name.startswith(_PREFIX):
        return where
    backups = made_in(where)
    if not backups:
        raise BackupError(f"There is no finished back-up in {where}.")
    return backups[0].folder


def restore(folder: Path, settings: Settings) -> Made:
    """Put a back-up into an empty data folder.

    Raises
    ------
    BackupError
        If it is damaged or of a newer version, or there is something already: then nothing was changed.
    """
    made = verify(folder)
    target = file_of(settings.resolved_database_url)
    if target is None:
        raise BackupError("Only a database in a file can be restored; see AMBER_GABLE_DATABASE_URL.")
    photographs = settings.data_dir / FOLDER
    has_database = target.exists() and target.stat().st_size > 0
    if has_database or (photographs.exists() and any(p.is_file() for p in photographs.rglob("*"))):
        raise BackupError(
            f"{settings.data_dir} holds a firm's records already. Move them away first, or name an empty folder by AMBER_GABLE_DATA_DIR:"
            " nothing is written over."
        )
    unfinished = settings.data_dir / f".restoring{_UNFINISHED}"
    try:
        settings.data_dir.mkdir(parents=True, exist_ok=True, mode=0o700)
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.rmtree(unfinished, ignore_errors=True)
        shutil.copytree(folder, unfinished)
        _for_its_owner(unfinished)
        if (unfinished / FOLDER).exists():
            shutil.rmtree(photographs, ignore_errors=True)
            (unfinished / FOLDER).rename(photographs)
        for beside in ("-wal", "-shm"):
            # Of a database that is gone: it must not be laid over the one that comes.
            target.with_name(target.name + beside).unlink(missing_ok=True)
        (unfinished / _DATABASE).chmod(0o600)
        # Last: a folder with photographs and no database says that something is amiss.
        (unfinished / _DATABASE).replace(target)
    except OSError as fault:
        raise BackupError(f"The back-up could not be put back: {fault}. The back-up itself is whole; try again.") from fault
    finally:
        shutil.rmtree(unfinished, ignore_errors=True)
    return made


def make_due(app: App) -> Made | None:
    """Make today's back-up where the last one is a day old; return it if one was made."""
    where = app.settings.backups_in
    last = last_made(app)
    if where is None or (last is not None and datetime.now(UTC) - last.made_at < EVERY):
        return None
    return make(app.settings, where)


def last_made(app: App) -> Made | None:
    """Return the newest of the back-ups that are made by themselves; one from the future, of a clock that was wrong, is none."""
    now = datetime.now(UTC)
    return next((made for made in made_in(app.settings.backups_in) if made.made_at <= now + _CLOCKS_DIFFER), None)
