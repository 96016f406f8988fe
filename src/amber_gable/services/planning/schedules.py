"""The schedule of a job: made from the outlook, kept, and held against newer forecasts."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from typing import Any

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge import Knowledge
from amber_gable.core.planning.coats import CoatPiece, coat_id, tasks_for
from amber_gable.core.planning.schedule import Plan, Task, plan
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import pace_of
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.foresight import risky_starts
from amber_gable.services.planning.hours import working_hours
from amber_gable.services.survey.building.areas import net_area_m2
from amber_gable.services.systems.coatings import SurfaceCoating, coatings_of, held_words
from amber_gable.services.systems.specs import schools_of
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Job, Schedule, Surface
from amber_gable.store.types import new_id

WHY_UNPLACED = {
    "no window": "no stretch of open or tight hours is long enough for it within the forecast",
    "waits": "the coat before it is not placed, or is not dry in time, within the forecast",
    "crew busy": "the crew has no time left for it within the forecast",
    "too long": "no stretch is as long as this coat takes; add painters or split the wall at a joint",
}


WHY_THEN = {
    "crew": "the crew is free",
    "window": "the wall opens",
    "recoat": "the coat before is dry",
    "top first": "the top of this side is done",
    "body first": "the body of this side is done",
}


@dataclass(frozen=True)
class Visit:
    """One coat on one surface in a saved schedule."""

    surface_id: str
    surface_name: str
    elevation_id: str
    coat: int
    starts_at: datetime
    ends_at: datetime
    last_stroke_at: datetime
    next_coat_from: datetime | None
    set_by: str
    # Why it no longer holds by the newest forecast; empty while it does.
    broken_by: str = ""
    # What keeps the work on this surface from starting: gates, a test patch.
    held_by: tuple[str, ...] = ()

    @property
    def why_then(self) -> str:
        """The reason for the start, in words."""
        return WHY_THEN[self.set_by]

    @classmethod
    def read(cls, row: dict[str, Any]) -> "Visit":
        times = {
            name: None if row[name] is None else datetime.fromisoformat(row[name])
            for name in ("starts_at", "ends_at", "last_stroke_at", "next_coat_from")
        }
        return cls(**{**row, **times})

    def written(self) -> dict[str, Any]:
        out = {k: v for k, v in self.__dict__.items() if k not in ("broken_by", "held_by")}
        return {k: v.isoformat() if isinstance(v, datetime) else v for k, v in out.items()}


@dataclass(frozen=True)
class SavedSchedule:
    made_at: datetime
    forecast_issued_at: datetime
    painters: int
    visits: list[Visit]
    unplaced: list[dict[str, str]]

    @property
    def is_broken(self) -> bool:
        return any(v.broken_by for v in self.visits)


def _pieces(job: Job, scope: Scope) -> list[tuple[Surface, CoatPiece]]:
    coatings = coatings_of(scope, job)
    return [
        (s, _piece(s, elevation, scope.knowledge, coatings[s.id]))
        for elevation in job.building.elevations
        for s in elevation.surfaces
        if s.is_painted
    ]


def _piece(surface: Surface, elevation: Elevation, knowledge: Knowledge, coating: SurfaceCoating) -> CoatPiece:
    area = net_area_m2(surface, elevation, knowledge)
    return CoatPiece(surface.id, elevation.id, surface.kind, area, coating.coats, bool(coating.held_by), coating.hours)


def _propose(scope: Scope, job: Job, ahead: Outlook) -> tuple[Plan, list[Surface], dict[str, tuple[str, int]]]:
    """Return the plan, the surfaces in the order of the outlook, and which coat of which surface each task is."""
    rules = rules_of(job)
    pairs = _pieces(job, scope)
    pieces = [piece for _, piece in pairs]
    working = working_hours(ahead, rules)
    trim_first = schools_of(scope, job).get("trim-order") == "trim-first"
    tasks = tasks_for(ahead.windows, pieces, pace_of(rules, scope.knowledge), working, trim_first, of_coat(scope, job, ahead, 2).windows)
    # The quarter-hour under way is half gone: begin with the next.
    begins = ahead.step_at(scope.clock.now()) + 1
    proposal = careful(tasks, pieces, risky_starts(scope, job, ahead), begins)
    coats = {coat_id(piece.id, number): (piece.id, number) for piece in pieces for number in range(1, piece.coats + 1)}
    return proposal, [surface for surface, _ in pairs], coats


def careful(tasks: Sequence[Task], pieces: Sequence[CoatPiece], risky: NDArray[np.bool_], begins: int) -> Plan:
    """Return the plan that leaves risky starts alone; where that leaves coats out which another places, the other one."""
    bold = plan(tasks, begins)
    rows = {piece.id: row for row, piece in enumerate(pieces)}
    spared = [replace(task, allowed=task.allowed & ~risky[rows[task.id.rsplit(":", 1)[0]]]) for task in tasks]
    careful = plan(spared, begins)
    return careful if len(careful.visits) >= len(bold.visits) else bold


def of_coat(scope: Scope, job: Job, ahead: Outlook, coat: int) -> Outlook:
    """Return the outlook that a coat is judged by: later ones go on the new colour."""
    return ahead if coat == 1 else outlooks.of_turn(scope, job, ahead, "later")


def last_stroke(ahead: Outlook, row: int, start: int) -> int:
    """Return where the run of open or tight quarter-hours that holds `start` ends (exclusive)."""
    shut = np.flatnonzero(ahead.windows.states[row, start:] == SHUT)
    return start + int(shut[0]) if len(shut) else ahead.windows.states.shape[1]


def make(scope: Scope, job: Job, ahead: Outlook) -> SavedSchedule:
    """Make the job's schedule anew from the outlook, and keep it in place of the old one."""
    rules = rules_of(job)
    proposal, surfaces, coats = _propose(scope, job, ahead)
    by_id = {s.id: (row, s) for row, s in enumerate(surfaces)}
    starts = {v.task: ahead.local(v.start) for v in proposal.visits}
    held = {surface_id: coating.held_by for surface_id, coating in coatings_of(scope, job).items()}
    visits = []
    for placed in proposal.visits:
        surface_id, coat = coats[placed.task]
        row, surface = by_id[surface_id]
        visits.append(
            Visit(
                surface_id=surface_id,
                surface_name=surface.name,
                elevation_id=surface.elevation_id,
                coat=coat,
                starts_at=ahead.local(placed.start),
                ends_at=ahead.local(placed.end),
                last_stroke_at=ahead.local(last_stroke(of_coat(scope, job, ahead, coat), row, placed.start)),
                next_coat_from=starts.get(coat_id(surface_id, coat + 1)),
                set_by=placed.set_by,
                held_by=held[surface_id],
            )
        )
    # What is held up is said once, with what holds it.
    held_up = dict.fromkeys(coats[missing.task][0] for missing in proposal.unplaced if missing.why == "held")
    unplaced = [{"surface_name": by_id[i][1].name, "coat": "", "why": held_words(held[i])} for i in held_up]
    for missing in proposal.unplaced:
        surface_id, coat = coats[missing.task]
        if missing.why == "held":
            continue
        unplaced.append({"surface_name": by_id[surface_id][1].name, "coat": str(coat), "why": WHY_UNPLACED[missing.why]})
    now = scope.clock.now()
    columns = {
        "made_at": now,
        "forecast_issued_at": ahead.issued_at,
        "painters": rules.painters,
        "visits": [v.written() for v in visits],
        "unplaced": unplaced,
    }
    with changing(scope, "make the schedule", job.id) as change:
        existing = queries.schedule_of(change.session, job.id)
        if existing is None:
            change.add(Schedule(id=new_id(), version=1, job_id=job.id, **columns))
        else:
            change.update(existing, columns)
    return SavedSchedule(now, ahead.issued_at, rules.painters, visits, unplaced)


