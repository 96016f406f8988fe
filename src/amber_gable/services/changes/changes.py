"""The one door for changes: who, when, before and after; and the way back.

Everything a user edits goes through `changing`. It makes undo, the audit trail and edit conflicts
one mechanism instead of three.
"""

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from amber_gable.errors import ConflictError, Differing, NotFoundError, PlanError
from amber_gable.services.app.app import App
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import sentforms
from amber_gable.services.changes.seen import mark_of, part_key, seen_rows
from amber_gable.store import queries
from amber_gable.store.models import Base, Change, Contractor, EditableRow, Job, LogEntry, Reading, ShelfRow, StockRow, WorkEntry
from amber_gable.store.types import UtcDateTime, new_id

_T = TypeVar("_T")
_Row = TypeVar("_Row", bound=EditableRow)
_Own = TypeVar("_Own", StockRow, ShelfRow)
_TABLES: dict[str, type[Any]] = {mapper.class_.__tablename__: mapper.class_ for mapper in Base.registry.mappers}

_CONFLICT = "Somebody changed this while you were typing."
# Less than any tape, and more than rounding.
_SAME_M = 1e-6

# What is laid over the tables: a change of it lays them anew.
_LAID = {ShelfRow.__tablename__, Contractor.__tablename__}
# What is said of a house and planned for it: fifty phones write there all day, and nothing that is known of the house itself rests on it.
_SAID = {"log_entries", "plan_searches", "readings", "schedules", "sightings", "work_entries"}


def _columns(row: Any) -> dict[str, Any]:
    out = {}
    for column in row.__table__.columns:
        value = getattr(row, column.key)
        out[column.key] = value.isoformat() if isinstance(value, datetime) else value
    return out


def is_near(one: Any, other: Any) -> bool:
    """Return whether two values are the same but for the last digits of their numbers, lists number by number."""
    if isinstance(one, list | tuple) and isinstance(other, list | tuple):
        return len(one) == len(other) and all(map(is_near, one, other))
    if isinstance(one, bool) or isinstance(other, bool):
        return one is other
    if isinstance(one, int | float) and isinstance(other, int | float):
        return abs(one - other) < _SAME_M
    return bool(one == other)


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
    job_id = (columns or {}).get("id" if table == Job.__tablename__ else "job_id")
    return {job_id} if job_id else set()


