"""The schedule of a job: its part of the plan of all work, kept, and held against newer forecasts."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, replace
from datetime import UTC, date, datetime
from typing import TypeVar

from amber_gable.core.planning.crew.money import Cost
from amber_gable.core.planning.crew.values import Stretch
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.errors import ConflictError, FieldErrors, NotFoundError, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs import jobs
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.kept import Finish, SavedSchedule, SavedStint, Visit
from amber_gable.services.planning.making.cautions import cautions
from amber_gable.services.planning.making.crewplan import frame_of, plan_jobs, running_outlooks
from amber_gable.services.planning.making.keeping import asked_for, kept_of, of_coat
from amber_gable.services.planning.making.laying import Frame
from amber_gable.services.planning.making.moves import Was, moves
from amber_gable.services.planning.making.searching import forget_way, found_way, settle, way_of
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.store import queries
from amber_gable.store.models import Job, Schedule
from amber_gable.store.types import new_id

_T = TypeVar("_T")
# So often a plan is made anew because another one was written while it was made.
_TURNS = 2
_BY_HAND = "put there by hand"


def make(scope: Scope, job: Job, *, anew: bool = False) -> SavedSchedule:
    """Make the plan of all running jobs, and keep each job's part of it in place of the old one.

    Parameters
    ----------
    anew : bool
        From nothing; otherwise what was planned stays where it was and with whom, as long as nothing forbids it.

    Raises
    ------
    PlanError
        If the job is not running.
    ConflictError
        If others change the plan again and again meanwhile.
    """
    return _in_turn(lambda: _made(scope, job, anew=anew))


def mend_because(scope: Scope, because: Mapping[str, tuple[str, ...]]) -> None:
    """Mend the plan of all running jobs by itself.

    Parameters
    ----------
    because : mapping of str to tuple of str
        By job, why: in words, to be kept with each part of the plan.

    Raises
    ------
    ConflictError
        If somebody changes the plan meanwhile.
    """
    there = running_outlooks(scope)
    frame = frame_of(scope.clock.now())
    before = {one.id: saved(scope, one) for one, _ in there}
    plans = plan_jobs(scope, there, _stretches(before, frame), way_of(scope))
    kept = {one.id: kept_of(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    # It belongs to no job: what somebody did on a job last is undone first.
    kept = {i: replace(k, because=because.get(i, ()), asked=asked_for(before[i], scope.clock.now())) for i, k in kept.items()}
    _write(scope, None, "mend the plan", kept, before)


def _in_turn(act: Callable[[], _T]) -> _T:
    """Return what `act` returns; where the plan changed while it was planned, it is planned again on what stands then."""
    for _ in range(_TURNS):
        try:
            return act()
        except ConflictError:
            continue
    return act()


def _made(scope: Scope, job: Job, *, anew: bool) -> SavedSchedule:
    there = running_outlooks(scope)
    if job.id not in {one.id for one, _ in there}:
        if job.state == jobs.RUNNING:
            # It says itself why there is no weather, or nothing to paint.
            outlooks.outlook(scope, job, outlooks.status(scope, job))
        raise PlanError("Only running jobs are scheduled. Set this one running in the list of jobs.", "form")
    frame = frame_of(scope.clock.now())
    before = {one.id: saved(scope, one) for one, _ in there}
    if anew:
        forget_way(scope)
    plans = plan_jobs(scope, there, () if anew else _stretches(before, frame), way_of(scope))
    kept = {one.id: kept_of(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    _write(scope, job, "make the schedule", kept, before)
    return kept[job.id]


def take_found(scope: Scope, search_id: str) -> None:
    """Take the better plan that a search found, in place of the one that stands; what was put somewhere by hand stays there.

    Raises
    ------
    NotFoundError
        If the search has nothing to take.
    PlanError
        If it is no better by now: the plan that stands has changed, or the weather, or what is on record.
    """
    way, there = found_way(scope, search_id), running_outlooks(scope)
    frame = frame_of(scope.clock.now())
    before = {one.id: saved(scope, one) for one, _ in there}
    pinned = [s for s in _stretches(before, frame) if s.is_pinned or s.start < 0]
    plans = plan_jobs(scope, there, pinned, way)
    stands = plan_jobs(scope, there, _stretches(before, frame), way_of(scope))
    if not plans or next(iter(plans.values())).cost.total >= next(iter(stands.values())).cost.total:
        raise PlanError("By now this plan is no better than the one that stands: things have changed since. Search again.", "form")
    kept = {one.id: kept_of(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    _write(scope, there[0][0], "take the better plan", kept, before)
    settle(scope, search_id, is_taken=True)


def put(scope: Scope, job: Job, stint_id: str, starts_at: datetime | None) -> None:
    """Put a piece of work at another time by hand, or let it go again; what is in its way moves.

    Parameters
    ----------
    starts_at : datetime or None
        None to let it go: it stays where it is until something moves it.

    Raises
    ------
    FieldErrors
        Where it cannot be done then, with why; nothing changes.
    NotFoundError
    """
    _in_turn(lambda: _put(scope, job, stint_id, starts_at))


def _put(scope: Scope, job: Job, stint_id: str, starts_at: datetime | None) -> None:
    there = running_outlooks(scope)
    before = {one.id: saved(scope, one) for one, _ in there}
    own = before.get(job.id)
    stint = next((s for s in own.stints if s.id == stint_id), None) if own else None
    if stint is None:
        raise NotFoundError("This piece of work is not in the plan (any more).")
    frame = frame_of(scope.clock.now())
    stretches = [s for s in _stretches(before, frame) if s.task != stint_id]
    wanted = starts_at or stint.starts_at
    first = round((wanted.timestamp() - frame.start_s) / frame.step_s)
    if starts_at is not None and first < 0:
        raise FieldErrors({"start": "This time has passed; give one that lies ahead."})
    length = round((stint.ends_at - stint.starts_at).total_seconds() / frame.step_s)
    stretches.append(
        Stretch(stint_id, first, first + length, stint.painters, _BY_HAND if starts_at else stint.set_by, starts_at is not None)
    )
    plans = plan_jobs(scope, there, stretches, way_of(scope))
    landed = next((s for s in plans[job.id].stints if s.id == stint_id), None)
    if starts_at is not None and (landed is None or landed.starts_at != wanted):
        was = Was(stint_id, wanted, wanted + (stint.ends_at - stint.starts_at), stint.painters, stint.tasks, stint.coat)
        ahead = next(of_job for one, of_job in there if one.id == job.id)
        found = moves(scope, job, ahead, plans[job.id].laid, frame, [was], {stint_id: landed.starts_at} if landed else {})
        raise FieldErrors({"start": f"Not then: {found[0].why}." if found else "Not then: something stands in its way."})
    kept = {one.id: kept_of(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    if starts_at is not None and landed is not None:
        said = cautions(scope, there, landed, job, plans, before)
        kept[job.id] = replace(kept[job.id], news=(*kept[job.id].news, *said))
    _write(scope, job, "put work at another time" if starts_at else "let work go where it may", kept, before)


def _write(
    scope: Scope, job: Job | None, label: str, kept: Mapping[str, "SavedSchedule"], before: Mapping[str, "SavedSchedule | None"]
) -> None:  # fmt: skip
    """Write the plan of all jobs in place of the one that it was made from.

    Raises
    ------
    ConflictError
        If another one stands by now: nothing is written.
    """
    with changing(scope, label, job.id if job else None) as change:
        for job_id, schedule in kept.items():
            columns = {
                "made_at": schedule.made_at, "forecast_issued_at": schedule.forecast_issued_at, "painters": schedule.painters,
                "visits": [v.written() for v in schedule.visits], "unplaced": schedule.unplaced,
                "stints": [s.written() for s in schedule.stints],
                "finish": schedule.finish.written() | {
                    "moves": list(schedule.moves), "gone": list(schedule.gone), "cost": asdict(schedule.cost) if schedule.cost else None,
                    "not_before": schedule.not_before.isoformat() if schedule.not_before else None, "colours": schedule.colours,
                    "news": list(schedule.news), "because": list(schedule.because),
                    "asked": [s.written() for s in schedule.asked],
                },
            }  # fmt: skip
            existing, was = queries.schedule_of(change.session, job_id), before[job_id]
            if existing is None:
                change.add(Schedule(id=new_id(), version=1, job_id=job_id, **columns))
            else:
                change.update(existing, columns, was.version if was is not None else 0)


def _stretches(before: Mapping[str, "SavedSchedule | None"], frame: Frame) -> list[Stretch]:
    """Return the work of earlier plans that is under way or still to come, on the steps of a new one."""
    out = []
    for schedule in before.values():
        for stint in schedule.stints if schedule else ():
            start = (stint.starts_at.timestamp() - frame.start_s) / frame.step_s
            end = (stint.ends_at.timestamp() - frame.start_s) / frame.step_s
            # What is being worked at goes on.
            if end > 0:
                out.append(Stretch(stint.id, round(start), round(end), stint.painters, stint.set_by, stint.is_pinned))
    return out


def saved(scope: Scope, job: Job, ahead: Outlook | None = None) -> SavedSchedule | None:
    """Return the job's schedule, each visit with what holds it up; with an outlook, whether it still holds."""
    row = scope.once(("schedule", job.id), lambda session: queries.schedule_of(session, job.id))
    if row is None:
        return None
    coatings = coatings_of(scope, job)
    held = {surface: coating.held_by for surface, coating in coatings.items()}
    visits = [replace(Visit.read(v), held_by=held.get(v["surface_id"], ())) for v in row.visits]
    if ahead is not None:
        now = scope.clock.now()
        visits = [_held_against(v, of_coat(scope, job, ahead, v.coat), now) if v.ends_at > now else v for v in visits]
    stints = [SavedStint.read(s) for s in row.stints]
    more = row.finish
    cost, not_before = more.get("cost"), more.get("not_before")
    return SavedSchedule(
        row.made_at, row.forecast_issued_at, row.painters, visits, row.unplaced, stints, Finish.read(more),
        moves=tuple(more.get("moves", ())), gone=tuple(more.get("gone", ())), version=row.version, cost=Cost(**cost) if cost else None,
        not_before=datetime.fromisoformat(not_before) if not_before else None, colours=more.get("colours", {}),
        news=tuple(more.get("news", ())), because=tuple(more.get("because", ())),
        asked=tuple(SavedStint.read(s) for s in more.get("asked", ())),
    )  # fmt: skip


