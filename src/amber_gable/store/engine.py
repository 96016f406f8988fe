"""The database connection: SQLite in WAL mode, foreign keys on, writes that begin immediate."""

from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event, make_url
from sqlalchemy.engine import Connection

BUSY_TIMEOUT_MS = 5000


def open_engine(url: str) -> Engine:
    """Return an engine on `url`; makes the folder of a SQLite file where it is missing."""
    parsed = make_url(url)
    if parsed.database and parsed.database != ":memory:":
        Path(parsed.database).parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(url)

    @event.listens_for(engine, "connect")
    def configure(connection: Any, _record: Any) -> None:
        # The driver's own transaction start would be deferred; `begin` below takes its place.
        connection.isolation_level = None
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA synchronous=NORMAL")
        cursor.execute("PRAGMA foreign_keys=ON")
        cursor.execute(f"PRAGMA busy_timeout={BUSY_TIMEOUT_MS}")
        cursor.close()

    @event.listens_for(engine, "begin")
    def begin(connection: Connection) -> None:
        # A transaction that will write takes the lock at once: one that reads first and asks for
        # the lock later can be refused without waiting.
        writing = connection.get_execution_options().get("writing", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")

    return engine