@dataclass
class ChangeSet:
    """The rows that one action touches; made by `changing`."""

    session: Session
    set_id: str
    contractor_id: str
    job_id: str | None
    at: datetime
    who: str
    label: str
    number: int
    tables: set[str] = field(default_factory=set)
    # What the form was filled in from.
    seen: Mapping[str, str] = field(default_factory=dict)
    # Jobs that a row belongs to or belonged to, whose revisions are raised.
    jobs: set[str] = field(default_factory=set)

    def _record(self, row: Any, before: dict[str, Any] | None, after: dict[str, Any] | None) -> None:
        self.tables.add(row.__tablename__)
        self.jobs |= _jobs_of(row.__tablename__, before) | _jobs_of(row.__tablename__, after)
        self.number += 1
        self.session.add(
            Change(
                set_id=self.set_id,
                contractor_id=self.contractor_id,
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

    def find_own(self, model: type[_Own], row_id: str, what: str) -> _Own:
        """Return a row that belongs to the contractor itself and to no job.

        Raises
        ------
        NotFoundError
            If it is gone, or another contractor's.
        """
        row = self.session.get(model, row_id)
        return require(row if row is not None and row.contractor_id == self.contractor_id else None, what)

    def whole_job(self) -> Job:
        """Return the job that this action belongs to, with its building, as it now is.

        Raises
        ------
        NotFoundError
        """
        return require(queries.job_whole(self.session, self.job_id or ""), "job")

    def contractor_row(self) -> Contractor:
        """Return the row of the contractor, to be changed."""
        return require(self.session.get(Contractor, self.contractor_id), "contractor")

    def add(self, row: Any) -> None:
        """Insert a row."""
        self.session.add(row)
        self.session.flush()
        self._record(row, None, _columns(row))

    def update(self, row: Any, values: Mapping[str, Any], expected_version: int | None = None) -> bool:
        """Change columns of a row; return whether anything differed: where nothing does, nothing is written.

        Raises
        ------
        ConflictError
            If `expected_version` is given, or the form says what it saw of the row, and the row has moved on; with what differs.
        """
        if expected_version is None and self.seen.get(row.id, "").isdigit():
            expected_version = int(self.seen[row.id])
        if expected_version is not None and row.version != expected_version:
            raise self.conflict(row, values)
        return self._write(row, values)

    def _write(self, row: Any, values: Mapping[str, Any]) -> bool:
        if all(getattr(row, key) == value for key, value in values.items()):
            return False
        before = _columns(row)
        # Compared by the database: another process may have been quicker than this one's reading.
        if not queries.claim(self.session, row, row.version):
            self.session.refresh(row)
            raise self.conflict(row, values)
        for key, value in values.items():
            setattr(row, key, value)
        self.session.flush()
        self._record(row, before, _columns(row))
        return True

    def follow(self, row: Any, values: Mapping[str, Any]) -> None:
        """Change columns that follow from another edit, or from the row as it stands now: one more entry of a list, a tick, an outline.

        Nobody typed them, so nobody's view of them is compared. A length that comes out anew within a micrometre stays as it was: what
        was not touched stays to the last digit.
        """
        self._write(row, {key: value for key, value in values.items() if not is_near(getattr(row, key), value)})

    def update_part(
        self, row: Any, column: str, part: str, before: Mapping[str, Any], after: Mapping[str, Any], typed: Sequence[str]
    ) -> None:
        """Change one entry of a column that holds several by their names: one painter, one machine; the others stay as they are now.

        Parameters
        ----------
        before, after : mapping
            The entry as it stands now, and as it is to be.
        typed : sequence of str
            What of it a form edits as a whole: that is compared with what the form saw.

        Raises
        ------
        ConflictError
            If the form saw another `before`.
        """
        key = part_key(row.id, column, part)
        self.compare(key, {name: before[name] for name in typed}, after)
        if before != after:
            self.follow(row, {column: {**getattr(row, column), part: dict(after)}})

    def compare(self, key: str, now: Mapping[str, Any], wanted: Mapping[str, Any]) -> None:
        """Compare a part of a row, as it stands now, with what the form saw of it.

        Parameters
        ----------
        key : str
            Of `seen.part_key`.

        Raises
        ------
        ConflictError
            If the form saw something else; with what differs from what is `wanted`.
        """
        saw, mark = self.seen.get(key), mark_of(now)
        if saw in (None, mark):
            return
        last = queries.last_change_of(self.session, key.partition("/")[0])
        differing = tuple(Differing(name, value, wanted.get(name)) for name, value in now.items() if value != wanted.get(name))
        who, at = (last.who, last.at) if last is not None else ("", None)
        raise ConflictError(_CONFLICT, 0, differing, who, at, seen=f"{key}={mark}")

    def conflict(self, row: Any, values: Mapping[str, Any]) -> ConflictError:
        """Return the error of an edit that meets a row which somebody changed meanwhile."""
        last = queries.last_change_of(self.session, row.id)
        differing = tuple(Differing(key, getattr(row, key), value) for key, value in values.items() if getattr(row, key) != value)
        who, at = (last.who, last.at) if last is not None else ("", None)
        return ConflictError(_CONFLICT, row.version, differing, who, at, seen=seen_rows(row))

    def delete(self, row: Any) -> None:
        """Delete a row. Delete what hangs on it first, so that undo brings all of it back."""
        self._record(row, _columns(row), None)
        # Children that were loaded would have their link emptied; those that remain have moved on.
        self.session.expire(row, [r.key for r in row.__mapper__.relationships])
        self.session.delete(row)
        self.session.flush()


@contextmanager
def changing(scope: Scope, label: str, job_id: str | None = None) -> Iterator[ChangeSet]:
    """Open one action of the scope's actor: all of it is written, or none.

    Parameters
    ----------
    scope : Scope
        Who acts stands beside every row that changes.
    label : str
        What is being done, as undo will name it: "remove the sash window".
    job_id : str, optional
        The job that the action belongs to.

    Raises
    ------
    NotFoundError
        If the job is another contractor's.
    """
    form = sentforms.current()
    with scope.writing() as session:
        if job_id is not None and queries.is_anothers(session, scope.contractor_id, job_id):
            raise NotFoundError("This job is not here (any more). It may have been removed.")
        number = queries.last_change_number(session)
        made = ChangeSet(session, new_id(), scope.contractor_id, job_id, scope.clock.now(), scope.actor, label, number, seen=scope.seen)
        if form is not None:
            sentforms.keep(session, form, made.at, job_id)
        yield made
        if made.tables:
            shared = scope.contractor_id if made.tables & _LAID else None
            of_house = bool(made.tables - _SAID)
            queries.raise_revisions(session, made.jobs | ({job_id} if job_id else set()), shared, of_house=of_house)
    if form is not None:
        form.is_kept = True
    if made.tables & _LAID:
        scope.renew()


def last_number(app: App) -> int:
    """Return the number of the last change of all: another one says that something changed."""
    with app.reading() as session:
        return queries.last_change_number(session)


@dataclass(frozen=True)
class Undoable:
    """An action that undo can take back."""

    set_id: str
    label: str
    who: str
    at: datetime


def undoable(scope: Scope, job_id: str) -> Undoable | None:
    """Return the newest action on a job that was not undone, if any."""
    with scope.reading() as session:
        row = queries.last_action(session, job_id)
    return None if row is None else Undoable(row.set_id, row.label, row.who, row.at)


def last_removed(scope: Scope) -> Undoable | None:
    """Return the newest removal of a whole job that was not undone, if any."""
    with scope.reading() as session:
        row = queries.last_job_removal(session, scope.contractor_id)
    return None if row is None else Undoable(row.set_id, row.label, row.who, row.at)


def undo(scope: Scope, set_id: str) -> str | None:
    """Take one action of the contractor back, whoever did it, and return the id of its job.

    Raises
    ------
    NotFoundError
        If there is no such action, or it was undone already.
    ConflictError
        If a later change stands on a row that it touched: by whom, when, and what it was.
    """
    with scope.writing() as session:
        changes = [c for c in queries.change_set(session, scope.contractor_id, set_id) if c.undone_at is None]
        if not changes:
            raise NotFoundError("There is nothing to undo here: the action is not here, or was undone already.")
        touched = {changes[0].job_id} - {None}
        for change in reversed(changes):
            _undo_row(session, change, scope.clock.now(), scope.actor)
            change.undone_at = scope.clock.now()
            touched |= _jobs_of(change.table_name, change.before) | _jobs_of(change.table_name, change.after)
        is_shared = any(c.table_name in _LAID for c in changes)
        of_house = any(c.table_name not in _SAID for c in changes)
        queries.raise_revisions(session, {job for job in touched if job}, scope.contractor_id if is_shared else None, of_house=of_house)
    if is_shared:
        scope.renew()
    return changes[0].job_id


def _undo_row(session: Session, change: Change, now: datetime, who: str) -> None:
    model = _TABLES[change.table_name]
    row: EditableRow | None = session.get(model, change.row_id)
    expected = change.after["version"] if change.after else None
    if (row is None) != (change.after is None) or (row is not None and row.version != expected):
        raise _stands_on(session, change, change.row_id)
    # What was done later on a row of another table: a pin on a wall that would go, a window whose wall went.
    if isinstance(row, WorkEntry | LogEntry | Reading) and change.before is None:
        # The record only grows: what is undone stays readable beside the line that takes it back.
        session.add(row.taken_back(now, who))
    elif change.before is None:
        assert row is not None
        leaning = queries.leaning_on(session, model, change.row_id)
        if leaning is not None:
            raise _stands_on(session, change, leaning)
        session.delete(row)
    elif row is None:
        missing = queries.missing_parent(session, model, change.before)
        if missing is not None:
            raise _stands_on(session, change, missing)
        session.add(model(**_values(model, change.before)))
    else:
        # The version too: undoing an earlier action compares with the one that stood then. Not the revision: what was
        # kept of the undone state would pass for the one that is restored.
        for key, value in _values(model, change.before).items():
            if key not in ("revision", "house_revision"):
                setattr(row, key, value)
    session.flush()


def _stands_on(session: Session, change: Change, row_id: str) -> ConflictError:
    """Return why an action cannot be undone: the later change of a row that stands on it."""
    later = queries.last_change_of(session, row_id)
    if later is None or later.set_id == change.set_id:
        return ConflictError(f"What {change.who} did (“{change.label}”) cannot be undone any more: it was changed again since.")
    what, later_what = f"“{change.label}” by {change.who}", f"“{later.label}” by {later.who}"
    said = f"{what} cannot be undone: a later change stands on it, {later_what}. Undo that one first."
    return ConflictError(said, who=later.who, at=later.at)


def require(row: _T | None, what: str) -> _T:
    """Return the row, or say that it is not there.

    Raises
    ------
    NotFoundError
    """
    if row is None:
        raise NotFoundError(f"This {what} is not here (any more). It may have been removed.")
    return row


__all__ = ["ChangeSet", "PlanError", "Undoable", "changing", "last_removed", "require", "undo", "undoable"]
