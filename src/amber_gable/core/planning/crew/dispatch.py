"""Dispatch: lays out a crew by name over its jobs, hour by hour, as a foreman does who looks at the weather and at what is dry.

Who is on a job stays there while it has work; what the weather seldom lets through goes first when it may; the way to another house
takes its time. A coat once begun is finished.
Not here: permitted hours and waits (services), proofs of how good a plan can be (solver).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.planning.crew.machines import Units
from amber_gable.core.planning.crew.values import CrewTask, Habits, Painter, Stretch

TRAVEL_STEPS = int(assumed("travel_quarters"))
STEP_H = 0.25
# The rest of a day, from its morning; and after how long what is small and ready is worth a way of its own.
_DAY_STEPS, _LONG_STEPS = 40, 96 * int(assumed("long_ready_days"))
MOST_LOOKS = 4


@dataclass
class _Person:
    painter: Painter
    free_from: int = 0
    job: str = ""
    side: str = ""
    # Stretches that are kept from an earlier plan, by their start; and how many of them have begun.
    kept: list[tuple[int, int, str, str]] = field(default_factory=list)
    begun: int = 0
    # Pinned work for which this one is held free, by task.
    held: dict[str, tuple[int, int, str, str]] = field(default_factory=dict)

    @property
    def name(self) -> str:
        return self.painter.name

    def fits(self, start: int, end: int, job: str) -> bool:
        """Return whether this one can be on a job from a step to another, the ways to and from what is kept counted."""
        works = self.painter.works
        if works is not None and not works[start:end].all():
            return False
        for first, last, other, _ in (*self.kept, *self.held.values()):
            way = 0 if other == job else TRAVEL_STEPS
            if first < end + way and start < last + way:
                return False
        return True

    def come_to(self, now: int) -> None:
        """Be where a kept stretch begins."""
        while self.begun < len(self.kept) and self.kept[self.begun][0] <= now:
            _, last, job, side = self.kept[self.begun]
            self.begun += 1
            if now < last:
                self.free_from, self.job, self.side = last, job, side


def _may_do(task: CrewTask, crew: Sequence[_Person], end: int) -> bool:
    """Return whether a crew has the skills that a task takes: each painter some, one of them others."""
    return all(p.painter.has(task.needs, end) for p in crew) and all(any(p.painter.has((s,), end) for p in crew) for s in task.one_with)


class _Site:
    """The state of a plan while it is made."""

    def __init__(
        self, tasks: Sequence[CrewTask], painters: Sequence[Painter], jobs: Sequence[str], count: int, fleet: Mapping[str, Units],
        habits: Habits,
    ) -> None:  # fmt: skip
        self.tasks = {task.id: task for task in tasks}
        # Of two that are alike the earlier of the sequence goes first: a plan does not hang on what ids happen to be.
        self.order = {task.id: n for n, task in enumerate(tasks)}
        self.people = [_Person(painter) for painter in painters]
        self.jobs, self.count, self.habits = jobs, count, habits
        self.left = {job: [t for t in tasks if t.job == job] for job in jobs}
        self.soonest = {task.id: task.release for task in tasks if not task.after}
        # Of each job what waits for nothing that is not placed yet, in the order of the tasks.
        self.open = {job: {t.id: t for t in tasks if t.job == job and not t.after} for job in jobs}
        # One byte a step: read one by one they are found quicker than in an array.
        self.may = {task.id: task.may.tobytes() for task in tasks}
        self.shut: dict[str, NDArray[np.int64]] = {task.id: np.cumsum(~task.may, dtype=np.int64) for task in tasks}
        self.followers: dict[str, list[str]] = {}
        for task in tasks:
            for after in task.after:
                self.followers.setdefault(after.task, []).append(task.id)
        self.why: dict[str, str] = {}
        self.ends: dict[str, int] = {}
        self.out: dict[str, Stretch] = {}
        # What is left of each machine, step by step; one of each where nothing is said of it.
        named = {name for task in tasks for name in task.gear}
        self.gear = {name: fleet[name].copy() if name in fleet else np.ones(count, dtype=np.int16) for name in named}
        # Tasks for which a machine was not to be had at a time at which they might have begun.
        self.missed: dict[str, str] = {}

    def end_of(self, task: CrewTask, crew: int, start: int) -> int | None:
        """Return the step at which a task ends that begins at a step; None where its hours are not permitted through, or gear is taken."""
        end = start + max(1, int(np.ceil(task.hours / crew / STEP_H - 1e-6)))
        shut = self.shut[task.id]
        if end > min(self.count, len(shut)) or shut[end - 1] != (shut[start - 1] if start else 0):
            return None
        missing = next((name for name in task.gear if self.gear[name][start:end].min() < 1), None)
        if missing is not None:
            self.missed.setdefault(task.id, missing)
        return end if missing is None else None

    def is_ready(self, task: CrewTask, now: int) -> bool:
        at, may = self.soonest.get(task.id), self.may[task.id]
        return at is not None and at <= now and now < len(may) and may[now] != 0

    def can_end(self, task: CrewTask, now: int) -> bool:
        """Return whether a task that begins now may be finished by all the painters that may work at it; it draws nobody otherwise."""
        return self.end_of(task, min(task.crew[1], len(self.people)), now) is not None

    def hold_free(self, stretch: Stretch) -> None:
        """Keep the painters of a stretch that was put there by hand free for it."""
        task = self.tasks.get(stretch.task)
        for person in self.people:
            if task is not None and person.name in stretch.painters:
                end = stretch.start + max(1, int(np.ceil(task.hours / len(stretch.painters) / STEP_H - 1e-6)))
                person.held[stretch.task] = (stretch.start, end, task.job, task.side)

    def place(self, task: CrewTask, crew: Sequence[_Person], start: int, end: int, set_by: str) -> None:
        for name in task.gear:
            self.gear[name][start:end] -= 1
        self.ends[task.id] = end
        names = tuple(person.name for person in self.people if person in crew)
        self.out[task.id] = Stretch(task.id, start, end, names, set_by)
        self.left[task.job].remove(task)
        del self.open[task.job][task.id]
        for i in self.followers.get(task.id, ()):
            self._open(self.tasks[i])

    def _open(self, task: CrewTask) -> None:
        """Note from when a task may begin, once all that it waits for is placed."""
        if any(after.task not in self.ends for after in task.after):
            return
        at, why = task.release, ""
        for after in task.after:
            end = self.ends[after.task]
            over = end if after.ready_at is None else max(end, int(after.ready_at[min(end, len(after.ready_at) - 1)]))
            if over > at:
                at, why = over, after.why
        self.soonest[task.id], self.why[task.id] = at, why
        self.open[task.job][task.id] = task


def dispatched(
    tasks: Sequence[CrewTask], painters: Sequence[Painter], jobs: Sequence[str], count: int, works: NDArray[np.bool_],
    keep: Sequence[Stretch] = (), looks: int = MOST_LOOKS, fleet: Mapping[str, Units] | None = None,
    habits: Habits | None = None,
) -> dict[str, Stretch]:  # fmt: skip
    """Return the plan of a crew.

    Parameters
    ----------
    tasks : sequence of CrewTask
        Ids unique; waits name ids in the sequence, without circles.
    painters : sequence of Painter
    jobs : sequence of str
        The job to be served first stands first.
    count : int
        Quarter-hours of the plan.
    works : ndarray of bool, shape (count,)
        Quarter-hours in which somebody may be at work.
    keep : sequence of Stretch
        Of an earlier plan: each stays where it is and with whom, as long as nothing forbids it.
    looks : int
        How often at most it is looked again for what found no place.
    fleet : mapping of str to ndarray of int, shape (count,), optional
        How many of each machine there are at each step; one of each that is not in it.
    habits : Habits, optional
        The usual ones where none are given.

    Returns
    -------
    dict of str to Stretch
        By task; what has no place is not in it. Same input, same plan.
    """
    usual, there = habits or Habits(), fleet or {}
    plan = _once(tasks, painters, jobs, count, works, keep, there, usual)
    # Who was underway to another house when a window passed may be kept there: look again until nothing more finds a place.
    for _ in range(looks):
        if len(plan) == len(tasks):
            break
        more = _once(tasks, painters, jobs, count, works, list(plan.values()), there, usual)
        if len(more) <= len(plan):
            break
        plan = more
    return plan


def _once(
    tasks: Sequence[CrewTask], painters: Sequence[Painter], jobs: Sequence[str], count: int, works: NDArray[np.bool_],
    keep: Sequence[Stretch], fleet: Mapping[str, Units], habits: Habits,
) -> dict[str, Stretch]:  # fmt: skip
    site = _Site(tasks, painters, jobs, count, fleet, habits)
    for stretch in keep:
        if stretch.is_pinned:
            site.hold_free(stretch)
    for stretch in sorted(keep, key=lambda k: (k.start, site.order.get(k.task, -1))):
        _keep(site, stretch)
    for step in np.flatnonzero(works):
        now = int(step)
        if now and not works[now - 1]:
            _new_morning(site)
        for person in site.people:
            person.come_to(now)
        if all(person.free_from > now for person in site.people):
            continue
        # What begins now ends later: nothing else becomes ready within the step.
        ready = {job: [t for t in site.open[job].values() if site.is_ready(t, now) and site.can_end(t, now)] for job in jobs}
        while any(ready.values()) and _one_start(site, ready, now):
            pass
        if not any(site.left.values()):
            break
    return site.out


def _keep(site: _Site, stretch: Stretch) -> None:
    """Place a task where an earlier plan had it, with the same painters, if that still holds."""
    task, wanted = site.tasks.get(stretch.task), set(stretch.painters)
    crew = [person for person in site.people if person.name in wanted]
    for person in crew:
        # Until now held free for this one, where it is pinned.
        person.held.pop(stretch.task, None)
    if task is None or not crew or len(crew) < len(wanted) or not site.is_ready(task, stretch.start):
        return
    end = site.end_of(task, len(crew), stretch.start)
    if end is None or not all(p.fits(stretch.start, end, task.job) for p in crew) or not _may_do(task, crew, end):
        return
    for person in crew:
        person.kept.append((stretch.start, end, task.job, task.side))
    site.place(task, crew, stretch.start, end, stretch.set_by)
    site.out[task.id] = replace(site.out[task.id], is_pinned=stretch.is_pinned)


def _new_morning(site: _Site) -> None:
    """Everybody comes from home: the way to any job is the same."""
    for person in site.people:
        person.job = person.side = ""


def _one_start(site: _Site, ready: dict[str, list[CrewTask]], now: int) -> bool:
    """Begin the best task that free painters may begin now; return whether there was one."""
    free = [p for p in site.people if p.free_from <= now and p.fits(now, now + 1, p.job)]
    for person in free:
        target = _job_for(site, person, ready, now)
        if target is None:
            continue
        if person.job and person.job != target:
            person.job, person.side, person.free_from = target, "", now + TRAVEL_STEPS
            return True
        here = [p for p in free if p.job == target or (not p.job and _job_for(site, p, ready, now) == target)]
        for task in sorted(ready[target], key=lambda t: (*_rank(t, here), site.order[t.id])):
            begun = _crew_and_end(site, task, here, now)
            if begun is not None:
                _begin(site, task, *begun, now)
                ready[target].remove(task)
                return True
    return False


def _job_for(site: _Site, person: _Person, ready: Mapping[str, Sequence[CrewTask]], now: int) -> str | None:
    """Return the job that a painter works on now.

    Coats first, since the weather seldom lets them through: here, or at another house where they are worth the way. Then the job that
    the painter is on while it has work soon; else the first that has.
    """
    wet = {job: sum(t.hours for t in ready[job] if t.is_wet) for job in site.jobs}
    if person.job and wet[person.job]:
        return person.job
    worth = next((job for job in site.jobs if wet[job] >= site.habits.worth_the_way_h), None)
    if worth is not None:
        return worth
    if person.job and (ready[person.job] or _opens_soon(site, person.job, now)):
        return person.job if ready[person.job] else None
    return next((job for job in site.jobs if ready[job] and _worth_a_day(site, job, ready[job], now)), None)


def _worth_a_day(site: _Site, job: str, ready: Sequence[CrewTask], now: int) -> bool:
    """Return whether one more painter finds enough work at a house today; what has long lain ready is worth it in the end."""
    there = sum(1 for person in site.people if person.job == job)
    lain = now - min(site.soonest[task.id] for task in ready)
    wanted = site.habits.worth_a_day_h * max(0.0, 1 - lain / _LONG_STEPS) * (there + 1)
    found = sum(task.hours for task in ready)
    if found >= wanted:
        return True
    for task in site.open[job].values():
        at = max(site.soonest[task.id], now)
        if task not in ready and at < now + _DAY_STEPS:
            found += min(task.hours, STEP_H * int(np.count_nonzero(task.may[at : now + _DAY_STEPS])))
    return found >= wanted


def _opens_soon(site: _Site, job: str, now: int) -> bool:
    for task in site.open[job].values():
        at = site.soonest[task.id]
        if at > now + site.habits.patience_steps:
            continue
        if task.may[max(now, at) : now + site.habits.patience_steps].any():
            return True
    return False


def _rank(task: CrewTask, here: Sequence[_Person]) -> tuple[bool, bool, float]:
    on_side = any(p.side == task.side for p in here)
    return (not task.is_wet, not on_side, -task.tail_h)


def _crew_and_end(site: _Site, task: CrewTask, here: Sequence[_Person], now: int) -> tuple[list[_Person], int] | None:
    """Return who of those who are there begins a task, and when it ends; None where it cannot begin."""
    low, high = task.crew
    able = sorted(
        (p for p in here if p.painter.has(task.needs, now)), key=lambda p: (not p.painter.has(task.one_with, now), p.side != task.side)
    )
    # Hours in which a coat may go on are few: more hands.
    wanted = max(low, min(high, int(task.hours // (site.habits.each_h / 2 if task.is_wet else site.habits.each_h)) or 1))
    for size in range(min(wanted, len(able)), low - 1, -1):
        end = site.end_of(task, size, now)
        if end is None:
            continue
        crew = [p for p in able if p.fits(now, end, task.job)][:size]
        if len(crew) == size and _may_do(task, crew, end):
            return crew, end
    return None


def _begin(site: _Site, task: CrewTask, crew: Sequence[_Person], end: int, now: int) -> None:
    was_free = max(person.free_from for person in crew)
    for person in crew:
        person.free_from, person.job, person.side = end, task.job, task.side
    why = site.why.get(task.id, "")
    set_by = why if site.soonest[task.id] == now and why else "the crew is free" if was_free == now else "the weather and the hours of work"
    if task.id in site.missed and site.soonest[task.id] < now:
        set_by = f"the {site.missed[task.id].split('@')[0].replace('-', ' ')} is to be had"
    site.place(task, crew, now, end, set_by)
