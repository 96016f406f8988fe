"""Turns of writers: those of one process write one after another, and whoever waits gets through.

SQLite lets each who waits try again by chance, for a while; among many writers on a crowded machine one may never be the first.
Not here: other programs at the same file, for which SQLite's own wait stands (engine).
"""

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from threading import RLock

from sqlalchemy.exc import OperationalError

from amber_gable.store.engine import BUSY_TIMEOUT_MS


class Turn:
    """Whose turn it is to write."""

    def __init__(self) -> None:
        self._lock = RLock()
        self._is_writing = False

    @contextmanager
    def taken(self) -> Iterator[None]:
        """Wait for one's turn, and have it for as long as the block lasts.

        Raises
        ------
        OperationalError
            If whoever has the turn waits for another program all that time: so would this one.
        """
        while not self._lock.acquire(timeout=BUSY_TIMEOUT_MS / 1000):
            if not self._is_writing:
                raise OperationalError("BEGIN IMMEDIATE", None, sqlite3.OperationalError("database is locked"))
        try:
            yield
        finally:
            self._is_writing = False
            self._lock.release()

    def writes(self) -> None:
        """Say that the one whose turn it is has the database."""
        self._is_writing = True