def saved(scope: Scope, job: Job, ahead: Outlook | None = None) -> SavedSchedule | None:
    """Return the job's schedule, each visit with what holds it up; with an outlook, whether it still holds."""
    with scope.reading() as session:
        row = queries.schedule_of(session, job.id)
    if row is None:
        return None
    coatings = coatings_of(scope, job)
    held = {surface: coating.held_by for surface, coating in coatings.items()}
    visits = [replace(Visit.read(v), held_by=held.get(v["surface_id"], ())) for v in row.visits]
    if ahead is not None:
        now = scope.clock.now()
        visits = [_held_against(v, of_coat(scope, job, ahead, v.coat), now) if v.ends_at > now else v for v in visits]
    return SavedSchedule(row.made_at, row.forecast_issued_at, row.painters, visits, row.unplaced)


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
    """Return the day of the first visit of the job's schedule; None where there is none."""
    schedule = saved(scope, job)
    starts = [v.starts_at for v in schedule.visits] if schedule else []
    return min(starts).date() if starts else None


def calendar_entries(scope: Scope, job: Job) -> list[Visit]:
    """Return the visits to put into a calendar file.

    Raises
    ------
    PlanError
        If no schedule was made yet.
    """
    schedule = saved(scope, job)
    if schedule is None:
        raise PlanError("Make the schedule first; then it can be downloaded.", "schedule")
    return [replace(v, starts_at=v.starts_at.astimezone(UTC), ends_at=v.ends_at.astimezone(UTC)) for v in schedule.visits]
