"""The one door for changes: who, when, before and after; and the way back.

Everything a user edits goes through `changing`. It makes undo, the audit trail and edit conflicts
one mechanism instead of three.
"""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from amber_gable.errors import ConflictError, Differing, NotFoundError, PlanError
from amber_gable.services.app.context import Context
from amber_gable.services.changes import sentforms
from amber_gable.store import queries
from amber_gable.store.models import Base, Change, Contractor, EditableRow, Job, ShelfRow
from amber_gable.store.types import UtcDateTime, new_id

_T = TypeVar("_T")
_Row = TypeVar("_Row", bound=EditableRow)
_TABLES: dict[str, type[Any]] = {mapper.class_.__tablename__: mapper.class_ for mapper in Base.registry.mappers}

# What is laid over the tables: a change of it lays them anew.
_LAID = {ShelfRow.__tablename__, Contractor.__tablename__}


def _columns(row: Any) -> dict[str, Any]:
    out = {}
    for column in row.__table__.columns:
        value = getattr(row, column.key)
        out[column.key] = value.isoformat() if isinstance(value, datetime) else value
    return out


def _values(model: type[Any], columns: Mapping[str, Any]) -> dict[str, Any]:
    out = {}
    for column in model.__table__.columns:
        if column.key in columns:
            value = columns[column.key]
            is_time = isinstance(column.type, UtcDateTime) and value is not None
            out[column.key] = datetime.fromisoformat(value) if is_time else value
    return out


def _jobs_of(table: str, columns: Mapping[str, Any] | None) -> set[str]:
    """Return the job that a row names itself: paint in stock may go from one to another."""
    found = (columns or {}).get("id" if table == Job.__tablename__ else "job_id")
    return {found} if found else set()


@dataclass
class ChangeSet:
    """The rows that one action touches; made by `changing`."""

    session: Session
    set_id: str
    job_id: str | None
    at: datetime
    who: str
    label: str
    number: int
    tables: set[str] = field(default_factory=set)
    # Jobs that a row belongs to or belonged to, whose revisions are raised.
    jobs: set[str] = field(default_factory=set)

    def _record(self, row: Any, before: dict[str, Any] | None, after: dict[str, Any] | None) -> None:
        self.tables.add(row.__tablename__)
        self.jobs |= _jobs_of(row.__tablename__, before) | _jobs_of(row.__tablename__, after)
        self.number += 1
        self.session.add(
            Change(
                set_id=self.set_id,
                job_id=self.job_id,
                number=self.number,
                at=self.at,
                who=self.who,
                label=self.label,
                table_name=row.__tablename__,
                row_id=row.id,
                before=before,
                after=after,
            )
        )

    def find(self, model: type[_Row], row_id: str, what: str) -> _Row:
        """Return a row of this action's job.

        Raises
        ------
        NotFoundError
            If it is gone, or belongs to another job.
        """
        return require(queries.of_job(self.session, model, row_id, self.job_id or ""), what)

    def add(self, row: Any) -> None:
        """Insert a row."""
        self.session.add(row)
        self.session.flush()
        self._record(row, None, _columns(row))

    def update(self, row: Any, values: Mapping[str, Any], expected_version: int | None = None) -> None:
        """Change columns of a row; nothing is written where nothing differs.

        Raises
        ------
        ConflictError
            If `expected_version` is given and the row has moved on; with what differs, field by field.
        """
        if expected_version is not None and row.version != expected_version:
            raise self.conflict(row, values)
        if all(getattr(row, key) == value for key, value in values.items()):
            return
        before = _columns(row)
        for key, value in values.items():
            setattr(row, key, value)
        row.version += 1
        self._record(row, before, _columns(row))

    def conflict(self, row: Any, values: Mapping[str, Any]) -> ConflictError:
        """Return the error of an edit that meets a row which somebody changed meanwhile."""
        last = queries.last_change_of(self.session, row.id)
        differing = tuple(Differing(key, getattr(row, key), value) for key, value in values.items() if getattr(row, key) != value)
        who, at = (last.who, last.at) if last is not None else ("", None)
        return ConflictError("Somebody changed this while you were typing.", row.version, differing, who, at)

    def delete(self, row: Any) -> None:
        """Delete a row. Delete what hangs on it first, so that undo brings all of it back."""
        self._record(row, _columns(row), None)
        # Children that were loaded would have their link emptied; those that remain have moved on.
        self.session.expire(row, [r.key for r in row.__mapper__.relationships])
        self.session.delete(row)
        self.session.flush()


