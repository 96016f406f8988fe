"""The record of work: who did which steps, when, how much of them. Lines are added and never changed.

Not here: what follows from the record (standing), readings of instruments (log).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from amber_gable.core.planning.state import Entry, OnRecord, Told, on_record, void_ids
from amber_gable.core.planning.work import WorkTask
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.changes.ownership import head_of
from amber_gable.services.office.cans import draw
from amber_gable.store import queries
from amber_gable.store.models import Job, WorkEntry
from amber_gable.store.types import new_id
from amber_gable.units import both

# A day that somebody forgot is entered later; older than that it is a slip of the pen.
_OLDEST = timedelta(days=120)
_AHEAD = timedelta(minutes=5)
WORDS: Mapping[Told, str] = {
    Told.BEGAN: "begun", Told.DONE: "done", Told.AGAIN: "to be done again", Told.LEFT_OUT: "left out", Told.WITHDRAWN: "taken back",
}  # fmt: skip


@dataclass(frozen=True)
class Said:
    """What somebody enters of some steps.

    Parameters
    ----------
    told : Told
    from_at, until_at : datetime
        The same moment where only one is known.
    share_pct : float
        How much of each step.
    painters : tuple of str
    litres : float or None
    product, batch, remark : str
    entry : str
        Id made on the device: sent twice, it is one entry. Empty for a new one.
    details : mapping
        What else is said, as it is kept: a stop joint.
    """

    told: Told
    from_at: datetime
    until_at: datetime
    share_pct: float = 100.0
    painters: tuple[str, ...] = ()
    litres: float | None = None
    product: str = ""
    batch: str = ""
    remark: str = ""
    entry: str = ""
    details: Mapping[str, Any] = field(default_factory=dict)


def _check(said: Said, now: datetime) -> None:
    errors = {}
    if said.until_at > now + _AHEAD:
        errors["until"] = "This moment lies ahead; enter work once it is done."
    if said.from_at > said.until_at:
        errors["from"] = "The work ends before it begins; turn the two times round."
    if said.until_at < now - _OLDEST:
        errors["until"] = f"This is more than {_OLDEST.days} days ago; look at the date."
    if not 0 < said.share_pct <= 100:
        errors["share_pct"] = "Above 0 and at most 100 %."
    if said.litres is not None and not 0 < said.litres <= 2000:
        errors["litres"] = both("Above 0 and at most 2,000 L (528 gal).")
    if said.told in (Told.AGAIN, Told.LEFT_OUT) and not said.remark.strip():
        errors["remark"] = "Say why, in a few words."
    if errors:
        raise FieldErrors(errors)


def enter(scope: Scope, job: Job, tasks: Sequence[WorkTask], said: Said) -> str:
    """Add an entry for some steps of a job; return its id. What a mark holds open is not closed (inspection.looking.refuse_open).

    Raises
    ------
    FieldErrors
    NotFoundError
        If there are no such steps.
    """
    return enter_all(scope, job, [(tasks, said)])[0]


def enter_all(scope: Scope, job: Job, pieces: Sequence[tuple[Sequence[WorkTask], Said]]) -> list[str]:
    """Add entries for several pieces of work, all or none; return their ids.

    Raises
    ------
    FieldErrors
    NotFoundError
        If there are no such steps.
    """
    if not pieces or not all(tasks for tasks, _ in pieces):
        raise NotFoundError("These steps are not in this job (any more).")
    now, (tasks, said) = scope.said_at(), pieces[0]
    for _, one in pieces:
        _check(one, now)
    what = tasks[0].label.lower() if len(tasks) == 1 else f"{len(tasks)} steps"
    label = f"record {what} at {tasks[0].name} as {WORDS[said.told]}" if len(pieces) == 1 else f"record {len(pieces)} pieces of work"
    with changing(scope, label, job.id) as change:
        return [_insert(scope, change, job, of_piece, one, now) for of_piece, one in pieces]


def _insert(scope: Scope, change: ChangeSet, job: Job, tasks: Sequence[WorkTask], said: Said, now: datetime) -> str:
    entry = said.entry or new_id()
    if queries.work_entry(change.session, job.id, entry):
        # Sent twice, by two phones or one: it is one entry.
        return entry
    for task in tasks:
        share = task.hours / sum(t.hours for t in tasks) if any(t.hours for t in tasks) else 1 / len(tasks)
        change.add(
            WorkEntry(
                id=new_id(), version=1, job_id=job.id, entry=entry, task=task.id, name=f"{task.name}: {task.label}",
                told=said.told.value, from_at=said.from_at, until_at=said.until_at, share_frac=said.share_pct / 100,
                painters=list(said.painters), litres=None if said.litres is None or not task.is_coat else said.litres * share,
                product=said.product or task.product, batch=said.batch, remark=said.remark.strip(), said_at=now, said_by=scope.actor,
                corrects="", details=dict(said.details) | scope.on_its_way(),
            )
        )  # fmt: skip
        if task.is_coat and said.litres is not None and said.told is Told.DONE:
            draw(change, job.id, said.product or task.product, said.batch, said.litres * share)
    return entry


def take_back(scope: Scope, job: Job, line_id: str) -> None:
    """Correct the record: the entry of a line no longer counts; both stay readable. Taken back twice it is taken back once.

    Raises
    ------
    NotFoundError
    """
    with changing(scope, "take an entry of the record back", job.id) as change:
        line = change.find(WorkEntry, line_id, "entry of the record")
        if line.entry not in void_of(queries.work_entries(change.session, job.id)):
            change.add(line.taken_back(change.at, scope.actor))


def correct(scope: Scope, job: Job, line_id: str, said: Said) -> str:
    """Let an entry stand with other values: the new one refers to the old one; both stay readable. Return the new entry's id.

    Raises
    ------
    FieldErrors
    NotFoundError
    """
    _check(said, scope.clock.now())
    with changing(scope, "correct an entry of the record", job.id) as change:
        return insert_correction(scope, change, job, change.find(WorkEntry, line_id, "entry of the record"), said)


def correction_of(line: WorkEntry) -> Said:
    """Return what an entry says, to be said again with something else in it."""
    told = Told(line.told)
    return Said(
        told, line.from_at, line.until_at, 100 * line.share_frac, tuple(line.painters), line.litres, line.product, line.batch, line.remark
    )  # fmt: skip


def insert_correction(scope: Scope, change: ChangeSet, job: Job, line: WorkEntry, said: Said) -> str:
    """Write within a change an entry that stands for another one; return its id.

    Raises
    ------
    FieldErrors
        If the other one no longer counts.
    """
    now, entry, rows = scope.clock.now(), said.entry or new_id(), queries.work_entries(change.session, job.id)
    if any(row.entry == entry for row in rows):
        return entry
    if line.entry in void_of(rows):
        raise FieldErrors({"form": "This entry was corrected or taken back already: correct the newer one."})
    lines = [row for row in rows if row.entry == line.entry]
    litres = sum(row.litres or 0.0 for row in lines)
    for row in lines:
        share = (row.litres or 0.0) / litres if litres else 1 / len(lines)
        change.add(
            WorkEntry(
                id=new_id(), version=1, job_id=job.id, entry=entry, task=row.task, name=row.name, told=said.told.value,
                from_at=said.from_at, until_at=said.until_at, share_frac=said.share_pct / 100, painters=list(said.painters),
                litres=None if said.litres is None else said.litres * share, product=row.product, batch=said.batch,
                remark=said.remark.strip(), said_at=now, said_by=scope.actor, corrects=row.entry,
                details={**row.details, **said.details} | scope.on_its_way(),
            )
        )  # fmt: skip
    return entry


def void_of(rows: Sequence[WorkEntry]) -> set[str]:
    """Return the ids of the entries among these lines that no longer count."""
    return void_ids((row.entry, row.corrects) for row in rows if row.corrects)


def rows_of(scope: Scope, job: Job) -> Sequence[WorkEntry]:
    """Return the lines of a job's record, the oldest first: read once for as long as the job stands as it does."""

    def read() -> Sequence[WorkEntry]:
        with scope.reading() as session:
            return queries.work_entries(session, job.id)

    return scope.cached(_key(scope, job, "record"), read)


