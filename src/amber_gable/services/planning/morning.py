"""Morning: for each job the one thing to do next, from its schedule or from its windows."""

from dataclasses import dataclass
from datetime import datetime

from amber_gable.core.air.sun import Place
from amber_gable.core.planning.advice import NextRun, best_next, dry_from, first_dry
from amber_gable.core.planning.state import Told
from amber_gable.core.survey.gates import Gate
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.log.coats.running import hours_of
from amber_gable.services.log.record import Said, enter_all
from amber_gable.services.log.standing import Standing, standing_work
from amber_gable.services.outlook import outlook
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.outlook.skywatch import seen_on
from amber_gable.services.outlook.weather import forecasts
from amber_gable.services.outlook.weather.forecasts import ForecastStatus
from amber_gable.services.planning import schedules
from amber_gable.services.planning.kept import SavedSchedule, Visit
from amber_gable.services.planning.worknow import StintNow, work_now
from amber_gable.services.survey.evidence.gates import gates_of
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store import queries
from amber_gable.store.models import Job
from amber_gable.store.queries import JobHead


@dataclass(frozen=True)
class Dew:
    """Surfaces wet now: how many of how many, which dries first and when, when all are dry."""

    count: int
    of: int
    first_name: str
    first_at: datetime | None
    all_at: datetime | None


@dataclass(frozen=True)
class JobMorning:
    """The start page's answer for one job.

    `visit` is the next visit of the schedule; without a schedule, `run` is the next stretch of
    the surface to start with. `problem` says in words why there is neither. `gates` are those of
    lead and asbestos that are raised and not cleared.
    """

    job: Job
    status: ForecastStatus
    ahead: Outlook | None
    schedule: SavedSchedule | None
    visit: Visit | None
    run: NextRun | None
    run_name: str
    dew: Dew | None
    problem: str
    gates: tuple[Gate, ...] = ()
    # Somebody on site sees rain, and it is not over.
    is_rain_seen: bool = False
    # All work: where it stands, the pieces of the plan with their states, and those that nobody has said anything of.
    standing: Standing | None = None
    work: tuple[StintNow, ...] = ()
    # What the plan took for not done when it mended itself, as far as it is still not on record.
    asked: tuple[StintNow, ...] = ()

    @property
    def to_say(self) -> list[StintNow]:
        """Pieces of work of which somebody should say whether they were done, each once."""
        unsaid = self.unsaid
        return [*(one for one in self.asked if one.stint.id not in {u.stint.id for u in unsaid}), *unsaid]

    @property
    def unsaid(self) -> list[StintNow]:
        """Pieces of work whose time has passed and of which the record says nothing."""
        return [one for one in self.work if one.is_unsaid]

    @property
    def next_work(self) -> StintNow | None:
        """The piece of work that is under way or comes next."""
        return next((one for one in self.work if one.is_ahead), None)


def names(job: Job) -> dict[str, str]:
    return {s.id: s.name for s in outlook.painted_surfaces(job)}


def job_morning(scope: Scope, job: Job) -> JobMorning:
    """Return the next thing to do on a job; never fails for want of weather."""
    gates = tuple(g for g in gates_of(scope, job) if g.is_raised and g.state != "cleared")
    status = outlook.status(scope, job)
    try:
        ahead = outlook.outlook(scope, job, status)
    except PlanError as fault:
        return JobMorning(job, status, None, schedules.saved(scope, job), None, None, "", None, str(fault), gates)
    now = scope.clock.now()
    step = ahead.step_at(now)
    kept = schedules.saved(scope, job, ahead)
    standing = standing_work(scope, job, ahead)
    work = work_now(kept.stints, standing, now) if kept else ()
    asked = tuple(one for one in work_now(kept.asked, standing, now) if one.is_unsaid) if kept else ()
    coming = [v for v in kept.visits if v.ends_at > now and not _is_over(v, standing)] if kept else []
    # Where a gate or a patch holds a wall up, the crew is sent to the next one; nowhere else to go is said.
    late = {i for one in work if one.state == "late" for i in one.left}
    coming = [v for v in coming if not late & set(v.tasks)]
    visit = next((v for v in coming if not v.held_by), coming[0] if coming else None)
    run = best_next(ahead.windows, step, _free(scope, job, ahead)) if visit is None else None
    called = names(job)
    run_name = called[ahead.surface_ids[run.surface]] if run else ""
    rains = bool(seen_on(scope, job, now).raining(now))
    return JobMorning(job, status, ahead, kept, visit, run, run_name, _dew(ahead, called, step), "", gates, rains, standing, work, asked)


def record_as_planned(scope: Scope, job: Job) -> None:
    """Record all work whose time has passed and of which nobody spoke as done, by the painters who were to do it: at its planned hours,
    or since it was begun."""
    today = job_morning(scope, job)
    by_id = {task.id: task for task in tasks_of(scope, job)}
    pieces = []
    for one in today.to_say:
        stint, steps = one.stint, [by_id[i] for i in one.left if i in by_id]
        if steps:
            hours = hours_of(scope, job, one.left, (stint.starts_at, stint.ends_at), scope.clock.now())
            pieces.append((steps, Said(Told.DONE, *hours, 100.0 / stint.of, stint.painters)))
    # All or none: a request that is sent again is answered by its key alone.
    if pieces:
        enter_all(scope, job, pieces)


def _is_over(visit: Visit, standing: Standing) -> bool:
    """Return whether the record says that a coat is on."""
    states = [standing.states[i] for i in visit.tasks if i in standing.states]
    return bool(states) and all(state.state.is_over for state in states)


def _free(scope: Scope, job: Job, ahead: Outlook) -> list[int]:
    """Return the rows of surfaces that nothing holds up."""
    coatings = coatings_of(scope, job)
    return [row for row, surface_id in enumerate(ahead.surface_ids) if not coatings[surface_id].held_by]


def _dew(ahead: Outlook, called: dict[str, str], step: int) -> Dew | None:
    dry_step, rows = dry_from(ahead.windows, step)
    if not rows:
        return None
    first, first_step = first_dry(ahead.windows, rows, step)
    return Dew(
        count=len(rows),
        of=ahead.windows.states.shape[0],
        first_name=called[ahead.surface_ids[first]],
        first_at=None if first_step is None else ahead.local(first_step),
        all_at=None if dry_step is None else ahead.local(dry_step),
    )


def running(scope: Scope) -> list[JobHead]:
    """Return the jobs that are being worked on, the oldest first."""
    with scope.reading() as session:
        return queries.running_jobs(session, scope.contractor_id, jobs.RUNNING)


def standing_of(scope: Scope, head: JobHead, *, asks: bool = True) -> ForecastStatus:
    """Return how the forecast of a job's place stands; `asks` whether the weather service may be asked."""
    place = Place(head.latitude_deg, head.longitude_deg, head.altitude_m)
    return forecasts.refresh(scope, place) if asks else forecasts.standing(scope, place)


def mark_of(scope: Scope, head: JobHead, status: ForecastStatus) -> tuple[object, ...]:
    """Return what changes whenever anything may that is said of a job: its rows, the firm's, the forecast, the hour."""
    hour = scope.clock.now().replace(minute=0, second=0, microsecond=0)
    return (head.id, head.revision, scope.basis, status.issue_id, status.observed_to, status.observed_count, status.fault, hour)
