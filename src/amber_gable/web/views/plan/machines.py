"""Machines on the crew's page: how many of each, on which terms, and what the plan needs to have hired by when."""

from datetime import date
from typing import Any

from amber_gable.drawing.hours.weeks import HireBar
from amber_gable.services.app.scope import Scope
from amber_gable.services.office.fleet import Need, fleet_of, needs_of, seen_of
from amber_gable.services.planning.kept import SavedSchedule
from amber_gable.store.models import Job

Planned = list[tuple[Job, SavedSchedule]]


def needs_in(scope: Scope, job: Job, kept: SavedSchedule) -> list[Need]:
    """Return the hires that a job's plan needs."""
    fleet, used = fleet_of(scope), dict[str, list[date]]()
    for stint in kept.stints:
        for key in {*stint.equipment, *stint.ways_up} & fleet.keys():
            used.setdefault(key, []).append(stint.starts_at.date())
    return needs_of(fleet, job.id, used)


def day_words(day: date) -> str:
    return f"{day:%a} {day.day} {day:%b}"


def said(need: Need) -> str:
    """Return a hire in words: "Lift, Mon 21 Sep to Fri 2 Oct"."""
    until = f" to {day_words(need.hire.last)}" if need.hire.last != need.hire.first else ""
    return f"{need.label}, {day_words(need.hire.first)}{until}"


def hire_bars(scope: Scope, job: Job, kept: SavedSchedule) -> list[HireBar]:
    """Return a job's hires for the calendar of all jobs."""
    needs = needs_in(scope, job, kept)
    return [HireBar(n.hire.first, n.hire.last, said(n), None if n.hire.is_reserved else n.hire.reserve_by) for n in needs]


def hire_rows(scope: Scope, planned: Planned, today: date) -> list[dict[str, Any]]:
    """Return what all jobs need to have hired, the soonest to be reserved first."""
    rows = [
        {"job": job, "need": need, "said": said(need), "is_late": not need.hire.is_reserved and need.hire.reserve_by < today,
         "reserve_by": day_words(need.hire.reserve_by)}
        for job, kept in planned
        for need in needs_in(scope, job, kept)
    ]  # fmt: skip
    return sorted(rows, key=lambda r: (r["need"].hire.is_reserved, r["need"].hire.reserve_by))


def machine_rows(scope: Scope, planned: Planned, today: date) -> list[dict[str, Any]]:
    """Return each machine with its terms and what is reserved of it from today on, with the name of its job."""
    names = {job.id: job.name for job, _ in planned}
    return [
        {
            "key": key,
            "machine": one,
            "seen": seen_of(scope, key),
            "reserved": [(r, names.get(r.job, "another job")) for r in one.reserved if r.last >= today],
        }
        for key, one in fleet_of(scope).items()
    ]
