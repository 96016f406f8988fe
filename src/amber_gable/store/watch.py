"""Watching over the database file while it is served: deleted, swapped or without its log, it would take writes that nobody finds again.

SQLite goes on writing to a file that was taken away, since it holds it open. Not here: what is wrong with its content (faults).
"""

import os
from pathlib import Path

from amber_gable.store.faults import StorageError

_Identity = tuple[int, int]


def _identity(file: Path) -> _Identity | None:
    try:
        found = os.stat(file)
    except OSError:
        return None
    return found.st_dev, found.st_ino


class Watch:
    """The identity of a database file and of its log beside it.

    Parameters
    ----------
    file : Path
        Of a database that is open.
    """

    def __init__(self, file: Path) -> None:
        self.file, self._log = file, file.with_name(f"{file.name}-wal")
        self._is = _identity(file)
        self._log_is: _Identity | None = None

    def fault(self) -> str:
        """Return in words what was done to the file; empty where it is as it was."""
        now = _identity(self.file)
        if now != self._is:
            what = "is gone" if now is None else "was replaced by another file"
            return f"The database {self.file} {what} while the application was serving."
        log = _identity(self._log)
        if self._log_is is not None and log != self._log_is:
            return f"The log {self._log.name} of the database was taken away while the application was serving: the last changes lie in it."
        # It is made with the first write.
        self._log_is = log
        return ""

    def check(self) -> None:
        """Refuse a write that nobody would find again.

        Raises
        ------
        StorageError
        """
        if fault := self.fault():
            raise StorageError(
                f"{fault} Nothing was saved. Stop the application, put the file back or restore a back-up, then start again."
            )
