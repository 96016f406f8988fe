"""The evening close of a painter: hours by the record, paint that nobody counted, stop joints, what is seen to before one leaves.

It is one entry for each job of the day; paint that is said now corrects the coats it went into. Not here: tomorrow (planning).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, time
from zoneinfo import ZoneInfo

from amber_gable.core.planning.state import Told
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.log.coats.joints import Joint, joints_of
from amber_gable.services.log.entries import MOST_LETTERS, Written, put, standing_lines
from amber_gable.services.log.record import correction_of, insert_correction, rows_of, void_of
from amber_gable.services.log.timesheet import Line, timesheet
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store.models import Job, WorkEntry

_MOST_L = 2000.0
# What is only asked where it was used.
_ONLY_AFTER = {"tape": "coat", "sprayer": "sprayer", "hot": "hot-air"}


@dataclass(frozen=True)
class Uncounted:
    """A coat of the day of which nobody said how much paint it took: the line by which it is corrected."""

    job: Job
    line: WorkEntry


@dataclass(frozen=True)
class Closing:
    """What the end of somebody's day asks.

    Parameters
    ----------
    lines : tuple of Line
        Work of the day by the record.
    uncounted : tuple of Uncounted
    joints : tuple of (Job, Joint)
    checks : dict of str to str
        What is seen to, by its key.
    closed_at : datetime or None
        When the day was closed already.
    """

    lines: tuple[Line, ...]
    uncounted: tuple[Uncounted, ...]
    joints: tuple[tuple[Job, Joint], ...]
    checks: dict[str, str]
    closed_at: datetime | None

    @property
    def hours(self) -> float:
        return sum(line.hours for line in self.lines)


def closing_of(scope: Scope, painter: str, jobs_of_day: Sequence[Job]) -> Closing:
    """Return what the end of a painter's day asks, over the jobs of that day."""
    now = scope.said_at()
    uncounted: list[Uncounted] = []
    used: set[str] = set()
    closed: list[datetime] = []
    for job in jobs_of_day:
        zone = ZoneInfo(job.time_zone)
        since = datetime.combine(now.astimezone(zone).date(), time(0), zone)
        coats = {t.id: t for t in tasks_of(scope, job)}
        rows = rows_of(scope, job)
        gone = void_of(rows)
        for row in rows:
            if row.entry in gone or row.told != Told.DONE.value or row.until_at < since or painter not in row.painters:
                continue
            task = coats.get(row.task)
            used |= {"coat"} if task is not None and task.is_coat else set()
            used |= set(task.equipment) if task is not None else set()
            if task is not None and task.is_coat and row.litres is None:
                uncounted.append(Uncounted(job, row))
        closed += [e.at for e in standing_lines(scope, job) if e.kind == "closed" and e.said_by == painter and e.at >= since]
    today = now.astimezone(ZoneInfo(jobs_of_day[0].time_zone)).date() if jobs_of_day else now.date()
    lines = tuple(line for line in timesheet(scope, today, today) if line.painter == painter)
    checks = {k: v for k, v in scope.knowledge.site_log.closing.items() if _ONLY_AFTER.get(k) is None or _ONLY_AFTER[k] in used}
    joints = tuple((job, joint) for job in jobs_of_day for joint in joints_of(scope, job))
    return Closing(lines, tuple(uncounted), joints, checks, max(closed, default=None))


def close_day(
    scope: Scope, painter: str, jobs_of_day: Sequence[Job], seen_to: Sequence[str], litres: Mapping[str, float], text: str, entry: str
) -> None:  # fmt: skip
    """Close a painter's day: one entry for each job, and the paint of its coats; all or nothing.

    Raises
    ------
    FieldErrors
    """
    asked, errors = closing_of(scope, painter, jobs_of_day), {}
    missing = [words for key, words in asked.checks.items() if key not in seen_to]
    if missing:
        errors["seen_to"] = f"Not seen to yet: {'; '.join(words.lower() for words in missing)}."
    if len(text) > MOST_LETTERS:
        errors["text"] = f"Shorten this to {MOST_LETTERS} characters."
    errors |= {f"litres-{i}": f"Above 0 and at most {_MOST_L:g} L." for i, value in litres.items() if not 0 < value <= _MOST_L}
    if errors or not jobs_of_day:
        raise FieldErrors(errors or {"form": "No job of today is yours: there is nothing to close."})
    with changing(scope, "close the day", jobs_of_day[0].id) as change:
        by_line = {u.line.id: u for u in asked.uncounted}
        for line_id, value in litres.items():
            found = by_line.get(line_id)
            if found is not None:
                insert_correction(scope, change, found.job, found.line, replace(correction_of(found.line), litres=value))
        words = [asked.checks[key] for key in asked.checks if key in seen_to]
        for number, job in enumerate(jobs_of_day):
            written = Written(
                "closed", text, {"seen_to": words, "hours": round(asked.hours, 2)}, entry=f"{entry}{number or ''}" if entry else ""
            )
            put(scope, change, job, written)
