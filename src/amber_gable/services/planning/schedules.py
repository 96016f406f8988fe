"""The schedule of a job: its part of the plan of all work, kept, and held against newer forecasts."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from typing import Any

import numpy as np

from amber_gable.core.planning.dispatch import Stretch
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.crewplan import JobPlan, PlacedStint, crew_names, frame_of, plan_jobs, running_outlooks
from amber_gable.services.planning.laying import Frame
from amber_gable.services.planning.moves import Was, moves
from amber_gable.services.systems.coatings import coatings_of, held_words
from amber_gable.store import queries
from amber_gable.store.models import Job, Schedule
from amber_gable.store.types import new_id


@dataclass(frozen=True)
class Visit:
    """One coat on one surface in a saved schedule.

    Parameters
    ----------
    tasks : tuple of str
        Ids of the steps that are done in it.
    painters : tuple of str
    broken_by : str
        Why it no longer holds by the newest forecast; empty while it does.
    held_by : tuple of str
        What keeps the work on this surface from starting: gates, a test patch.
    """

    surface_id: str
    surface_name: str
    elevation_id: str
    coat: int
    starts_at: datetime
    ends_at: datetime
    last_stroke_at: datetime
    next_coat_from: datetime | None
    set_by: str
    tasks: tuple[str, ...] = ()
    painters: tuple[str, ...] = ()
    broken_by: str = ""
    held_by: tuple[str, ...] = ()

    @property
    def why_then(self) -> str:
        """The reason for the start, in words."""
        return self.set_by

    @classmethod
    def read(cls, row: dict[str, Any]) -> "Visit":
        times = {
            name: None if row[name] is None else datetime.fromisoformat(row[name])
            for name in ("starts_at", "ends_at", "last_stroke_at", "next_coat_from")
        }
        lists = {name: tuple(row.get(name, ())) for name in ("tasks", "painters")}
        return cls(**{**row, **times, **lists})

    def written(self) -> dict[str, Any]:
        out = {k: v for k, v in self.__dict__.items() if k not in ("broken_by", "held_by")}
        return {k: v.isoformat() if isinstance(v, datetime) else list(v) if isinstance(v, tuple) else v for k, v in out.items()}


@dataclass(frozen=True)
class SavedStint:
    """One piece of work in a saved schedule.

    Parameters
    ----------
    id, side, family, stage : str
        As the plan's stints have them; the id ends in "#" and the number of the piece.
    of : int
        How many pieces there are of the stint.
    coat : int
        Of a coat, which one; otherwise 0.
    does : tuple of str
        What is done, step by step, in words.
    places : tuple of str
        Names of where it is done.
    tasks : tuple of str
        Ids of its steps.
    hours : float
        Painter-hours.
    is_expected : bool
        It lies where no forecast reaches.
    """

    id: str
    side: str
    family: str
    stage: str
    of: int
    coat: int
    starts_at: datetime
    ends_at: datetime
    painters: tuple[str, ...]
    hours: float
    set_by: str
    is_expected: bool
    does: tuple[str, ...]
    places: tuple[str, ...]
    tasks: tuple[str, ...]
    equipment: tuple[str, ...]
    ways_up: tuple[str, ...]

    @property
    def piece(self) -> int:
        return int(self.id.rsplit("#", 1)[1])

    @classmethod
    def read(cls, row: dict[str, Any]) -> "SavedStint":
        times = {name: datetime.fromisoformat(row[name]) for name in ("starts_at", "ends_at")}
        values: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in row.items()}
        return cls(**values | times)

    @classmethod
    def of_plan(cls, one: PlacedStint) -> "SavedStint":
        stint = one.stint
        does = tuple(dict.fromkeys(t.label for t in stint.tasks if t.hours))
        places = tuple(dict.fromkeys(t.name for t in stint.tasks if t.hours)) or tuple(dict.fromkeys(t.name for t in stint.tasks))
        return cls(
            one.id, stint.side, stint.family, stint.stage, one.of, stint.coat, one.starts_at, one.ends_at, one.painters,
            round(one.hours, 3), one.set_by, one.is_expected, does, places, tuple(t.id for t in stint.tasks), stint.equipment,
            stint.ways_up,
        )  # fmt: skip

    def written(self) -> dict[str, Any]:
        return {k: v.isoformat() if isinstance(v, datetime) else list(v) if isinstance(v, tuple) else v for k, v in self.__dict__.items()}


@dataclass(frozen=True)
class Finish:
    """When a job is expected to end: by half and by four fifths of the courses of the weather; None where it does not within the plan."""

    half_at: datetime | None = None
    most_at: datetime | None = None

    @classmethod
    def of(cls, ends: Sequence[datetime], courses: int) -> "Finish":
        def by(share: float) -> datetime | None:
            place = int(np.ceil(share * courses)) - 1
            return ends[place] if place < len(ends) else None

        return cls(by(0.5), by(0.8))

    @classmethod
    def read(cls, row: dict[str, Any]) -> "Finish":
        return cls(*(datetime.fromisoformat(row[k]) if row.get(k) else None for k in ("half_at", "most_at")))

    def written(self) -> dict[str, Any]:
        return {k: v.isoformat() if v else None for k, v in self.__dict__.items()}


@dataclass(frozen=True)
class SavedSchedule:
    """What is kept of a job's plan.

    Parameters
    ----------
    visits : list of Visit
        Coats of surfaces that lie within the forecast.
    stints : list of SavedStint
        All work, by its start.
    unplaced : list of dict
        What has no place: where, and why; "hours" of it.
    finish : Finish
    moves : tuple of dict
        What the last planning moved: from when to when, and why.
    gone : tuple of dict
        Pieces that are in no plan any more though their time is still to come.
    """

    made_at: datetime
    forecast_issued_at: datetime
    painters: int
    visits: list[Visit]
    unplaced: list[dict[str, Any]]
    stints: list[SavedStint]
    finish: Finish
    moves: tuple[dict[str, Any], ...] = ()
    gone: tuple[dict[str, Any], ...] = ()
    # Raised by every change: what a calendar tells a new version by.
    version: int = 1

    @property
    def is_broken(self) -> bool:
        return any(v.broken_by for v in self.visits)


def of_coat(scope: Scope, job: Job, ahead: Outlook, coat: int) -> Outlook:
    """Return the outlook that a coat is judged by: later ones go on the new colour."""
    return ahead if coat == 1 else outlooks.of_turn(scope, job, ahead, "later")


def last_stroke(ahead: Outlook, row: int, start: int) -> int:
    """Return where the run of open or tight quarter-hours that holds `start` ends (exclusive)."""
    shut = np.flatnonzero(ahead.windows.states[row, start:] == SHUT)
    return start + int(shut[0]) if len(shut) else ahead.windows.states.shape[1]


def make(scope: Scope, job: Job, ahead: Outlook, *, anew: bool = False) -> SavedSchedule:
    """Make the plan of all running jobs, and keep each job's part of it in place of the old one.

    Parameters
    ----------
    anew : bool
        From nothing; otherwise what was planned stays where it was and with whom, as long as nothing forbids it.

    Raises
    ------
    PlanError
        If the job is not running.
    """
    there = running_outlooks(scope)
    if job.id not in {one.id for one, _ in there}:
        raise PlanError("Only running jobs are scheduled. Set this one running in the list of jobs.", "form")
    frame = frame_of(scope.clock.now())
    before = {one.id: saved(scope, one) for one, _ in there}
    plans = plan_jobs(scope, there, () if anew else _stretches(before, frame))
    kept = {one.id: _kept(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    with changing(scope, "make the schedule", job.id) as change:
        for job_id, schedule in kept.items():
            columns = {
                "made_at": schedule.made_at, "forecast_issued_at": schedule.forecast_issued_at, "painters": schedule.painters,
                "visits": [v.written() for v in schedule.visits], "unplaced": schedule.unplaced,
                "stints": [s.written() for s in schedule.stints],
                "finish": schedule.finish.written() | {"moves": list(schedule.moves), "gone": list(schedule.gone)},
            }  # fmt: skip
            existing = queries.schedule_of(change.session, job_id)
            if existing is None:
                change.add(Schedule(id=new_id(), version=1, job_id=job_id, **columns))
            else:
                change.update(existing, columns)
    return kept[job.id]


def _stretches(before: Mapping[str, "SavedSchedule | None"], frame: Frame) -> list[Stretch]:
    """Return the work of earlier plans that is still to come, on the steps of a new one."""
    out = []
    for schedule in before.values():
        for stint in schedule.stints if schedule else ():
            start = (stint.starts_at.timestamp() - frame.start_s) / frame.step_s
            if start >= 0:
                end = (stint.ends_at.timestamp() - frame.start_s) / frame.step_s
                out.append(Stretch(stint.id, round(start), round(end), stint.painters, stint.set_by))
    return out


def _kept(scope: Scope, job: Job, ahead: Outlook, plan: JobPlan, frame: Frame, before: "SavedSchedule | None") -> SavedSchedule:
    stints = [SavedStint.of_plan(one) for one in plan.stints]
    finish = Finish() if plan.unplaced else Finish.of(plan.finishes, plan.courses)
    old = [Was(s.id, s.starts_at, s.ends_at, s.painters, s.tasks, s.coat) for s in before.stints if not s.is_expected] if before else []
    by_id = {s.id: s for s in before.stints} if before else {}
    starts = {s.id: s.starts_at for s in stints}
    moved = [
        {"id": m.id, "from_at": m.from_at.isoformat(), "to_at": m.to_at.isoformat() if m.to_at else None, "why": m.why,
         "places": list(by_id[m.id].places), "coat": by_id[m.id].coat, "stage": by_id[m.id].stage, "side": by_id[m.id].side}
        for m in moves(scope, job, ahead, plan.laid, frame, old, starts)
    ]  # fmt: skip
    # What was told to calendars and is in no plan any more: called off there, for as long as it would lie ahead.
    now = scope.clock.now()
    gone = [s.written() for s in before.stints if s.id not in starts and s.ends_at > now] if before else []
    gone += [g for g in before.gone if g["id"] not in starts and datetime.fromisoformat(g["ends_at"]) > now] if before else []
    return SavedSchedule(
        now, ahead.issued_at, len(crew_names(scope)), _visits(scope, job, ahead, plan), _unplaced(scope, job, plan), stints, finish,
        tuple(moved), tuple(gone),
    )  # fmt: skip


def _visits(scope: Scope, job: Job, ahead: Outlook, plan: JobPlan) -> list[Visit]:
    """Return the coats of surfaces that the forecast reaches, each from the first to the last of its pieces."""
    surfaces = {s.id: s for s in outlooks.painted_surfaces(job)}
    held = {surface_id: coating.held_by for surface_id, coating in coatings_of(scope, job).items()}
    spans: dict[tuple[str, int], list[PlacedStint]] = {}
    for one in plan.stints:
        for task in one.stint.tasks:
            place = task.id.rsplit(":", 1)[0]
            if one.stint.coat and place in surfaces and not one.is_expected:
                spans.setdefault((place, one.stint.coat), []).append(one)
    starts = {key: min(p.starts_at for p in parts) for key, parts in spans.items()}
    visits = []
    for (place, coat), parts in spans.items():
        if len(parts) < parts[0].of:
            continue
        row, judged = ahead.row(place), of_coat(scope, job, ahead, coat)
        first, last = min(parts, key=lambda p: p.starts_at), max(parts, key=lambda p: p.ends_at)
        assert row is not None, "what is painted has its row"
        if (judged.windows.states[row, ahead.step_at(first.starts_at) : ahead.step_at(last.ends_at)] == SHUT).any():
            # The forecast ends before all is known that this coat needs: an expectation.
            continue
        stroke = judged.local(last_stroke(judged, row, ahead.step_at(last.starts_at)))
        visits.append(
            Visit(
                place, surfaces[place].name, surfaces[place].elevation_id, coat, first.starts_at, last.ends_at, max(stroke, last.ends_at),
                starts.get((place, coat + 1)), first.set_by, tuple(t.id for t in first.stint.tasks), first.painters, held_by=held[place],
            )
        )  # fmt: skip
    return sorted(visits, key=lambda v: (v.starts_at, v.surface_name))


def _unplaced(scope: Scope, job: Job, plan: JobPlan) -> list[dict[str, Any]]:
    """Return what has no place: what a gate holds up once for each surface, the rest stint by stint."""
    coatings, out = coatings_of(scope, job), []
    names = {s.id: s.name for s in outlooks.painted_surfaces(job)}
    by_place: dict[str, float] = {}
    for stint_id, why in plan.unplaced.items():
        stint = plan.laid.stints[stint_id]
        places = list(dict.fromkeys(t.id.rsplit(":", 1)[0] for t in stint.tasks))
        if all(coatings[p].held_by for p in places if p in coatings) and any(p in coatings for p in places):
            for task in stint.tasks:
                place = task.id.rsplit(":", 1)[0]
                by_place[place] = by_place.get(place, 0.0) + task.hours
                names.setdefault(place, task.name)
            continue
        does = ", ".join(dict.fromkeys(t.label.lower() for t in stint.tasks if t.hours)) or stint.stage
        where = " and ".join(dict.fromkeys(t.name for t in stint.tasks))
        out.append({"surface_name": where, "coat": str(stint.coat or ""), "does": does, "why": why, "hours": round(stint.hours, 2)})
    held = [
        {"surface_name": names[place], "coat": "", "does": "", "why": held_words(coatings[place].held_by), "hours": round(hours, 2)}
        for place, hours in by_place.items()
    ]
    return held + out


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
    told = (tuple(row.finish.get("moves", ())), tuple(row.finish.get("gone", ())), row.version)
    return SavedSchedule(row.made_at, row.forecast_issued_at, row.painters, visits, row.unplaced, stints, Finish.read(row.finish), *told)


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
