"""Dispatch: lays out a crew by name over its jobs, hour by hour, as a foreman does who looks at the weather and at what is dry.

Who is on a job stays there while it has work; what the weather seldom lets through goes first when it may; the way to another house
takes its time. A coat once begun is finished.
Not here: permitted hours and waits (services), proofs of how good a plan can be (solver).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed

_TRAVEL_STEPS = int(assumed("travel_quarters"))
# So long a crew waits on a job for its next work before it goes elsewhere.
_PATIENCE_STEPS = int(assumed("patience_quarters"))
_EACH_H = assumed("stint_each_h")
_WORTH_THE_WAY_H = assumed("worth_the_way_h")
STEP_H = 0.25


@dataclass(frozen=True)
class AfterTask:
    """A wait for another task.

    Parameters
    ----------
    task : str
    ready_at : ndarray of int, shape (Q + 1,), or None
        By the step the other task ended at, the step at which the wait is over; more than Q where that lies beyond the plan.
        None where its end is enough.
    why : str
    """

    task: str
    ready_at: NDArray[np.int64] | None
    why: str


@dataclass(frozen=True)
class CrewTask:
    """A piece of work for one or more painters.

    Parameters
    ----------
    id, job, side : str
    hours : float
        Painter-hours.
    crew : tuple of int
        Fewest and most painters.
    gear : tuple of str
        What there is one of.
    may : ndarray of bool, shape (Q,)
        Quarter-hours in which it may be worked at.
    may_begin : ndarray of bool, shape (Q,), optional
        Where it may begin, besides.
    after : sequence of AfterTask
    release : int
    is_wet : bool
        A coat: the weather lets it through seldom.
    tail_h : float
        Work that hangs on it, itself included.
    """

    id: str
    job: str
    side: str
    hours: float
    crew: tuple[int, int]
    gear: tuple[str, ...]
    may: NDArray[np.bool_]
    may_begin: NDArray[np.bool_] | None = None
    after: Sequence[AfterTask] = ()
    release: int = 0
    is_wet: bool = False
    tail_h: float = 0.0


@dataclass(frozen=True)
class Stretch:
    """A task placed: from a step to another (exclusive), by whom, and what its start waited for."""

    task: str
    start: int
    end: int
    painters: tuple[str, ...]
    set_by: str


@dataclass
class _Person:
    name: str
    free_from: int = 0
    job: str = ""
    side: str = ""


@dataclass
class _Site:
    """The state of a plan while it is made."""

    tasks: dict[str, CrewTask]
    people: list[_Person]
    count: int
    ends: dict[str, int] = field(default_factory=dict)
    out: list[Stretch] = field(default_factory=list)
    gear_free: dict[str, int] = field(default_factory=dict)
    last_why: dict[str, str] = field(default_factory=dict)


def dispatched(
    tasks: Sequence[CrewTask], names: Sequence[str], jobs: Sequence[str], count: int, works: NDArray[np.bool_]
) -> dict[str, Stretch]:  # fmt: skip
    """Return the plan of a crew.

    Parameters
    ----------
    tasks : sequence of CrewTask
        Ids unique; waits name ids in the sequence, without circles.
    names : sequence of str
        Of the painters.
    jobs : sequence of str
        The job to be served first stands first.
    count : int
        Quarter-hours of the plan.
    works : ndarray of bool, shape (count,)
        Quarter-hours in which somebody may be at work.

    Returns
    -------
    dict of str to Stretch
        By task; what has no place is not in it. Same input, same plan.
    """
    site = _Site({t.id: t for t in tasks}, [_Person(name) for name in names], count)
    soonest = {task.id: task.release for task in tasks if not task.after}
    left: dict[str, list[CrewTask]] = {job: [t for t in tasks if t.job == job] for job in jobs}
    followers: dict[str, list[str]] = {}
    for task in tasks:
        for after in task.after:
            followers.setdefault(after.task, []).append(task.id)
    lengths: dict[str, NDArray[np.int64]] = {task.id: np.cumsum(~task.may, dtype=np.int64) for task in tasks}
    for step in np.flatnonzero(works):
        now = int(step)
        if now and not works[now - 1]:
            _new_morning(site)
        if all(person.free_from > now for person in site.people):
            continue
        # What begins now ends later: nothing else becomes ready within the step.
        ready = {job: [t for t in left[job] if _is_ready(site, t, soonest, now)] for job in jobs}
        while any(ready.values()) and _one_start(site, left, ready, soonest, lengths, followers, jobs, now):
            pass
        if not any(left.values()):
            break
    return {stretch.task: stretch for stretch in site.out}


def _new_morning(site: _Site) -> None:
    """Everybody comes from home: the way to any job is the same."""
    for person in site.people:
        person.job = person.side = ""


def _one_start(
    site: _Site, left: dict[str, list[CrewTask]], ready: dict[str, list[CrewTask]], soonest: dict[str, int],
    lengths: Mapping[str, NDArray[np.int64]], followers: Mapping[str, Sequence[str]], jobs: Sequence[str], now: int,
) -> bool:  # fmt: skip
    """Begin the best task that free painters may begin now; return whether there was one."""
    free = [p for p in site.people if p.free_from <= now]
    if not free:
        return False
    for person in free:
        target = _job_for(person, left, ready, soonest, jobs, now)
        if target is None:
            continue
        if person.job and person.job != target:
            person.job, person.side, person.free_from = target, "", now + _TRAVEL_STEPS
            return True
        here = [p for p in free if p.job == target or (not p.job and _job_for(p, left, ready, soonest, jobs, now) == target)]
        for task in sorted(ready[target], key=lambda t: _rank(t, here)):
            if any(site.gear_free.get(g, 0) > now for g in task.gear):
                continue
            crew = _crew_for(task, len(here))
            if crew and (end := _end_of(task, crew, now, site.count, lengths)) is not None:
                _begin(site, task, sorted(here, key=lambda p: p.side != task.side)[:crew], now, end, soonest, followers)
                left[target].remove(task)
                ready[target].remove(task)
                return True
    return False


def _is_ready(site: _Site, task: CrewTask, soonest: Mapping[str, int], now: int) -> bool:
    at = soonest.get(task.id)
    begins = task.may_begin is None or (now < len(task.may_begin) and bool(task.may_begin[now]))
    return at is not None and at <= now and bool(task.may[now]) and begins and all(site.gear_free.get(g, 0) <= now for g in task.gear)


def _job_for(
    person: _Person, left: Mapping[str, Sequence[CrewTask]], ready: Mapping[str, Sequence[CrewTask]], soonest: Mapping[str, int],
    jobs: Sequence[str], now: int,
) -> str | None:  # fmt: skip
    """Return the job that a painter works on now.

    Coats first, since the weather seldom lets them through: here, or at another house where they are worth the way. Then the job that
    the painter is on while it has work soon; else the first that has.
    """
    wet = {job: sum(t.hours for t in ready[job] if t.is_wet) for job in jobs}
    if person.job and wet[person.job]:
        return person.job
    worth = next((job for job in jobs if wet[job] >= _WORTH_THE_WAY_H), None)
    if worth is not None:
        return worth
    if person.job and (ready[person.job] or _opens_soon(left[person.job], soonest, now)):
        return person.job if ready[person.job] else None
    return next((job for job in jobs if ready[job]), None)


def _opens_soon(tasks: Sequence[CrewTask], soonest: Mapping[str, int], now: int) -> bool:
    for task in tasks:
        at = soonest.get(task.id)
        if at is None or at > now + _PATIENCE_STEPS:
            continue
        span = slice(max(now, at), now + _PATIENCE_STEPS)
        begins = task.may[span] if task.may_begin is None else task.may[span] & task.may_begin[span]
        if begins.any():
            return True
    return False


def _rank(task: CrewTask, here: Sequence[_Person]) -> tuple[bool, bool, float, str]:
    on_side = any(p.side == task.side for p in here)
    return (not task.is_wet, not on_side, -task.tail_h, task.id)


def _crew_for(task: CrewTask, there: int) -> int:
    """Return how many of those who are there begin it; 0 where they are too few."""
    low, high = task.crew
    # Hours in which a coat may go on are few: more hands.
    wanted = max(low, min(high, int(task.hours // (_EACH_H / 2 if task.is_wet else _EACH_H)) or 1))
    return 0 if there < low else min(there, wanted)


def _end_of(task: CrewTask, crew: int, now: int, count: int, lengths: Mapping[str, NDArray[np.int64]]) -> int | None:
    """Return the step at which a task that begins now ends; None where its hours are not permitted through."""
    length = max(1, int(np.ceil(task.hours / crew / STEP_H - 1e-6)))
    shut = lengths[task.id]
    if now + length > min(count, len(shut)):
        return None
    return now + length if shut[now + length - 1] == (shut[now - 1] if now else 0) else None


def _begin(
    site: _Site, task: CrewTask, crew: Sequence[_Person], now: int, end: int, soonest: dict[str, int],
    followers: Mapping[str, Sequence[str]],
) -> None:  # fmt: skip
    was_free = max(person.free_from for person in crew)
    for person in crew:
        person.free_from, person.job, person.side = end, task.job, task.side
    for name in task.gear:
        site.gear_free[name] = end
    why = site.last_why.get(task.id, "")
    waited = soonest[task.id] if task.after or task.release else -1
    set_by = why if waited == now and why else "the crew is free" if was_free == now else "the weather and the hours of work"
    site.ends[task.id] = end
    names = tuple(person.name for person in site.people if person in crew)
    site.out.append(Stretch(task.id, now, end, names, set_by))
    for i in followers.get(task.id, ()):
        _open(site, site.tasks[i], soonest)


def _open(site: _Site, task: CrewTask, soonest: dict[str, int]) -> None:
    """Note from when a task may begin, once all that it waits for is placed."""
    if any(after.task not in site.ends for after in task.after):
        return
    at, why = task.release, ""
    for after in task.after:
        end = site.ends[after.task]
        over = end if after.ready_at is None else max(end, int(after.ready_at[min(end, len(after.ready_at) - 1)]))
        if over > at:
            at, why = over, after.why
    soonest[task.id], site.last_why[task.id] = at, why


def tails_h(hours: Mapping[str, float], after: Mapping[str, Sequence[str]]) -> dict[str, float]:
    """Return, by task, the hours of the longest chain that begins with it.

    Parameters
    ----------
    hours : mapping of str to float
        In an order in which each task stands behind those that it waits for.
    after : mapping of str to sequence of str
        What each waits for.
    """
    tail = dict(hours)
    for task in reversed(list(hours)):
        for before in after.get(task, ()):
            if before in tail:
                tail[before] = max(tail[before], hours[before] + tail[task])
    return tail
