"""What goes wrong with the database, in plain words."""

import sqlite3

from sqlalchemy.exc import DatabaseError

from amber_gable.errors import PlanError


class StorageError(PlanError):
    """The database or its disk refuses; the message says what happened and what to do.

    Parameters
    ----------
    is_full : bool
        The disk has no room left.
    """

    def __init__(self, message: str, *, is_full: bool = False) -> None:
        super().__init__(message, "form")
        self.is_full = is_full


# What SQLite says, and what it means to whoever runs the application.
_WORDS = (
    ("locked", "Another program holds the database just now. Nothing was saved. Try again in a moment."),
    ("busy", "Another program holds the database just now. Nothing was saved. Try again in a moment."),
    ("full", "The disk is full. Nothing was saved. Make room on it, then try again."),
    ("disk i/o", "The disk does not read or write as it should. Nothing was saved. Look at the disk, then try again."),
    (
        "readonly",
        "The database is write-protected, or its folder is. Nothing was saved. Give this user the right to write.",
    ),
    ("unable to open", "The database file is gone or cannot be opened. Nothing was saved. Put it back, from a back-up if need be."),
    ("no such table", "The database has lost its tables. Nothing was saved. Stop the application and restore a back-up."),
    ("malformed", "The database is damaged. Nothing was saved. Stop the application and restore a back-up."),
    ("not a database", "The database file is damaged: it is no database. Stop the application and restore a back-up."),
)


def in_words(fault: DatabaseError | sqlite3.Error) -> StorageError | None:
    """Return the fault as the user is told it; None for one that is our own mistake."""
    said = str(getattr(fault, "orig", None) or fault).lower()
    words = next((words for mark, words in _WORDS if mark in said), None)
    return None if words is None else StorageError(words, is_full="full" in said)
