"""The schedule of a job: its part of the plan of all work, kept, and held against newer forecasts."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import asdict, replace
from datetime import UTC, date, datetime
from typing import Any

import numpy as np

from amber_gable.core.planning.crew.money import Cost
from amber_gable.core.planning.crew.values import Stretch
from amber_gable.core.windows import SHUT
from amber_gable.core.windows.words import short_name
from amber_gable.errors import FieldErrors, NotFoundError, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import changing
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.kept import Finish, SavedSchedule, SavedStint, Visit
from amber_gable.services.planning.making.crewplan import JobPlan, PlacedStint, crew_names, frame_of, plan_jobs, running_outlooks
from amber_gable.services.planning.making.laying import Frame
from amber_gable.services.planning.making.moves import Was, moves, opened_and_shut
from amber_gable.services.planning.making.searching import forget_way, found_way, settle, way_of
from amber_gable.services.systems.coatings import coatings_of, held_words
from amber_gable.store import queries
from amber_gable.store.models import Job, Schedule
from amber_gable.store.types import new_id

_BY_HAND = "put there by hand"


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
    if anew:
        forget_way(scope)
    plans = plan_jobs(scope, there, () if anew else _stretches(before, frame), way_of(scope))
    kept = {one.id: _kept(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    _write(scope, job, "make the schedule", kept)
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
    kept = {one.id: _kept(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    _write(scope, there[0][0], "take the better plan", kept)
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
    kept = {one.id: _kept(scope, one, of_job, plans[one.id], frame, before[one.id]) for one, of_job in there}
    _write(scope, job, "put work at another time" if starts_at else "let work go where it may", kept)


def _write(scope: Scope, job: Job, label: str, kept: Mapping[str, "SavedSchedule"]) -> None:
    with changing(scope, label, job.id) as change:
        for job_id, schedule in kept.items():
            columns = {
                "made_at": schedule.made_at, "forecast_issued_at": schedule.forecast_issued_at, "painters": schedule.painters,
                "visits": [v.written() for v in schedule.visits], "unplaced": schedule.unplaced,
                "stints": [s.written() for s in schedule.stints],
                "finish": schedule.finish.written() | {
                    "moves": list(schedule.moves), "gone": list(schedule.gone), "cost": asdict(schedule.cost) if schedule.cost else None,
                    "not_before": schedule.not_before.isoformat() if schedule.not_before else None, "colours": schedule.colours,
                    "news": list(schedule.news),
                },
            }  # fmt: skip
            existing = queries.schedule_of(change.session, job_id)
            if existing is None:
                change.add(Schedule(id=new_id(), version=1, job_id=job_id, **columns))
            else:
                change.update(existing, columns)


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


def _kept(scope: Scope, job: Job, ahead: Outlook, plan: JobPlan, frame: Frame, before: "SavedSchedule | None") -> SavedSchedule:
    plan = _as_begun(plan, before, frame)
    stints = [SavedStint.of_plan(one) for one in plan.stints]
    finish = Finish() if plan.unplaced else Finish.of(plan.finishes, plan.courses)
    old = [Was(s.id, s.starts_at, s.ends_at, s.painters, s.tasks, s.coat) for s in before.stints if not s.is_expected] if before else []
    by_id = {s.id: s for s in before.stints} if before else {}
    starts, colours = {s.id: s.starts_at for s in stints}, colours_of(job)
    recoloured = [i for i, mark in colours.items() if before is not None and before.colours.get(i, mark) != mark]
    unplaced = _unplaced(scope, job, plan)
    moved = [
        {"id": m.id, "from_at": m.from_at.isoformat(), "to_at": m.to_at.isoformat() if m.to_at else None, "why": m.why,
         "places": list(by_id[m.id].places), "coat": by_id[m.id].coat, "stage": by_id[m.id].stage, "side": by_id[m.id].side}
        for m in moves(scope, job, ahead, plan.laid, frame, old, starts, recoloured)
    ]  # fmt: skip
    # What was told to calendars and is in no plan any more: called off there, for as long as it would lie ahead.
    now = scope.clock.now()
    gone = [s.written() for s in before.stints if s.id not in starts and s.ends_at > now] if before else []
    gone += [g for g in before.gone if g["id"] not in starts and datetime.fromisoformat(g["ends_at"]) > now] if before else []
    return SavedSchedule(
        now, ahead.issued_at, len(crew_names(scope)), _visits(scope, job, ahead, plan), unplaced, stints, finish,
        tuple(moved), tuple(gone), cost=plan.cost, not_before=plan.not_before, colours=colours,
        news=tuple(opened_and_shut(before.unplaced, unplaced)) if before else (),
    )  # fmt: skip


def _as_begun(plan: JobPlan, before: "SavedSchedule | None", frame: Frame) -> JobPlan:
    """Return a plan in which what is being worked at began when it did."""
    under_way = {s.id: s for s in before.stints if s.starts_at.timestamp() < frame.start_s < s.ends_at.timestamp()} if before else {}

    def begun(one: PlacedStint) -> PlacedStint:
        was = under_way.get(one.id)
        goes_on = was is not None and one.starts_at.timestamp() == frame.start_s and one.painters == was.painters
        return replace(one, starts_at=was.starts_at) if was is not None and goes_on else one

    return replace(plan, stints=tuple(begun(one) for one in plan.stints))


def colours_of(job: Job) -> dict[str, str]:
    """Return a mark of the colour of each surface, by which a change of it is seen."""
    return {s.id: f"{s.lrv_pct:.1f} {s.hex}" for s in outlooks.painted_surfaces(job)}


def _held_by(stint_id: str, plan: JobPlan) -> list[str]:
    """Return what holds a stint up: itself, or what it waits for."""
    stint = plan.laid.stints.get(stint_id)
    if stint is None:
        return []
    return list(stint.held_by) or list(dict.fromkeys(why for after in stint.after for why in _held_by(after.stint, plan)))


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
    left, now = Counter(piece.stint for piece in plan.laid.pieces.values()), scope.clock.now()
    for (place, coat), parts in spans.items():
        if len(parts) < left[parts[0].stint.id]:
            continue
        row, judged = ahead.row(place), of_coat(scope, job, ahead, coat)
        first, last = min(parts, key=lambda p: p.starts_at), max(parts, key=lambda p: p.ends_at)
        assert row is not None, "what is painted has its row"
        if (judged.windows.states[row, ahead.step_at(max(first.starts_at, now)) : ahead.step_at(last.ends_at)] == SHUT).any():
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
        out.append({
            "surface_name": where, "coat": str(stint.coat or ""), "does": does, "why": why, "hours": round(stint.hours, 2),
            "held_by": _held_by(stint_id, plan),
        })  # fmt: skip
    held = [
        {
            "surface_name": names[place],
            "coat": "",
            "does": "",
            "why": held_words(coatings[place].held_by),
            "hours": round(hours, 2),
            "held_by": list(coatings[place].held_by),
        }
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
    more = row.finish
    cost, not_before = more.get("cost"), more.get("not_before")
    return SavedSchedule(
        row.made_at, row.forecast_issued_at, row.painters, visits, row.unplaced, stints, Finish.read(more),
        moves=tuple(more.get("moves", ())), gone=tuple(more.get("gone", ())), version=row.version, cost=Cost(**cost) if cost else None,
        not_before=datetime.fromisoformat(not_before) if not_before else None, colours=more.get("colours", {}),
        news=tuple(more.get("news", ())),
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
