"""The data folder: opened at the start, with a clear word where something is wrong with it.

A folder that was in use never becomes an empty firm by itself: where its database is missing or
empty, the application does not start until it is restored, or somebody says that it may begin anew.
"""

import json
import logging
import os
import sqlite3
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import Engine
from sqlalchemy.exc import DatabaseError

from amber_gable.errors import PlanError
from amber_gable.services.app.lanes import CONNECTIONS
from amber_gable.services.app.settings import Settings
from amber_gable.services.survey.evidence.photofiles import FOLDER
from amber_gable.store import faults
from amber_gable.store.engine import file_of, keep_private, open_engine
from amber_gable.store.schema import HEAD, current_revision, is_known, migrate

log = logging.getLogger(__name__)
# Of databases as they were before they were brought up to date.
_COPIES_KEPT = 5
# Says that the folder was in use; stands beside the database.
MARK = "in-use.json"


class StartError(PlanError):
    """The application cannot start; the message says why and what to do."""


def open_database(settings: Settings) -> Engine:
    """Return an engine on the data folder's database, brought up to date.

    Raises
    ------
    StartError
        If the folder cannot be written, its database is missing, empty, damaged, locked, or of a newer version.
    """
    url = settings.resolved_database_url
    file = file_of(url)
    if file is None:
        engine = open_engine(url)
        migrate(engine)
        return engine
    folder = file.parent
    _check_writable(folder)
    _check_not_lost(file, settings)
    engine = open_engine(url, connections=CONNECTIONS)
    try:
        keep_private(file)
        _check_schema(engine, file)
        _migrate(engine, file)
    except (DatabaseError, sqlite3.Error) as fault:
        engine.dispose()
        said = faults.in_words(fault)
        if said is None:
            raise
        raise StartError(f"{file}: {said}") from fault
    except OSError as fault:
        engine.dispose()
        raise StartError(f"{file}: {fault.strerror}. Mend that, then start again.") from fault
    except StartError:
        engine.dispose()
        raise
    _mark(folder)
    return engine


def _migrate(engine: Engine, file: Path) -> None:
    """Bring the database up to date; as it was before stays beside it, and the way back is told."""
    before = current_revision(engine)
    if before in (None, HEAD):
        migrate(engine)
        return
    copy = file.with_name(f"{file.stem}-schema-{before}-{datetime.now(UTC):%Y%m%dT%H%M%SZ}.sqlite3")
    os.close(os.open(copy, os.O_CREAT | os.O_RDWR, 0o600))
    with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as live, closing(sqlite3.connect(copy)) as kept:
        live.backup(kept)
    way_back = f"To go back: stop, put {copy.name} in the place of {file.name} in {file.parent}, start the version that you had."
    try:
        migrate(engine)
    except Exception as fault:
        if isinstance(fault, DatabaseError | sqlite3.Error) and faults.in_words(fault) is not None:
            raise
        log.exception("the database cannot be brought up to date")
        raise StartError(
            f"The database {file} could not be brought from schema {before} to {HEAD} ({type(fault).__name__}). As it was before, it lies"
            f" in {copy.name}. {way_back} Tell us what stands above."
        ) from fault
    log.warning("The database was brought from schema %s to %s. As it was before, it lies in %s. %s", before, HEAD, copy.name, way_back)
    for old in sorted(file.parent.glob(f"{file.stem}-schema-*.sqlite3"), key=lambda one: one.stat().st_mtime)[:-_COPIES_KEPT]:
        old.unlink(missing_ok=True)


def _check_writable(folder: Path) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        probe = folder / f".probe-{os.getpid()}"
        probe.write_bytes(b"room?" * 1000)
        probe.unlink()
    except OSError as fault:
        raise StartError(
            f"The data folder {folder} cannot be written: {(fault.strerror or str(fault)).lower()}."
            " Give this user the right to write there, make room on the disk, or name another folder by AMBER_GABLE_DATA_DIR."
        ) from fault


def _is_empty(file: Path) -> bool:
    """Return whether a database file is missing, has no bytes, or holds no table."""
    if not file.exists() or file.stat().st_size == 0:
        return True
    connection = sqlite3.connect(f"file:{file}?mode=ro", uri=True)
    try:
        return not connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
    except sqlite3.Error:
        # Damaged or locked: said where it is opened.
        return False
    finally:
        connection.close()


def _check_not_lost(file: Path, settings: Settings) -> None:
    mark, photographs = file.parent / MARK, settings.data_dir / FOLDER / "private"
    was_in_use = mark.exists() or (photographs.is_dir() and any(photographs.iterdir()))
    if not was_in_use or settings.start_empty or not _is_empty(file):
        return
    since = ""
    with suppress(OSError, ValueError, KeyError, TypeError):
        since = f" since {datetime.fromisoformat(json.loads(mark.read_text())['since']):%d %B %Y}"
    what = "is empty" if file.exists() else "is missing"
    raise StartError(
        f"The database {file} {what}, although this folder was in use{since}. Nothing was started, so that nothing is written over."
        f" Put the file back, or restore a back-up: amber-gable restore {settings.backups_in}"
        " To begin with an empty firm here all the same, start with AMBER_GABLE_START_EMPTY=1."
    )


def _check_schema(engine: Engine, file: Path) -> None:
    revision = current_revision(engine)
    if revision is not None and not is_known(revision):
        raise StartError(
            f"The database {file} was written by a newer version of Amber Gable (schema {revision}; this one knows up to {HEAD})."
            " Start the newer version, or restore a back-up that this one made."
        )


def _mark(folder: Path) -> None:
    mark = folder / MARK
    if not mark.exists():
        mark.write_text(json.dumps({"since": datetime.now(UTC).isoformat()}))
