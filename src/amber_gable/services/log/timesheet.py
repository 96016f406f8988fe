"""Timesheets: the hours of each painter by the record, day by day, over all jobs. Nothing is entered for them.

Not here: what was paid for (office), or what is planned (planning).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from amber_gable.core.planning.state import Told, void_ids
from amber_gable.services.app.scope import Scope
from amber_gable.store import queries
from amber_gable.store.models import WorkEntry

_FEW = 3


@dataclass(frozen=True)
class Line:
    """A stretch of work of one painter, as one entry says it.

    Parameters
    ----------
    painter, job, what : str
    starts_at, ends_at : datetime
        In the job's zone.
    hours : float
        Without what an earlier entry of this painter covers already: nobody works twice at once.
    """

    painter: str
    job: str
    what: str
    starts_at: datetime
    ends_at: datetime
    hours: float

    @property
    def day(self) -> date:
        return self.starts_at.date()

    @property
    def overlaps(self) -> bool:
        """Part of it lies within an earlier entry."""
        return self.hours < (self.ends_at - self.starts_at).total_seconds() / 3600 - 1e-6


def timesheet(scope: Scope, first: date, last: date) -> tuple[Line, ...]:
    """Return the work on record from a day to another, by painter and time; entries that were taken back are left out."""
    # A day is that of the job's place: a day more at each end is read, and cut.
    since = datetime.combine(first - timedelta(days=1), time(0), ZoneInfo("UTC"))
    until = datetime.combine(last + timedelta(days=2), time(0), ZoneInfo("UTC"))
    with scope.reading() as session:
        rows = queries.work_entries_between(session, scope.contractor_id, since, until)
        gone = void_ids(queries.work_corrections(session, scope.contractor_id))
    by_entry: dict[str, list[tuple[WorkEntry, str, str]]] = {}
    for entry, job, zone in rows:
        if entry.told == Told.DONE.value and entry.entry not in gone:
            by_entry.setdefault(entry.entry, []).append((entry, job, zone))
    lines = [line for of_entry in by_entry.values() for line in _lines(of_entry)]
    return _without_overlaps([line for line in lines if first <= line.day <= last])


def _lines(of_entry: Sequence[tuple[WorkEntry, str, str]]) -> list[Line]:
    entry, job, zone = of_entry[0]
    steps = list(dict.fromkeys(row.name for row, _, _ in of_entry))
    what = ", ".join(steps[:_FEW]) + (" and more" if len(steps) > _FEW else "")
    start, end = entry.from_at.astimezone(ZoneInfo(zone)), entry.until_at.astimezone(ZoneInfo(zone))
    return [Line(name, job, what, start, end, 0.0) for name in entry.painters]


def _without_overlaps(lines: Sequence[Line]) -> tuple[Line, ...]:
    """Return lines by painter and time, each with the hours that no earlier line of the painter covers."""
    out, reached = [], dict[str, datetime]()
    for line in sorted(lines, key=lambda one: (one.painter, one.starts_at, one.ends_at)):
        begun = max(line.starts_at, reached.get(line.painter, line.starts_at))
        hours = max((line.ends_at - begun).total_seconds() / 3600, 0.0)
        reached[line.painter] = max(reached.get(line.painter, line.ends_at), line.ends_at)
        out.append(Line(line.painter, line.job, line.what, line.starts_at, line.ends_at, hours))
    return tuple(out)


def hours_by_day(lines: Sequence[Line]) -> dict[str, dict[date, float]]:
    """Return hours by painter and day."""
    out: dict[str, dict[date, float]] = {}
    for line in lines:
        days = out.setdefault(line.painter, {})
        days[line.day] = days.get(line.day, 0.0) + line.hours
    return out