def _key(scope: Scope, job: Job, what: str) -> tuple[object, ...]:
    return what, job.id, head_of(scope, job.id).revision


def entries_of(scope: Scope, job: Job) -> tuple[Entry, ...]:
    """Return the record of a job as values."""
    return scope.cached(_key(scope, job, "record values"), lambda: _values_of(scope, job))


def _values_of(scope: Scope, job: Job) -> tuple[Entry, ...]:
    return tuple(
        Entry(
            row.entry, row.task, Told(row.told), row.from_at.timestamp(), row.until_at.timestamp(), row.share_frac, row.said_at.timestamp(),
            row.corrects, row.remark,
        )
        for row in rows_of(scope, job)
    )  # fmt: skip


def done_steps(scope: Scope, job: Job) -> dict[str, set[str]]:
    """Return the steps that are done by the record, by the place they were done at."""
    out: dict[str, set[str]] = {}
    for task, told in recorded(scope, job).items():
        place, _, step = task.rpartition(":")
        if told.is_done:
            out.setdefault(place, set()).add(step)
    return out


def recorded(scope: Scope, job: Job) -> dict[str, OnRecord]:
    """Return what the record says of each step by now."""
    return scope.cached(_key(scope, job, "on record"), lambda: on_record(entries_of(scope, job)))
