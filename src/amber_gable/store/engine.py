"""The database connection: SQLite in WAL mode, foreign keys on; writes begin immediate and lie on the disk when they end."""

import os
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import Engine, create_engine, event, make_url
from sqlalchemy.engine import Connection

BUSY_TIMEOUT_MS = 5000
_POOL_WAIT_S = 10.0
# In WAL mode FULL also waits for the disk at the end of each transaction; NORMAL may lose the last ones with the power.
_DURABLE, _SWIFT = "FULL", "NORMAL"
# Its owner alone reads it: addresses, prices and photographs of other people's houses.
_OWNER_ONLY = 0o600


def file_of(url: str) -> Path | None:
    """Return the file of a SQLite database; None for one in memory, or another database."""
    parsed = make_url(url)
    is_file = parsed.get_backend_name() == "sqlite" and parsed.database and parsed.database != ":memory:"
    return Path(str(parsed.database)) if is_file else None


def open_engine(url: str, *, creates: bool = True, connections: int = 15) -> Engine:
    """Return an engine on `url`.

    Parameters
    ----------
    connections : int
        The most that are open at a time; whoever needs one more waits for it.
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
        # The one used last is taken first: few connections are warm, the others cost nothing.
        engine = create_engine(
            url, creator=lambda: _connect(file), pool_size=connections, max_overflow=0, pool_timeout=_POOL_WAIT_S, pool_use_lifo=True
        )

    @event.listens_for(engine, "connect")
    def configure(connection: Any, _record: Any) -> None:
        # The driver's own transaction start would be deferred; `begin` below takes its place.
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute(f"PRAGMA busy_timeout={BUSY_TIMEOUT_MS}")
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute(f"PRAGMA synchronous={_DURABLE}")
        cursor.execute("PRAGMA foreign_keys=ON")
        cursor.close()

    @event.listens_for(engine, "begin")
    def begin(connection: Connection) -> None:
        # A transaction that will write takes the lock at once: one that reads first and asks for
        # the lock later can be refused without waiting.
        options = connection.get_execution_options()
        if options.get("writing", False):
            # What is acknowledged lies on the disk, not in a cache of it; what can be made again need not wait for that.
            connection.exec_driver_sql(f"PRAGMA synchronous={_DURABLE if options.get('durable', True) else _SWIFT}")
            connection.exec_driver_sql("BEGIN IMMEDIATE")
        else:
            connection.exec_driver_sql("BEGIN")

    return engine


class LoopError(RuntimeError):
    """The database was asked from the event loop: all requests would wait for this one."""


@contextmanager
def refused_in(engine: Engine, loop: int) -> Iterator[None]:
    """Let no connection be taken by a thread, an event loop's, as long as the block lasts.

    Parameters
    ----------
    loop : int
        Of `threading.get_ident`.
    """

    def refuse(*_: Any) -> None:
        if threading.get_ident() == loop:
            raise LoopError("The database is asked from the event loop; ask it from a thread (web.door.desk).")

    event.listen(engine, "checkout", refuse)
    try:
        yield
    finally:
        event.remove(engine, "checkout", refuse)


def _connect(file: Path) -> sqlite3.Connection:
    # rw, not rwc: the file is there, or it is a fault.
    return sqlite3.connect(f"file:{quote(str(file.absolute()))}?mode=rw", uri=True, check_same_thread=False)


def keep_private(file: Path) -> None:
    """Take the rights of everybody but the owner off a database and the files beside it."""
    for one in (file, file.with_name(f"{file.name}-wal"), file.with_name(f"{file.name}-shm")):
        if one.exists() and one.stat().st_mode & 0o077:
            one.chmod(_OWNER_ONLY)