@contextmanager
def changing(context: Context, label: str, job_id: str | None = None, who: str = "office") -> Iterator[ChangeSet]:
    """Open one action: all of it is written, or none.

    Parameters
    ----------
    context : Context
    label : str
        What is being done, as undo will name it: "remove the sash window".
    job_id : str, optional
        The job that the action belongs to.
    who : str
    """
    form = sentforms.current()
    with context.writing() as session:
        number = queries.last_change_number(session)
        made = ChangeSet(session, new_id(), job_id, context.clock.now(), who, label, number)
        if form is not None:
            sentforms.keep(session, form, made.at, job_id)
        yield made
        if made.tables:
            queries.raise_revisions(session, made.jobs | ({job_id} if job_id else set()), bool(made.tables & _LAID))
    if form is not None:
        form.is_kept = True
    if made.tables & _LAID:
        context.lay_shelf()


def undo_label(session: Session, job_id: str) -> tuple[str, str] | None:
    """Return id and label of the action that undo would take back, if any."""
    rows = queries.last_change_set(session, job_id)
    return (rows[0].set_id, rows[0].label) if rows else None


def last_removed(session: Session) -> tuple[str, str] | None:
    """Return id and label of the newest removal of a whole job that was not undone, if any."""
    row = queries.last_job_removal(session)
    return None if row is None else (row.set_id, row.label)


def undo(context: Context, set_id: str) -> str | None:
    """Take one action back, and return the id of its job.

    Raises
    ------
    NotFoundError
        If there is no such action, or it was undone already.
    ConflictError
        If a row it touched was changed again since.
    """
    with context.writing() as session:
        changes = [c for c in queries.change_set(session, set_id) if c.undone_at is None]
        if not changes:
            raise NotFoundError("There is nothing to undo here.")
        touched = {changes[0].job_id} - {None}
        for change in reversed(changes):
            _undo_row(session, change)
            change.undone_at = context.clock.now()
            touched |= _jobs_of(change.table_name, change.before) | _jobs_of(change.table_name, change.after)
        queries.raise_revisions(session, touched, any(c.table_name in _LAID for c in changes))  # type: ignore[arg-type]
    if any(change.table_name in _LAID for change in changes):
        context.lay_shelf()
    return changes[0].job_id


def _undo_row(session: Session, change: Change) -> None:
    model = _TABLES[change.table_name]
    row: EditableRow | None = session.get(model, change.row_id)
    expected = change.after["version"] if change.after else None
    if (row is None) != (change.after is None) or (row is not None and row.version < (expected or 0)):
        raise ConflictError("This was changed again since; undo the later change first.")
    if change.before is None:
        session.delete(row)
    elif row is None:
        session.add(model(**_values(model, change.before)))
    else:
        if row.version != expected:
            raise ConflictError("This was changed again since; undo the later change first.")
        # The version too: undoing an earlier action compares with the one that stood then. Not the revision: what was
        # kept of the undone state would pass for the one that is restored.
        for key, value in _values(model, change.before).items():
            if key != "revision":
                setattr(row, key, value)
    session.flush()


def require(row: _T | None, what: str) -> _T:
    """Return the row, or say that it is not there.

    Raises
    ------
    NotFoundError
    """
    if row is None:
        raise NotFoundError(f"This {what} is not here (any more). It may have been removed.")
    return row


__all__ = ["ChangeSet", "PlanError", "changing", "require", "undo", "undo_label"]
