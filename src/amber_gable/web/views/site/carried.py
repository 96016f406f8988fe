"""The pages that a phone carries for where there is no signal: those that the painter who holds it needs in the next three days."""

from datetime import timedelta
from zoneinfo import ZoneInfo

from fastapi import Request

from amber_gable.services.app.scope import OFFICE, Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook.outlook import painted_surfaces
from amber_gable.services.planning.myday import my_day
from amber_gable.store.models import Job

DAYS = 3
# Of each job: log and what it asks, hours, safety and injection cards, limits of the products as their data sheets have them.
_OF_A_JOB = ("log", "inspection", "windows", "system_cards", "limits", "schedule")


def carried_pages(request: Request, scope: Scope) -> list[str]:
    """Return the addresses of pages to be kept on the phone, the most needed first."""
    if scope.actor == OFFICE:
        return []
    zone = jobs.home_zone(scope) or ZoneInfo("UTC")
    today = scope.clock.now().astimezone(zone).date()
    lists = [str(request.url_for("today"))] + [f"{request.url_for('today')}?day={today + timedelta(days=d)}" for d in range(1, DAYS)]
    of_days = [piece for d in range(DAYS) for piece in my_day(scope, scope.actor, today + timedelta(days=d) if d else None)]
    by_job = dict.fromkeys(piece.job.id for piece in of_days)
    walls: dict[str, None] = {}
    for piece in of_days:
        places = {task.rpartition(":")[0] for task in piece.one.stint.tasks}
        walls |= dict.fromkeys(_stop_lines(request, piece.job, places))
    return [
        *lists,
        *(str(request.url_for(name, job_id=job_id)) for job_id in by_job for name in _OF_A_JOB),
        *walls,
        str(request.url_for("morning")),
    ]


def _stop_lines(request: Request, job: Job, places: set[str]) -> list[str]:
    return [str(request.url_for("stop_line", job_id=job.id, surface_id=s.id)) for s in painted_surfaces(job) if s.id in places]
