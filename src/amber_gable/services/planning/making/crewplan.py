"""The plan of all work of all running jobs: one crew, one calendar, made from the record and the outlook of each job."""

import hashlib
import pickle
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from amber_gable.core.planning.crew.machines import Machine, Units, gear_key, units_in
from amber_gable.core.planning.crew.money import Cost, Promise, Terms, days_in
from amber_gable.core.planning.crew.people import works_in
from amber_gable.core.planning.crew.search import Given, Way
from amber_gable.core.planning.crew.values import CrewTask, Painter, Stretch
from amber_gable.core.planning.stints import Stint
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs import jobs
from amber_gable.services.log.record import entries_of
from amber_gable.services.office.fleet import fleet_of
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.making.courses import Courses, planned_courses
from amber_gable.services.planning.making.far import PLAN_DAYS, Passing, known_until_s
from amber_gable.services.planning.making.laying import Frame, Laid, lay_out
from amber_gable.services.planning.making.underway import told
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.systems.specs import schools_of, state_of
from amber_gable.services.takeoff.access import moving_by_side
from amber_gable.services.takeoff.tasks import tasks_of
from amber_gable.store import queries
from amber_gable.store.models import Job

_DAY = 96
_QUARTER_S = 900.0


@dataclass(frozen=True)
class PlacedStint:
    """A piece of a stint with its hours and its painters.

    Parameters
    ----------
    id : str
        Of the stint, with the number of the piece.
    stint : Stint
    of : int
        How many pieces the stint has.
    starts_at, ends_at : datetime
    painters : tuple of str
    hours : float
        Painter-hours of the piece.
    set_by : str
        What its start waits for, in words.
    is_expected : bool
        Begins where no forecast reaches: an expectation.
    is_pinned : bool
        Somebody put it there by hand.
    moving_h : float
        Painter-hours of moving ladders besides.
    """

    id: str
    stint: Stint
    of: int
    starts_at: datetime
    ends_at: datetime
    painters: tuple[str, ...]
    hours: float
    set_by: str
    is_expected: bool
    is_pinned: bool = False
    moving_h: float = 0.0

    @property
    def piece(self) -> int:
        return int(self.id.rsplit("#", 1)[1])


@dataclass(frozen=True)
class JobPlan:
    """What is planned of one job.

    Parameters
    ----------
    laid : Laid
    stints : tuple of PlacedStint
        By their start.
    unplaced : dict of str to str
        Stints without a place, and why in words.
    courses : int
        How many courses of the weather were tried.
    finishes : tuple of datetime
        When the job ends by each course of the weather beyond the forecast, the soonest first; empty where it never does.
    cost : Cost
        Of the plan of all jobs together.
    not_before : datetime or None
        Before then it cannot end, however many painters and machines there were; None where it cannot within the plan.
    """

    laid: Laid
    stints: tuple[PlacedStint, ...]
    unplaced: dict[str, str]
    finishes: tuple[datetime, ...]
    cost: Cost
    not_before: datetime | None
    courses: int


def crew_names(scope: Scope) -> tuple[str, ...]:
    """Return the painters by name; one without a name where the firm has entered none."""
    return scope.owner.painters or ("Painter",)


def crew_of(scope: Scope, frame: Frame, zone: ZoneInfo) -> tuple[Painter, ...]:
    """Return the painters with the quarter-hours of a plan that each works, and what each may do until when."""
    out = []
    for name in crew_names(scope):
        person = scope.owner.crew.get(name)
        if person is None:
            out.append(Painter(name))
            continue
        until = {skill: frame.count if last is None else _step_of(last, frame, zone) for skill, last in person.skills.items()}
        out.append(Painter(name, works_in(person, frame.start_s, frame.count, zone), until))
    return tuple(out)


def fleet_in(scope: Scope, frame: Frame, there: Sequence[tuple[Job, Outlook]]) -> dict[str, Units]:
    """Return how many of each machine there are at each step of a plan, by the names under which work takes them."""
    return {
        gear_key(key, machine, job.id): units_in(machine, job.id, frame.start_s, frame.count, ahead.zone)
        for key, machine in fleet_of(scope).items()
        for job, ahead in there
    }


