"""Search: better plans than the first one, tried one after another by what they cost, and a bound below which none can end.

A plan follows from the order in which jobs are served, from habits of sending the crew, and from how pressing each piece of work is
taken to be. These are changed a little at random and dispatched anew; what costs less is kept. Same input, same seed, same plan.
Not here: dispatching itself (dispatch), what plans cost (money), where it runs (services).
"""

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.planning.crew.dispatch import MOST_LOOKS, STEP_H, dispatched
from amber_gable.core.planning.crew.machines import Units
from amber_gable.core.planning.crew.money import Cost, Terms, cost_of
from amber_gable.core.planning.crew.values import CrewTask, Habits, Painter, Stretch

# Habits that are tried, in the order of their fields.
_HABITS = ((2, 4, 8, 12, 24, 40), (1.0, 2.0, 4.0, 8.0), (1.0, 1.5, 2.0, 3.0), (0.0, 1.0, 2.0, 4.0))
# Of the pieces of work, how many are taken as more or less pressing in one try at most; and by how much, as a power of e.
_STIRRED_SHARE, _STIR = 0.15, 0.8


@dataclass(frozen=True)
class Given:
    """What a plan is made from.

    Parameters
    ----------
    tasks, painters, jobs, count, works, fleet
        As `dispatched` takes them.
    keep : sequence of Stretch
        What stays where it is, as long as nothing forbids it.
    terms : Terms
    """

    tasks: Sequence[CrewTask]
    painters: Sequence[Painter]
    jobs: Sequence[str]
    count: int
    works: NDArray[np.bool_]
    fleet: Mapping[str, Units]
    keep: Sequence[Stretch]
    terms: Terms


@dataclass(frozen=True)
class Way:
    """How a plan is dispatched: the order of jobs, habits, and by what the urgency of pieces of work is multiplied."""

    jobs: tuple[str, ...]
    habits: Habits
    pressing: Mapping[str, float]


@dataclass(frozen=True)
class Tried:
    """A plan that was tried: how it was dispatched, what it is, what it costs."""

    way: Way
    plan: Mapping[str, Stretch]
    cost: Cost


def usual_way(given: Given) -> Way:
    """Return the way by the usual habits: jobs in their order, nothing more pressing than it is."""
    return Way(tuple(given.jobs), Habits(), {})


def tried(given: Given, way: Way, looks: int = MOST_LOOKS) -> Tried:
    """Return the plan that a way comes to; jobs that it does not name come last."""
    order = [*(job for job in way.jobs if job in given.jobs), *(job for job in given.jobs if job not in way.jobs)]
    tasks = [replace(t, tail_h=t.tail_h * way.pressing[t.id]) if t.id in way.pressing else t for t in given.tasks]
    plan = dispatched(tasks, given.painters, order, given.count, given.works, given.keep, looks, given.fleet, way.habits)
    return Tried(way, plan, cost_of(plan, {t.id: t for t in given.tasks}, given.terms))


def improved(given: Given, tries: int, seed: int = 0, told: Callable[[int, Tried], None] | None = None, first: Way | None = None) -> Tried:
    """Return the cheapest plan that is found.

    Parameters
    ----------
    given : Given
    first : Way, optional
        To begin with; the usual one where none is given.
    tries : int
        How many plans are tried.
    seed : int
    told : callable, optional
        Is given the number of the try and the best plan so far, after each.
    """
    chance = random.Random(seed)
    best = tried(given, first or usual_way(given))
    for nth in range(1, tries + 1):
        # The usual way is tried too: what was taken weeks ago may do worse by now.
        is_usual = nth == 1 and first is not None
        found = tried(given, usual_way(given) if is_usual else _changed(best.way, given, chance))
        # Work that loses its place is no saving.
        if found.cost.total < best.cost.total and found.cost.missing <= best.cost.missing + 1e-9:
            best = found
        if told:
            told(nth, best)
    return best


def _changed(way: Way, given: Given, chance: random.Random) -> Way:
    kind = chance.random()
    if kind < 0.2 and len(way.jobs) > 1:
        jobs = list(way.jobs)
        a, b = chance.sample(range(len(jobs)), 2)
        jobs[a], jobs[b] = jobs[b], jobs[a]
        return replace(way, jobs=tuple(jobs))
    if kind < 0.45:
        now = (way.habits.patience_steps, way.habits.worth_the_way_h, way.habits.each_h, way.habits.worth_a_day_h)
        patience, worth, each, day = (
            chance.choice(kinds) if chance.random() < 0.5 else one for kinds, one in zip(_HABITS, now, strict=True)
        )
        return replace(way, habits=Habits(int(patience), worth, each, day))
    count = chance.randint(1, max(1, round(_STIRRED_SHARE * len(given.tasks))))
    stirred = {task.id: float(np.exp(chance.gauss(0.0, _STIR))) for task in chance.sample(list(given.tasks), count)}
    return replace(way, pressing={**way.pressing, **stirred})


def soonest_ends(tasks: Sequence[CrewTask], count: int) -> dict[str, int]:
    """Return by job the step before which it cannot end, however many painters and machines there were.

    Each piece of work begins as soon as what it waits for lets it and its hours are permitted through, with all the hands that may
    work at it. Where one can never be placed the job is not in it.

    Parameters
    ----------
    tasks : sequence of CrewTask
        Each behind those that it waits for.
    count : int
        Steps of the plan.
    """
    ends: dict[str, int | None] = {}
    for task in tasks:
        ends[task.id] = _soonest_end(task, ends, count)
    by_job: dict[str, int] = {}
    for job in {task.job for task in tasks}:
        own = [ends[task.id] for task in tasks if task.job == job]
        placed = [end for end in own if end is not None]
        if len(placed) == len(own):
            by_job[job] = max(placed)
    return by_job


def _soonest_end(task: CrewTask, ends: Mapping[str, int | None], count: int) -> int | None:
    ready = task.release
    for after in task.after:
        end = ends.get(after.task)
        if end is None:
            return None
        ready = max(ready, end if after.ready_at is None else max(end, int(after.ready_at[min(end, len(after.ready_at) - 1)])))
    length = max(1, int(np.ceil(task.hours / task.crew[1] / STEP_H - 1e-6)))
    shut = np.concatenate([[0], np.cumsum(~task.may, dtype=np.int64)])
    last = min(count, len(task.may)) - length
    if ready > last:
        return None
    starts = np.arange(ready, last + 1)
    fits = np.flatnonzero(shut[starts + length] == shut[starts])
    return int(starts[fits[0]]) + length if len(fits) else None
