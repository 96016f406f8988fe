"""The database connection: SQLite in WAL mode, foreign keys on, writes that begin immediate."""

import os
import sqlite3
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import Engine, create_engine, event, make_url
from sqlalchemy.engine import Connection

BUSY_TIMEOUT_MS = 5000
# Its owner alone reads it: addresses, prices and photographs of other people's houses.
_OWNER_ONLY = 0o600


def file_of(url: str) -> Path | None:
    """Return the file of a SQLite database; None for one in memory, or another database."""
    parsed = make_url(url)
    is_file = parsed.get_backend_name() == "sqlite" and parsed.database and parsed.database != ":memory:"
    return Path(str(parsed.database)) if is_file else None


def open_engine(url: str, *, creates: bool = True) -> Engine:
    """Return an engine on `url`.

    Parameters
    ----------
    creates : bool
        Make the file of a SQLite database, and its folder, where they are missing. Without, a missing file is an error at the first
        question: a database that was taken away must not come back empty.
    """
    file = file_of(url)
    if file is None:
        engine = create_engine(url)
    else:
        if creates:
            file.parent.mkdir(parents=True, exist_ok=True)
            # The files beside it (-wal, -shm) take its rights.
            os.close(os.open(file, os.O_CREAT | os.O_RDWR, _OWNER_ONLY))
        engine = create_engine(url, creator=lambda: _connect(file))

    @event.listens_for(engine, "connect")
    def configure(connection: Any, _record: Any) -> None:
        # The driver's own transaction start would be deferred; `begin` below takes its place.
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute(f"PRAGMA busy_timeout={BUSY_TIMEOUT_MS}")
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA synchronous=NORMAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        cursor.close()

    @event.listens_for(engine, "begin")
    def begin(connection: Connection) -> None:
        # A transaction that will write takes the lock at once: one that reads first and asks for
        # the lock later can be refused without waiting.
        writing = connection.get_execution_options().get("writing", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")

    return engine


def _connect(file: Path) -> sqlite3.Connection:
    # rw, not rwc: the file is there, or it is a fault.
    return sqlite3.connect(f"file:{quote(str(file.absolute()))}?mode=rw", uri=True, check_same_thread=False)


def keep_private(file: Path) -> None:
    """Take the rights of everybody but the owner off a database and the files beside it."""
    for one in (file, file.with_name(f"{file.name}-wal"), file.with_name(f"{file.name}-shm")):
        if one.exists() and one.stat().st_mode & 0o077:
            one.chmod(_OWNER_ONLY)
