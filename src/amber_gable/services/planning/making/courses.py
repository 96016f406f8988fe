"""A plan under several courses of the days that no forecast reaches: the first is worked by, the others say when the job may end.

A function of values, so that it can be computed in a process of its own. Not here: what the plan is made from (crewplan).
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.planning.crew.mend import mended
from amber_gable.core.planning.crew.money import Cost
from amber_gable.core.planning.crew.search import Given, Way, soonest_ends, tried, usual_way
from amber_gable.core.planning.crew.values import CrewTask, Stretch

_DAY = 96


@dataclass(frozen=True)
class Courses:
    """Plans under several courses of the days that no forecast reaches; the first is the one to work by.

    Parameters
    ----------
    plans : list of dict of str to Stretch
    cost : Cost
        Of the first.
    soonest : dict of str to int
        By job the step before which it cannot end, by the weather of the first.
    """

    plans: list[dict[str, Stretch]]
    cost: Cost
    soonest: dict[str, int]


def planned_courses(given: Given, known: int, way: Way | None, courses: int) -> Courses:
    """Return the plans under several courses of the weather.

    Parameters
    ----------
    given : Given
        On more steps than the plan has, so many days more as there are courses.
    known : int
        Steps that the forecast reaches.
    way : Way or None
        How it is dispatched, where a better one than the usual was found.
    courses : int
        How many there are; the first is the one to work by.
    """
    first = turned(given, known, 0)
    best = mended(first, way or usual_way(first), known)
    # The other courses only say when it may end.
    others = [tried(turned(given, known, turn * _DAY), best.way, looks=0).plan for turn in range(1, courses)]
    return Courses([dict(best.plan), *map(dict, others)], best.cost, soonest_ends(first.tasks, given.count))


def turned(given: Given, known: int, skipped: int) -> Given:
    """Return what a plan is made from with some of the days left out that lie just beyond the forecast."""
    count = given.count

    def cut(values: NDArray[Any]) -> NDArray[Any]:
        result: NDArray[Any] = np.concatenate([values[:known], values[known + skipped : count + skipped]])
        return result

    def cut_ready(ready: NDArray[np.integer] | None) -> NDArray[np.integer] | None:
        if ready is None or not skipped:
            return ready
        late = ready[known + skipped : count + skipped + 1] - skipped
        return np.concatenate([ready[:known], late])

    def cut_task(task: CrewTask) -> CrewTask:
        after = tuple(replace(a, ready_at=cut_ready(a.ready_at)) for a in task.after)
        return replace(task, may=cut(task.may), after=after, risk=None if task.risk is None else cut(task.risk))

    return replace(given, tasks=[cut_task(task) for task in given.tasks], works=cut(given.works))