def _step_of(last: date, frame: Frame, zone: ZoneInfo) -> int:
    """Return the step at which a day ends."""
    end = datetime.combine(last + timedelta(days=1), time(0), zone)
    return int((end.timestamp() - frame.start_s) // frame.step_s)


def running_outlooks(scope: Scope) -> list[tuple[Job, Outlook]]:
    """Return the running jobs with their outlooks, the oldest first; those without a forecast are left out."""
    out = []
    with scope.reading() as session:
        heads = queries.running_jobs(session, scope.contractor_id, jobs.RUNNING)
    for number, head in enumerate(heads):
        told(f"Hours of {head.name}", number, 2 * len(heads) + 1)
        job = jobs.whole(scope, head.id)
        status = outlooks.status(scope, job)
        if status.issue_id is None or not any(s.is_painted for e in job.building.elevations for s in e.surfaces):
            continue
        out.append((job, outlooks.outlook(scope, job, status)))
    return out


def frame_of(now: datetime) -> Frame:
    """Return the steps of a plan that is made now: from the next quarter-hour on."""
    start = (now.timestamp() // _QUARTER_S + 1) * _QUARTER_S
    return Frame(start, PLAN_DAYS * 96)


def plan_jobs(
    scope: Scope, there: Sequence[tuple[Job, Outlook]], keep: Sequence[Stretch] = (), way: Way | None = None
) -> dict[str, JobPlan]:  # fmt: skip
    """Return the plan of some jobs by their ids.

    Parameters
    ----------
    keep : sequence of Stretch
        Of the plan before, on the steps of `frame_of` now: what stays where it is as long as nothing forbids it.
    way : Way or None
        How it is dispatched; None for the usual.

    Notes
    -----
    The job that stands first is served first; the others fill what its waits leave.
    """
    if not there:
        return {}
    frame, kept = frame_of(scope.clock.now()), tuple(keep)
    said = None if way is None else (way.jobs, way.habits, tuple(sorted(way.pressing.items())))
    key = ("plan", frame, scope.basis, kept, said, tuple((ahead.key, state_of(scope, job)) for job, ahead in there))
    return scope.cached(key, lambda: _plan(scope, there, frame, kept, way))


def _plan(
    scope: Scope, there: Sequence[tuple[Job, Outlook]], frame: Frame, keep: tuple[Stretch, ...], way: Way | None
) -> dict[str, JobPlan]:  # fmt: skip
    asked = asked_of(scope, there, frame, keep)
    # Seconds of plain Python: in the calculator's process, so that no page waits for it.
    told("Who goes where, and when", 2 * len(there), 2 * len(there) + 1)
    found = _planned(scope, asked, way)
    told("Writing it down", 2 * len(there) + 1, 2 * len(there) + 1)
    pairs, fleet = zip(asked.laid, there, strict=True), fleet_of(scope)
    return {one.job_id: _of_job(one, frame, found, ahead, asked.known, fleet) for one, (_, ahead) in pairs}


def _planned(scope: Scope, asked: "Asked", way: Way | None) -> "Courses":
    """Return the plans that are asked for, kept by the whole content of what they are made from."""
    courses = scope.settings.plan_courses
    content = hashlib.sha256(pickle.dumps((asked.given, asked.known, way, courses))).hexdigest()
    return scope.cached(("planned", content), lambda: scope.calculated(planned_courses, asked.given, asked.known, way, courses))


@dataclass(frozen=True)
class Asked:
    """A plan that is asked for: jobs laid out, what it is made from on more steps than it has, the steps that the forecast reaches."""

    laid: tuple[Laid, ...]
    given: Given
    known: int


def asked_of(scope: Scope, there: Sequence[tuple[Job, Outlook]], frame: Frame, keep: Sequence[Stretch]) -> Asked:
    """Return what a plan of some jobs is made from.

    Parameters
    ----------
    keep : sequence of Stretch
        What stays where it is; beyond the forecast only what was put there by hand.
    """
    crew = crew_of(scope, frame, there[0][1].zone)
    # Some days more, so that other courses of the weather can be cut from them.
    longer = replace(frame, count=frame.count + (scope.settings.plan_courses - 1) * _DAY)
    laid = []
    for number, (job, ahead) in enumerate(there):
        told(f"Work of {job.name}", len(there) + number, 2 * len(there) + 1)
        laid.append(_laid(scope, job, ahead, longer, len(crew)))
    known = max(0, min(int((known_until_s(ahead) - frame.start_s) // _QUARTER_S) for _, ahead in there))
    keep = [*keep]
    tasks, works = _as_begun([task for one in laid for task in one.tasks], laid, keep), np.logical_or.reduce([one.works for one in laid])
    kept = [k for k in keep if k.start < known or k.is_pinned]
    jobs_in_order = [one.job_id for one in laid]
    fleet, terms = fleet_in(scope, frame, there), terms_of(scope, there, frame)
    return Asked(tuple(laid), Given(tasks, crew, jobs_in_order, frame.count, works, fleet, kept, terms), known)


def _as_begun(tasks: Sequence[CrewTask], laid: Sequence[Laid], keep: list[Stretch]) -> list[CrewTask]:
    """Return tasks with those cut to what is left that are being worked at by the plan before; their stretches begin now.

    Where the record says how much is done, that counts; otherwise the clock does.
    """
    pieces = {i: piece for one in laid for i, piece in one.pieces.items()}
    under_way = {k.task: k for k in keep if k.start < 0 and k.task in pieces}
    keep[:] = [replace(k, start=0) if k.start < 0 else k for k in keep if k.start >= 0 or k.task in under_way]
    out = []
    for task in tasks:
        at = under_way.get(task.id)
        if at is None or pieces[task.id].is_begun:
            out.append(task)
        else:
            out.append(replace(task, hours=min(task.hours, at.end * len(at.painters) * _QUARTER_S / 3600)))
    return out


def terms_of(scope: Scope, there: Sequence[tuple[Job, Outlook]], frame: Frame) -> Terms:
    """Return what plans are judged by: wages, hire, promised days."""
    knowledge, zone = scope.knowledge, there[0][1].zone
    start = datetime.fromtimestamp(frame.start_s, UTC).astimezone(zone)
    hired = {gear_key(key, one, job.id): one for key, one in fleet_of(scope).items() if one.is_hired for job, _ in there}
    promises = {
        job.id: Promise(date.fromisoformat(rules.promised), rules.late_per_day)
        for job, rules in ((job, jobs.rules_of(job)) for job, _ in there)
        if rules.promised
    }
    days = days_in(start.date(), start.hour * 4 + start.minute // 15, frame.count)
    return Terms(knowledge.money.labour_per_h, knowledge.practice.day_h, knowledge.practice.setup_h, days, hired, promises)


def _laid(scope: Scope, job: Job, ahead: Outlook, frame: Frame, painters: int) -> Laid:
    """Return a job laid out, kept by all that it is made from: the plan itself is none of it, so that saving it changes nothing here."""
    knowledge = scope.knowledge
    made_from = (
        ahead.key, tasks_of(scope, job), entries_of(scope, job), tuple(coatings_of(scope, job).items()), repr(sorted(job.rules.items())),
        job.country, tuple(sorted(schools_of(scope, job).items())), tuple(knowledge.step_weather.items()), knowledge.practice.setup_h,
        tuple(sorted(moving_by_side(scope, job).items())), tuple((key, one.is_hired) for key, one in fleet_of(scope).items()),
    )  # fmt: skip
    return scope.cached(("laid", frame, painters, made_from), lambda: lay_out(Passing(scope), job, ahead, frame, painters))


def _finishes(one: Laid, frame: Frame, courses: Sequence[Mapping[str, Stretch]], ahead: Outlook) -> tuple[datetime, ...]:
    """Return when a job ends by several courses of the weather, the soonest first; those that leave work out are not in it."""
    own = [task.id for task in one.tasks]
    ends = [max(plan[i].end for i in own) for plan in courses if own and all(i in plan for i in own)]
    return tuple(_local(frame.at_s(end), ahead) for end in sorted(ends))


def _of_job(
    one: Laid, frame: Frame, found: Courses, ahead: Outlook, known: int, fleet: Mapping[str, Machine]
) -> JobPlan:  # fmt: skip
    plan = found.plans[0]
    counts = Counter(piece.stint for piece in one.pieces.values())
    stints = []
    for task in one.tasks:
        at = plan.get(task.id)
        if at is None:
            continue
        stint = one.stints[_stint_id(task.id)]
        starts_at, ends_at = _local(frame.at_s(at.start), ahead), _local(frame.at_s(at.end), ahead)
        # What a fresh coat must still know lies a day ahead of it.
        is_expected = at.start >= known - (_DAY if stint.wets else 0)
        piece = one.pieces[task.id]
        stints.append(
            PlacedStint(
                task.id, stint, piece.of, starts_at, ends_at, at.painters, piece.hours, at.set_by, is_expected, at.is_pinned,
                task.hours - piece.hours,
            )
        )  # fmt: skip
    placed = Counter(_stint_id(s.id) for s in stints)
    unplaced = {i: _why(one, stint, fleet) for i, stint in one.stints.items() if placed[i] < max(counts[i], 1)}
    soonest = found.soonest.get(one.job_id)
    not_before = None if soonest is None else _local(frame.at_s(soonest), ahead)
    finishes = _finishes(one, frame, found.plans, ahead)
    in_order = tuple(sorted(stints, key=lambda s: (s.starts_at, s.id)))
    return JobPlan(one, in_order, unplaced, finishes, found.cost, not_before, len(found.plans))


def _stint_id(piece: str) -> str:
    return piece.rsplit("#", 1)[0]


def _local(second: float, ahead: Outlook) -> datetime:
    return datetime.fromtimestamp(second, UTC).astimezone(ahead.zone)


def _why(one: Laid, stint: Stint, fleet: Mapping[str, Machine]) -> str:
    none = next((fleet[name].label for name in (*stint.equipment, *stint.ways_up) if name in fleet and not fleet[name].units), None)
    if none is not None:
        return f"there is none of this: {none.lower()} (Crew, Machines)"
    if stint.held_by:
        return f"held up: {' and '.join(stint.held_by)}"
    held = [one.stints[a.stint] for a in stint.after if a.stint in one.stints and one.stints[a.stint].held_by]
    if held:
        return f"waits for what {' and '.join(held[0].held_by)} holds up"
    if any(a.stint in one.stints for a in stint.after) and not any(t.id.startswith(f"{stint.id}#") for t in one.tasks):
        return "waits for what is held up"
    return f"no place within {PLAN_DAYS} days: its windows are too short, or what it waits for ends too late"
