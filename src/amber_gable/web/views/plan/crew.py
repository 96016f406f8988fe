"""The crew's page: who is where on a day, all jobs for eight weeks, each painter's hours, days off and skills; calendars."""

from datetime import UTC, date, datetime, timedelta
from typing import Any

from markupsafe import Markup

from amber_gable.core.planning.crew.people import SKILLS, WEEKDAYS, Person
from amber_gable.drawing.hours.dayboard import BoardRow, Mark, board
from amber_gable.drawing.hours.weeks import JobRow, weeks
from amber_gable.exchange.icalendar import Entry
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.office import crew
from amber_gable.services.planning import morning, schedules
from amber_gable.services.planning.kept import SavedSchedule, SavedStint
from amber_gable.store.models import Job
from amber_gable.web.sentences import stint_line
from amber_gable.web.views.plan.board import sides_in
from amber_gable.web.views.plan.machines import hire_bars

Planned = list[tuple[Job, SavedSchedule]]


def all_planned(scope: Scope) -> Planned:
    """Return the running jobs that have a plan, the oldest first."""
    out = []
    for head in morning.running(scope):
        job = jobs.whole(scope, head.id)
        kept = schedules.saved(scope, job)
        if kept is not None:
            out.append((job, kept))
    return out


def crew_board(planned: Planned, people: dict[str, Person], day: date, now: datetime) -> Markup:
    """Return the hours of one day over all jobs, a row for each painter."""
    rows = []
    for name, person in people.items():
        marks = []
        for job, kept in planned:
            for stint in kept.stints:
                start, end = stint.starts_at.astimezone(now.tzinfo), stint.ends_at.astimezone(now.tzinfo)
                if name in stint.painters and start.date() == day:
                    label = f"{stint_line(stint, sides_in(job))}, {job.name}"
                    marks.append(Mark(start.hour + start.minute / 60, end.hour + end.minute / 60, label, stint.stage))
        rows.append(BoardRow(name, sorted(marks, key=lambda m: m.from_h), "off" if person.is_off(day) else "free"))
    here = (0, now.hour + now.minute / 60) if day == now.date() else None
    return Markup(board(rows, here, f"Everybody's hours on {day:%A}"))


def eight_weeks(scope: Scope, planned: Planned, people: dict[str, Person], today: date, at: Any) -> Markup:
    """Return the calendar of all jobs; `at` gives a job's address."""
    rows = []
    for job, kept in planned:
        hours: dict[date, float] = {}
        expected = set[date]()
        for stint in kept.stints:
            day = stint.starts_at.date()
            hours[day] = hours.get(day, 0.0) + stint.hours
            if stint.is_expected:
                expected.add(day)
        done = max(hours) if hours and not [u for u in kept.unplaced if u.get("hours")] else None
        rows.append(JobRow(job.name, hours, frozenset(expected), done, at(job.id), hire_bars(scope, job, kept)))
    first = today - timedelta(days=today.weekday())
    usual_h = sum(max(p.ends_h - p.starts_h - 1, 1.0) for p in people.values())
    return Markup(weeks(rows, first, today, usual_h))


def person_rows(scope: Scope, people: dict[str, Person], planned: Planned, today: date) -> list[dict[str, Any]]:
    """Return each painter in words, with the planned hours of the next seven days."""
    week = today + timedelta(days=7)
    out = []
    for name, person in people.items():
        hours = sum(
            (s.ends_at - s.starts_at).total_seconds() / 3600
            for _, kept in planned
            for s in kept.stints
            if name in s.painters and today <= s.starts_at.date() < week
        )
        out.append(
            {
                "name": name, "person": person, "seen": crew.seen_of(scope, name), "hours": hours,
                "off": [o for o in person.off if o.last >= today],
                "days": [(n, word, n in person.weekdays) for n, word in enumerate(WEEKDAYS)], "is_off": person.is_off(today),
                "skills": [(key, word, key in person.skills, person.skills.get(key)) for key, word in SKILLS.items()],
                "key": "".join(c if c.isalnum() else "-" for c in name),
            }
        )  # fmt: skip
    return out


def feed_entries(scope: Scope, token: str) -> tuple[str, list[Entry]] | None:
    """Return whose calendar a secret address is, and its entries: what is planned, and what was called off."""
    name = next((name for name, person in crew.people(scope).items() if token and person.feed == token), None)
    if name is None:
        return None
    entries = []
    for job, kept in all_planned(scope):
        sides = sides_in(job)
        gone = [SavedStint.read(row) for row in kept.gone]
        for stint, is_off in [*((s, False) for s in kept.stints), *((s, True) for s in gone)]:
            if name in stint.painters:
                entries.append(_entry(job, stint, sides, name, kept.version, is_off=is_off))
    return name, entries


def _entry(job: Job, stint: SavedStint, sides: dict[str, str], name: str, version: int, *, is_off: bool) -> Entry:
    others = [painter for painter in stint.painters if painter != name]
    told = f"With {' and '.join(others)}. " if others else ""
    guess = "Expected by the season, no forecast reaches there yet. " if stint.is_expected else ""
    return Entry(
        f"{job.id}-{stint.id.replace('|', '-')}-{name}", f"{job.name}: {stint_line(stint, sides)}",
        f"{told}{guess}{', '.join(stint.does)}. Look at the windows on the day.", f"{job.latitude_deg:.4f}, {job.longitude_deg:.4f}",
        stint.starts_at.astimezone(UTC), stint.ends_at.astimezone(UTC), version, is_off,
    )  # fmt: skip
