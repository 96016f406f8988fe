"""The board of the schedule: a day or a week of a job by side, painter or machine, as the page shows it."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from datetime import date, datetime, time, timedelta
from itertools import pairwise
from zlib import crc32

import numpy as np
from markupsafe import Markup

from amber_gable.core.planning.crew.machines import Machine
from amber_gable.drawing.hours.dayboard import BoardRow, Mark, board
from amber_gable.services.outlook.outlook import Outlook, painted_surfaces
from amber_gable.services.planning.worknow import StintNow
from amber_gable.store.models import Job
from amber_gable.web.sentences import stint_line

# Work in these states may be put at another time.
MOVABLE = ("to come", "late")
BY = {"side": "by side", "painter": "by painter", "machine": "by machine"}
_WEEK = 7
# What a start is said to be set by where it waits for nothing but people, hours and weather.
_NO_WAITS = ("the crew is free", "the weather and the hours of work", "put there by hand")


def sides_in(job: Job) -> dict[str, str]:
    return {e.id: e.name for e in job.building.elevations}


def key_of(one: StintNow) -> str:
    """Return a short name of a piece of work for its forms: one that is asked for may have a new place in the plan besides."""
    return f"{crc32(one.stint.id.encode()):08x}{'-asked' if one.is_unsaid else ''}"


def days_of(chosen: date, span: str) -> list[date]:
    """Return the days of a board: the one that was chosen, or seven from it on."""
    return [chosen + timedelta(days=n) for n in range(_WEEK if span == "week" else 1)]


def job_board(
    job: Job, work: Sequence[StintNow], ahead: Outlook, days: Sequence[date], by: str, names: Sequence[str], fleet: Mapping[str, Machine],
    now: datetime, at_day: Callable[[date], str], may_at: str,
) -> Markup:  # fmt: skip
    """Return the hours of some days of a job.

    Parameters
    ----------
    by : {"side", "painter", "machine"}
        What each row is.
    names : sequence of str
        The painters.
    at_day : callable
        Address of the board of a day.
    may_at : str
        Address that says when a piece of work may begin.
    """
    place = {day: nth for nth, day in enumerate(days)}
    shown = [one for one in work if one.stint.starts_at.astimezone(now.tzinfo).date() in place]
    sides = sides_in(job)

    def marks(of: Iterable[StintNow], *, says_side: bool = True) -> list[Mark]:
        return [_mark(one, sides, place, now, says_side, at_day) for one in of]

    if by == "machine":
        rows = [
            BoardRow(fleet[key].label, marks(one for one in shown if key in _gear(one)))
            for key in dict.fromkeys(key for one in shown for key in _gear(one) if key in fleet)
        ]
        rows = rows or [BoardRow("No machine", [], "is planned in these days")]
    elif by == "painter":
        rows = [BoardRow(name, marks(one for one in shown if name in one.stint.painters), "at another job, or free") for name in names]
    else:
        ribbons = {side: tuple(_ribbon(job, side, ahead, days, now)) for side in sides}
        worked = [side for side in sides if any(one.stint.side == side for one in work) or ribbons[side]]
        rows = [
            BoardRow(sides[side], marks((one for one in shown if one.stint.side == side), says_side=False), ribbon=ribbons[side])
            for side in worked
        ]
        if any(one.stint.side not in sides for one in shown):
            rows.append(BoardRow("Whole house", marks(one for one in shown if one.stint.side not in sides)))
    here = (place[now.date()], _hour(now, now)) if now.date() in place else None
    said = [f"{day:%a} {day.day}" for day in days] if len(days) > 1 else [""]
    of = f"{days[0]:%A}" if len(days) == 1 else f"{days[0]:%A %d %B} to {days[-1]:%A %d %B}"
    return Markup(board(rows, here, f"Hours of {of}, {BY[by]}", said, may_at))


def _gear(one: StintNow) -> tuple[str, ...]:
    return (*one.stint.equipment, *one.stint.ways_up)


def _mark(
    one: StintNow, sides: Mapping[str, str], place: Mapping[date, int], now: datetime, says_side: bool, at_day: Callable[[date], str],
) -> Mark:  # fmt: skip
    stint, label = one.stint, stint_line(one.stint, sides)
    if not says_side:
        label = label.removeprefix(f"{sides.get(stint.side, '')}: ").removeprefix(f"{sides.get(stint.side, '')} ")
        label = f"{label[:1].upper()}{label[1:]}, {' and '.join(stint.painters)}"
    day = stint.starts_at.astimezone(now.tzinfo).date()
    waits = "" if stint.set_by in _NO_WAITS else stint.set_by
    alone = len(place) == 1
    return Mark(
        _hour(stint.starts_at, now), _hour(stint.ends_at, now), label, stint.stage, one.state, "" if alone else at_day(day),
        f"put-{key_of(one)}" if alone and one.state in MOVABLE else "", place[day], waits, stint.id,
    )  # fmt: skip


def _ribbon(job: Job, side: str, ahead: Outlook, days: Sequence[date], now: datetime) -> Iterator[tuple[int, float, float, int]]:
    """Yield the hours in which the largest wall of a side that is judged may take a coat: day, from, until, state."""
    own = {s.id for e in job.building.elevations if e.id == side for s in e.surfaces}
    rows = [row for s in painted_surfaces(job) if s.id in own and (row := ahead.row(s.id)) is not None]
    if not rows:
        return
    states, grid = ahead.windows.states[rows[0]], ahead.windows.climate.grid
    for nth, day in enumerate(days):
        midnight = datetime.combine(day, time(0), now.tzinfo).timestamp()
        first = max(round((midnight - grid.epoch_s[0]) / grid.step_s), 0)
        last = min(round((midnight + 86_400 - grid.epoch_s[0]) / grid.step_s), len(states))
        if last <= first:
            continue
        of_day = states[first:last]
        edges = [0, *(np.flatnonzero(np.diff(of_day)) + 1), len(of_day)]
        offset = (grid.epoch_s[0] + first * grid.step_s - midnight) / 3600
        for a, b in pairwise(edges):
            yield nth, offset + a * grid.step_s / 3600, offset + b * grid.step_s / 3600, int(of_day[a])


def _hour(moment: datetime, now: datetime) -> float:
    local = moment.astimezone(now.tzinfo)
    return local.hour + local.minute / 60
