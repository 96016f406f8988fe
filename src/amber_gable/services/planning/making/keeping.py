"""A job's part of the plan as it is kept: its pieces, its coats, what has no place, what moved and why.

Not here: making and writing the plan (schedules), or laying work out (laying).
"""

from collections import Counter
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from amber_gable.core.windows import SHUT
from amber_gable.services.app.scope import Scope
from amber_gable.services.outlook import outlook as outlooks
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.kept import Finish, SavedSchedule, SavedStint, Visit
from amber_gable.services.planning.making.crewplan import JobPlan, PlacedStint, crew_names
from amber_gable.services.planning.making.laying import Frame
from amber_gable.services.planning.making.moves import Was, moves, opened_and_shut
from amber_gable.services.systems.coatings import coatings_of, held_words
from amber_gable.store.models import Job

# So long after its time work is asked for that a plan took for not done.
_ASKED_FOR = timedelta(hours=36)


def of_coat(scope: Scope, job: Job, ahead: Outlook, coat: int) -> Outlook:
    """Return the outlook that a coat is judged by: later ones go on the new colour."""
    return ahead if coat == 1 else outlooks.of_turn(scope, job, ahead, "later")


def last_stroke(ahead: Outlook, row: int, start: int) -> int:
    """Return where the run of open or tight quarter-hours that holds `start` ends (exclusive)."""
    shut = np.flatnonzero(ahead.windows.states[row, start:] == SHUT)
    return start + int(shut[0]) if len(shut) else ahead.windows.states.shape[1]


def kept_of(scope: Scope, job: Job, ahead: Outlook, plan: JobPlan, frame: Frame, before: SavedSchedule | None) -> SavedSchedule:
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
         "painters": list(m.painters),
         "places": list(by_id[m.id].places), "coat": by_id[m.id].coat, "stage": by_id[m.id].stage, "side": by_id[m.id].side}
        for m in moves(scope, job, ahead, plan.laid, frame, old, starts, recoloured, {s.id: s.painters for s in stints})
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


def _as_begun(plan: JobPlan, before: SavedSchedule | None, frame: Frame) -> JobPlan:
    """Return a plan in which what is being worked at began when it did."""
    under_way = {s.id: s for s in before.stints if s.starts_at.timestamp() < frame.start_s < s.ends_at.timestamp()} if before else {}

    def begun(one: PlacedStint) -> PlacedStint:
        was = under_way.get(one.id)
        goes_on = was is not None and one.starts_at.timestamp() == frame.start_s and one.painters == was.painters
        return replace(one, starts_at=was.starts_at) if was is not None and goes_on else one

    return replace(plan, stints=tuple(begun(one) for one in plan.stints))


def asked_for(before: SavedSchedule | None, now: datetime) -> tuple[SavedStint, ...]:
    """Return the work of a plan, and what it still asked for, whose time passed lately: whether it was done only the crew can say."""
    if before is None:
        return ()
    passed = {s.id: s for s in (*before.asked, *before.stints) if now - _ASKED_FOR < s.ends_at <= now}
    return tuple(passed.values())


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
