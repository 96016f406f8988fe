"""Evenings: how each part of the house stands at the end of each day, as it was recorded and as it is planned."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.planning.state import State
from amber_gable.core.planning.stints import STAGE_OF
from amber_gable.core.planning.work import WorkTask
from amber_gable.services.log.standing import Standing
from amber_gable.services.outlook.outlook import Outlook
from amber_gable.services.planning.kept import SavedSchedule, SavedStint

# What one sees of a part, in the order in which it comes about.
LOOKS = ("as found", "washed", "prepared", "primed", "first coat", "finished", "held up")
_DRAWN: Mapping[str, str] = {"wash": "washed", "prepare": "prepared", "prime": "primed", "coat": "first coat", "seal": "finished"}
MOST_DAYS = 14
_PAST_DAYS = 4


@dataclass(frozen=True)
class Evening:
    """A working day and the house at its end.

    Parameters
    ----------
    day : date
    kind : {"recorded", "today", "planned", "expected"}
    looks : dict of str to str
        By surface: one of `LOOKS`.
    work : tuple of SavedStint
        Planned for the day.
    done : tuple of str
        Names of what the record says was done on it.
    rain_pct, gust_m_s : float or None
        The worst of its working hours, where the forecast or the observation reaches.
    dew_until : datetime or None
        When the last painted surface is dry in the morning.
    """

    day: date
    kind: str
    looks: dict[str, str]
    work: tuple[SavedStint, ...] = ()
    done: tuple[str, ...] = ()
    rain_pct: float | None = None
    gust_m_s: float | None = None
    dew_until: datetime | None = None


def ends_of(standing: Standing, schedule: SavedSchedule | None, now_s: float) -> dict[str, float]:
    """Return when each step is over, by the record, else by the plan; steps without an end are not in it.

    Work whose time has passed and of which nobody spoke has no end.
    """
    out: dict[str, float] = {}
    unsaid = {task for stint in (schedule.stints if schedule else ()) if stint.ends_at.timestamp() <= now_s for task in stint.tasks}
    for stint in schedule.stints if schedule else ():
        for task_id in set(stint.tasks) - unsaid:
            out[task_id] = max(out.get(task_id, 0.0), stint.ends_at.timestamp())
    for task in standing.tasks:
        state = standing.states[task.id]
        if state.state in (State.DONE, State.DRYING) and state.since_s is not None:
            out[task.id] = state.since_s
        elif state.state is State.LEFT_OUT:
            out[task.id] = 0.0
    return out


def look_of(tasks: Sequence[WorkTask], ends: Mapping[str, float], standing: Standing, at_s: float, now_s: float) -> str:
    """Return how a part stands at a moment.

    Parameters
    ----------
    tasks : sequence of WorkTask
        Of the part, in their order.
    """
    look = LOOKS[0]
    stages: dict[str, list[WorkTask]] = {}
    for task in tasks:
        if task.hours or task.is_coat:
            stages.setdefault(f"{STAGE_OF[task.phase]} {task.step}" if task.is_coat else STAGE_OF[task.phase], []).append(task)
    coats = [key for key in stages if key.startswith("coat")]
    for key, steps in stages.items():
        stage = key.split(" ", 1)[0]
        if not all(ends.get(t.id, np.inf) <= at_s for t in steps):
            if stage in _DRAWN and at_s >= now_s and any(standing.states[t.id].state is State.HELD for t in steps):
                return "held up"
            if stage in ("prime", "coat"):
                # What is to come stands on this coat.
                break
            continue
        if stage in _DRAWN:
            look = "finished" if coats and key == coats[-1] else _DRAWN[stage]
    return look


def evenings(
    standing: Standing, schedule: SavedSchedule | None, ahead: Outlook, surfaces: Sequence[str], now: datetime
) -> list[Evening]:  # fmt: skip
    """Return the working days of a job with the house at the end of each: some that are past, today, and those to come.

    Parameters
    ----------
    surfaces : sequence of str
        Ids of the painted surfaces.
    now : datetime
        In the job's zone.
    """
    ends, zone = ends_of(standing, schedule, now.timestamp()), now.tzinfo
    by_place: dict[str, list[WorkTask]] = {}
    for task in standing.tasks:
        by_place.setdefault(task.id.rsplit(":", 1)[0], []).append(task)
    done = _done_by_day(standing, now)
    work: dict[date, list[SavedStint]] = {}
    for stint in schedule.stints if schedule else ():
        work.setdefault(stint.starts_at.astimezone(zone).date(), []).append(stint)
    today = now.date()
    past = sorted(day for day in done if day < today)[-_PAST_DAYS:]
    coming = sorted(day for day in work if day > today)
    out = []
    for day in [*past, today, *coming][:MOST_DAYS]:
        at_s = datetime.combine(day + timedelta(days=1), time(0), zone).timestamp() - 1
        looks = {i: look_of(by_place.get(i, ()), ends, standing, at_s, now.timestamp()) for i in surfaces}
        stints = tuple(s for s in work.get(day, ()) if day >= today)
        kind = "recorded" if day < today else "today" if day == today else "expected" if all(s.is_expected for s in stints) else "planned"
        out.append(Evening(day, kind, looks, stints, tuple(done.get(day, ())), *_weather(ahead, day, kind)))
    return out


def _done_by_day(standing: Standing, now: datetime) -> dict[date, list[str]]:
    """Return what the record says was done on each day: stage and side in words."""
    out: dict[date, list[str]] = {}
    for task in standing.tasks:
        state = standing.states[task.id]
        if state.state in (State.DONE, State.DRYING) and state.since_s is not None and task.hours:
            day = datetime.fromtimestamp(state.since_s, UTC).astimezone(now.tzinfo).date()
            entry = f"{STAGE_OF[task.phase]}|{task.side}"
            if entry not in out.setdefault(day, []):
                out[day].append(entry)
    return out


def _weather(ahead: Outlook, day: date, kind: str) -> tuple[float | None, float | None, datetime | None]:
    """Return the chance of rain, the gusts and the end of the dew of a day's working hours; None where nothing is known."""
    if kind in ("recorded", "expected"):
        return None, None, None
    start = datetime.combine(day, time(6), ahead.zone)
    grid = ahead.windows.climate.grid
    if start.timestamp() + 12 * 3600 > grid.epoch_s[-1]:
        return None, None, None
    first, last = ahead.step_at(start), ahead.step_at(start + timedelta(hours=12))
    climate = ahead.windows.climate
    wet: NDArray[np.bool_] = np.asarray(climate.wet[:, first:last].any(axis=0))
    morning = wet[: 6 * 4]
    dew = None
    if morning[0] and not morning.all():
        dew = ahead.local(first + int(np.argmin(morning)))
    return float(climate.rain_probability_pct[first:last].max()), float(climate.gust_m_s[first:last].max()), dew