def _held_against(visit: Visit, ahead: Outlook, now: datetime) -> Visit:
    row = ahead.row(visit.surface_id)
    if row is None:
        return replace(visit, broken_by="this surface is not painted any more")
    if visit.ends_at <= now:
        return visit
    first, last = ahead.step_at(max(visit.starts_at, now)), ahead.step_at(visit.ends_at)
    if (ahead.windows.states[row, first : max(last, first + 1)] == SHUT).any():
        reasons = ahead.windows.reasons(row, first, max(last, first + 1))
        return replace(visit, broken_by=short_name(reasons[0].rule))
    return visit


def first_day(scope: Scope, job: Job) -> date | None:
    """Return the day of the first work of the job's schedule; None where there is none."""
    schedule = saved(scope, job)
    starts = [s.starts_at for s in schedule.stints] or [v.starts_at for v in schedule.visits] if schedule else []
    return min(starts).date() if starts else None


def calendar_entries(scope: Scope, job: Job) -> list[SavedStint]:
    """Return the pieces of work to put into a calendar file.

    Raises
    ------
    PlanError
        If no schedule was made yet.
    """
    schedule = saved(scope, job)
    if schedule is None:
        raise PlanError("Make the schedule first; then it can be downloaded.", "schedule")
    return [replace(s, starts_at=s.starts_at.astimezone(UTC), ends_at=s.ends_at.astimezone(UTC)) for s in schedule.stints]
